"""What would make a scene even: bases proposed from what was measured, shown before and after, accepted as one deed."""

from collections.abc import Mapping
from dataclasses import dataclass

from lenskeep.core.base.models import FrameBase, held
from lenskeep.core.even.judged import STILL
from lenskeep.core.even.words import off_words
from lenskeep.core.problems import UserProblem
from lenskeep.store import evenness, frames, scenes
from lenskeep.store.evenness import Need
from lenskeep.store.frames import FrameSummary
from lenskeep.store.scenes import Scene
from lenskeep.studio import basing
from lenskeep.studio.applying import queue_stale
from lenskeep.studio.library import Library

MOST_EV = 1.5
"""A base is changed by at most so much; what needs more is looked at by hand."""
LEAST = (0.05, 2.0, 1.0)
"""Changes below all of these (EV, mired, mDuv) are left away."""
NAMES = ("ev", "mired", "duv")


@dataclass(frozen=True)
class Standing:
    """A frame in its scene. ``off`` is how it stands beside the key frame, bases counted, above nought brighter,
    warmer, more magenta; None where it was not measured. ``then`` is the base that would bring it to the key frame.
    """

    frame: FrameSummary
    is_key: bool
    need: Need | None
    off: tuple[float, float, float] | None
    then: FrameBase | None
    beyond: bool = False

    @property
    def sure(self) -> bool:
        return self.need is not None and self.need.sure

    @property
    def proposed(self) -> bool:
        """Whether another base would be better."""
        return self.then is not None

    @property
    def ticked(self) -> bool:
        """Whether it is proposed without reserve: nothing that is not sure. Where masks are in doubt that is said; what
        is measured hardly hangs on them.
        """
        return self.proposed and self.sure and not self.beyond

    @property
    def doubted(self) -> bool:
        return self.frame.doubt and not self.frame.accepted

    @property
    def words(self) -> str:
        """How it stands."""
        if self.is_key:
            return "the others are held to this one"
        return "not measured yet" if self.off is None else off_words(*self.off)

    @property
    def reservations(self) -> tuple[str, ...]:
        """What speaks against it, or is to be looked at."""
        said = []
        if self.need is not None and not self.need.sure:
            said.append("not sure: too little in common, another light, or too much burnt out")
        if self.doubted:
            said.append("its masks are in doubt")
        if self.beyond:
            said.append(f"needs more than {MOST_EV:g} EV")
        return tuple(said) if self.proposed else ()


def standings(library: Library, scene: Scene) -> list[Standing]:
    """How the frames of a scene with masks stand, in order."""
    own = [f for f in frames.some(library.db, scenes.frame_ids(library.db, [scene.id])) if f.found]
    known = evenness.needs(library.db, scene.id)
    key = next((f for f in own if f.id == scene.key_frame_id), None)
    return [_standing(f, known.get(f.id), key) for f in own]


def _standing(frame: FrameSummary, need: Need | None, key: FrameSummary | None) -> Standing:
    if key is None or need is None:
        return Standing(frame, False, None, None, None)
    if frame.id == key.id:
        return Standing(frame, True, need, (0.0, 0.0, 0.0), None)
    own, held_to = _values(frame.own_base), _values(key.own_base)
    wanted = [k + n for k, n in zip(held_to, need.values, strict=True)]
    off = tuple(o - w for o, w in zip(own, wanted, strict=True))
    ev = min(max(wanted[0], -MOST_EV), MOST_EV)
    values = dict(zip(NAMES, (ev, wanted[1], wanted[2]), strict=True))
    then = frame.own_base.model_copy(update={name: held(name, value) for name, value in values.items()})
    changes = [abs(a - b) for a, b in zip(_values(then), own, strict=True)]
    better = any(change >= least for change, least in zip(changes, LEAST, strict=True))
    return Standing(frame, False, need, (off[0], off[1], off[2]), then if better else None, abs(wanted[0]) > MOST_EV)


def _values(base: FrameBase) -> tuple[float, float, float]:
    return base.ev, base.mired, base.duv


def is_off(standing: Standing) -> bool:
    """Whether a frame stands outside of what counts as even."""
    return standing.off is not None and any(abs(v) >= s for v, s in zip(standing.off, STILL, strict=True))


def accept(library: Library, scene: Scene, bases: Mapping[int, FrameBase]) -> int | None:
    """Give frames of a scene the bases that were accepted, as one deed; returns the job that makes their pictures, None
    where none changes. Raises UserProblem where there is nothing to accept, or a frame is in another scene by now.
    """
    if not bases:
        raise UserProblem("Tick the frames to be changed first.")
    inside = set(scenes.frame_ids(library.db, [scene.id]))
    if not set(bases) <= inside:
        raise UserProblem("Some of these frames are in another scene by now. Reload the page.")
    count = "1 frame" if len(bases) == 1 else f"{len(bases)} frames"
    with library.db.writing():
        changed = basing.set_bases(library, scene.shoot_id, dict(bases), f"evening out {count} of {scene.name}")
        return queue_stale(library, scene.shoot_id, changed)

"""What can be done to any number of frames of a shoot at once, each as one deed that is undone in one step."""

from collections.abc import Callable, Collection
from typing import Annotated, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from lenskeep.core.base.curve import Curve
from lenskeep.core.base.models import AS_IT_CAME, FrameBase, held
from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.models import Strength
from lenskeep.core.recipes.overrides import FrameOverride
from lenskeep.core.repairs.models import NONE
from lenskeep.core.scenes.signature import apart, unpacked
from lenskeep.store import deeds as kept
from lenskeep.store import findings, frames, scenes, walls
from lenskeep.store.frames import FrameRow
from lenskeep.studio import balancing, basing, deeds, looks, placing, turning
from lenskeep.studio.library import Library

MOST_MEASURED = 12
"""Frames that are balanced by measure while the page waits; more are measured as a job."""
ALIKE = 0.35
"""Hellinger distance of what is around the subject up to which frames are like each other."""


class _Done(BaseModel):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class SetBase(_Done):
    """Values of the base, set on each frame or ``added`` to what each has."""

    what: Literal["base"]
    values: dict[str, float] = Field(min_length=1)
    added: bool = False


class ByMeasure(_Done):
    what: Literal["measure"]


class AsTheyCame(_Done):
    what: Literal["came"]


class SetStrength(_Done):
    what: Literal["strength"]
    strength: Strength


class KeepLook(_Done):
    """Back to the scene's look: what frames changed of it goes."""

    what: Literal["look"]


class Accept(_Done):
    what: Literal["accept"]
    accepted: bool = True


class Rate(_Done):
    what: Literal["rate"]
    rating: int = Field(ge=0, le=5)


class Reject(_Done):
    what: Literal["reject"]
    rejected: bool = True


class Turn(_Done):
    """By so many quarters clockwise."""

    what: Literal["turn"]
    by: Literal[-1, 1, 2]


class Move(_Done):
    what: Literal["move"]
    scene: int


class NewScene(_Done):
    """A scene of their own, maybe with another recipe at a strength."""

    what: Literal["new-scene"]
    version: int | None = None
    strength: Strength = 1.0


class Paste(_Done):
    """What one frame has: its base, the repairs of its masks, what it changes of the look, its clean-up."""

    what: Literal["paste"]
    source: int
    base: bool = False
    repairs: bool = False
    look: bool = False
    clean: bool = False


Doing = Annotated[
    SetBase | ByMeasure | AsTheyCame | SetStrength | KeepLook | Accept | Rate | Reject | Turn | Move | NewScene | Paste,
    Field(discriminator="what"),
]


def do(library: Library, shoot_id: int, frame_ids: Collection[int], doing: Doing) -> str:
    """Do something to frames of a shoot; says in words what was done. Raises UserProblem, and then nothing changes."""
    own = frames.some(library.db, frame_ids)
    if not own or any(f.shoot_id != shoot_id for f in own):
        raise UserProblem("These frames are not in this shoot any more. Reload the page.")
    ids = [f.id for f in own]
    count = "1 frame" if len(ids) == 1 else f"{len(ids):,} frames"
    if isinstance(doing, Move):
        placing.move(library, ids, doing.scene)
    elif isinstance(doing, NewScene):
        _new_scene(library, shoot_id, ids, doing)
    elif isinstance(doing, Turn):
        return _turn(library, shoot_id, own, doing, count)
    elif isinstance(doing, Accept | Rate | Reject):
        return _mark(library, shoot_id, ids, doing, count)
    elif isinstance(doing, ByMeasure) and len(ids) > MOST_MEASURED:
        balancing.queue(library, shoot_id, ids)
        return f"{count} are being measured; then they change together, and Undo takes all of it back."
    else:
        _change(library, shoot_id, ids, doing, count)
    last = kept.last_done(library.db, shoot_id)
    return f"Done: {last.words}." if last else f"{count} changed."


def _mark(library: Library, shoot_id: int, ids: list[int], doing: Accept | Rate | Reject, count: str) -> str:
    if isinstance(doing, Accept):
        name, value = "accepted", int(doing.accepted)
        words = f"accepting {count}" if doing.accepted else f"doubting {count} again"
    elif isinstance(doing, Rate):
        name, value, words = "rating", doing.rating, f"rating {count} {doing.rating}"
    else:
        name, value = "rejected", int(doing.rejected)
        words = f"rejecting {count}" if doing.rejected else f"taking {count} back in"
    with deeds.doing(library, shoot_id, words, ids):
        kept.set_column(library.db, name, value, ids)
    return f"Done: {words}."


def _turn(library: Library, shoot_id: int, own: list[frames.FrameSummary], doing: Turn, count: str) -> str:
    words = f"turning {count}"
    with deeds.doing(library, shoot_id, words, [f.id for f in own]):
        repaired = [f.id for f in frames.with_overrides(library.db, [f.id for f in own]) if f.override.repairs.done]
        deeds.change_overrides(library, [f.id for f in own], lambda f: _turned(f.override, doing.by))
        turned = turning.turn(library, shoot_id, {f.id: (f.turn + doing.by) % 4 for f in own})
    turning.turn_thumbs(library, turned)
    lost = f" {len(repaired)} had repaired masks: these repairs are taken back; Undo brings them." if repaired else ""
    return f"Done: {words}. Their masks are found anew.{lost}"


def _turned(own: FrameOverride, quarters: int) -> FrameOverride:
    """Masks are found anew, so their repairs go; marks that were cleaned up lie where they lay."""
    return own.model_copy(update={"repairs": NONE, "clean": own.clean.turned(quarters)})


def _change(library: Library, shoot_id: int, ids: list[int], doing: Doing, count: str) -> None:
    """What frames change of themselves, and their pictures."""
    to, words = _changed(library, ids, doing, count)
    deeds.change_repaired(library, shoot_id, ids, words, to)


def _changed(
    library: Library, ids: list[int], doing: Doing, count: str
) -> tuple[Callable[[FrameRow], FrameOverride], str]:
    if isinstance(doing, SetBase):
        basing.check(doing.values)
        return _based(library, lambda frame: _with_values(frame.override.base, doing)), f"the base of {count}"
    if isinstance(doing, ByMeasure):
        found = {f.id: basing.measured(library, f) for f in frames.some(library.db, ids)}
        return _based(library, lambda frame: found.get(frame.id, frame.override.base)), f"balancing {count} by measure"
    if isinstance(doing, AsTheyCame):
        return _based(library, lambda _: AS_IT_CAME), f"taking the base of {count} back"
    if isinstance(doing, SetStrength):
        strength = doing.strength
        words = f"the look’s strength on {count}"
        return (lambda frame: frame.override.model_copy(update={"strength": strength})), words
    if isinstance(doing, KeepLook):
        return (lambda frame: frame.override.with_look_kept()), f"the scene’s look on {count}"
    assert isinstance(doing, Paste)
    source = frames.frame(library.db, doing.source)
    if source is None:
        raise UserProblem("The frame that was copied is no longer in the library.")
    if not (doing.base or doing.repairs or doing.look or doing.clean):
        raise UserProblem("Tick what should be pasted: base, repairs, clean-up, or changes of the look.")
    return (lambda frame: _pasted(frame.override, source.override, doing)), f"pasting onto {count}"


def _based(library: Library, to: Callable[[FrameRow], FrameBase]) -> Callable[[FrameRow], FrameOverride]:
    curves: dict[int, Curve] = {}

    def based(frame: FrameRow) -> FrameOverride:
        if frame.shoot_id not in curves:
            curves[frame.shoot_id] = basing.curve_of(library, frame.shoot_id)
        return frame.override.with_base(to(frame).model_copy(update={"curve": curves[frame.shoot_id]}).held())

    return based


def _with_values(base: FrameBase, doing: SetBase) -> FrameBase:
    added = {name: held(name, getattr(base, name) + value) for name, value in doing.values.items()}
    return base.model_copy(update=added if doing.added else doing.values)


def _pasted(own: FrameOverride, source: FrameOverride, doing: Paste) -> FrameOverride:
    taken: dict[str, object] = {}
    if doing.base:
        taken["base"] = source.base
    if doing.repairs:
        taken["repairs"] = source.repairs
    if doing.clean:
        taken["clean"] = source.clean
    if doing.look:
        taken |= {name: getattr(source, name) for name in ("strength", "layers", "groups", "steps", "own")}
    return own.model_copy(update=taken)


def _new_scene(library: Library, shoot_id: int, ids: list[int], doing: NewScene) -> None:
    with library.db.writing():
        made = placing.new_scene(library, shoot_id, ids)
        if doing.version is not None:
            looks.give_look(library, shoot_id, doing.version, doing.strength, scene_ids=[made])


def ordered_ids(library: Library, shoot_id: int, show: str = "all") -> list[tuple[int, list[int]]]:
    """(scene, its frames in order) of a shoot as the wall shows them, to select among those that are not there yet."""
    by_scene: dict[int, list[int]] = {s.id: [] for s in scenes.shown(library.db, shoot_id)}
    for frame_id, scene_id in walls.ids_by_scene(library.db, shoot_id, show):
        by_scene.setdefault(scene_id, []).append(frame_id)
    return list(by_scene.items())


def like(library: Library, frame_id: int) -> list[int]:
    """The frames of the same shoot whose surroundings look like this one's, itself among them."""
    frame = frames.summary(library.db, frame_id)
    if frame is None:
        raise UserProblem("This frame is no longer in the library.")
    own = findings.sights(library.db, frame.shoot_id)
    if frame_id not in own:
        return [frame_id]
    mine = unpacked(own[frame_id][0])
    stack = np.array([unpacked(body) for body, _ in own.values()])
    ids = list(own)
    return [i for i, other in zip(ids, stack, strict=True) if i == frame_id or apart(mine, other) <= ALIKE]

"""How even a shoot's scenes are."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from lenskeep.core.even.described import PARTS, SIDE, Described, described
from lenskeep.core.even.judged import Judged, central, combined, witnessed
from lenskeep.core.problems import UserProblem
from lenskeep.core.types import Alpha
from lenskeep.files.masks import read_mask
from lenskeep.files.working import read_working
from lenskeep.store import frames, scenes
from lenskeep.store.frames import FrameSummary
from lenskeep.studio import basing
from lenskeep.studio.library import Library
from lenskeep.studio.tasks.frame_files import smaller

NO_FRAMES = "No frame of this shoot has masks yet. Find them first: lenskeep find SHOOT."
MOST_AT_ONCE = 240
"""Frames of a scene that are judged together; a longer scene would need more memory than a small machine has."""


@dataclass(frozen=True)
class FoundScene:
    """Frames that belong together, in order; ``bursts`` holds those of a burst by their ids, two or more each, ``key``
    is the key frame that was chosen among them, if there is one.
    """

    id: int
    name: str
    frames: tuple[FrameSummary, ...]
    bursts: tuple[tuple[int, ...], ...]
    key: FrameSummary | None = None


@dataclass(frozen=True)
class Needed:
    """What a frame needs to meet its scene's key frame, which needs nothing."""

    frame: FrameSummary
    judged: Judged
    is_key: bool


def found_scenes(library: Library, shoot_id: int) -> list[FoundScene]:
    """The scenes that have frames, in order, with those that have masks. Raises UserProblem without any."""
    rows = [f for f in frames.summaries(library.db, shoot_id) if f.found]
    if not rows:
        raise UserProblem(NO_FRAMES)
    out = []
    for scene in scenes.shown(library.db, shoot_id):
        own = tuple(f for f in rows if f.scene_id == scene.id)
        numbers = dict.fromkeys(f.burst for f in own if f.burst)
        bursts = tuple(tuple(f.id for f in own if f.burst == number) for number in numbers)
        key = next((f for f in own if f.id == scene.key_frame_id), None)
        out.append(FoundScene(scene.id, scene.name, own, bursts, key))
    return out


def evenness(library: Library, scene: FoundScene, told: Callable[[float], None] = lambda _: None) -> list[Needed]:
    """What each frame of a scene needs to meet its key frame, or, where none was chosen, the one in the middle of what
    is sure. Raises UserProblem for a scene that is too long.
    """
    if len(scene.frames) > MOST_AT_ONCE:
        raise UserProblem(f"{scene.name} has {len(scene.frames)} frames; at most {MOST_AT_ONCE} are judged together.")
    looked = [_described(library, frame) for frame in scene.frames]
    burnt = np.array([one.burnt_share for one in looked])
    chosen = scene.frames.index(scene.key) if scene.key else None
    said = witnessed(looked, chosen or 0, told)
    key = central(said, burnt) if chosen is None else chosen
    needs = combined(said, burnt, key)
    return [Needed(f, j, i == key) for i, (f, j) in enumerate(zip(scene.frames, needs, strict=True))]


def _described(library: Library, frame: FrameSummary) -> Described:
    computed = library.computed(frame.content, frame.found_by)
    names = [name for name in ("sky", *frame.areas.split()) if name in PARTS]
    picture = smaller(read_working(computed.working), SIDE)
    curve = None if frame.raw_base else basing.curve_of(library, frame.shoot_id)
    return described(picture, {name: _mask(library, frame, name) for name in names}, curve)


def _mask(library: Library, frame: FrameSummary, name: str) -> Alpha:
    mask = read_mask(library.computed(frame.content, frame.found_by).mask(name))
    return np.asarray(mask, np.float32) / np.float32(255.0)

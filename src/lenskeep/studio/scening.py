"""The scenes and bursts of a shoot as they are found from its frames, and how even each scene is."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from itertools import groupby

import numpy as np

from lenskeep.core.even.described import PARTS, SIDE, Described, described
from lenskeep.core.even.judged import Judged, central, combined, witnessed
from lenskeep.core.problems import UserProblem
from lenskeep.core.scenes.cutting import Seen, bursts_of, scene_name, scenes_of
from lenskeep.core.scenes.signature import signature
from lenskeep.core.types import Alpha
from lenskeep.files.masks import read_mask
from lenskeep.files.reading.photo import read_photo
from lenskeep.files.working import read_working
from lenskeep.store import frames, scenes
from lenskeep.store.frames import FrameSummary
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
    """In order of time; frames whose masks are not found yet belong to none. Raises UserProblem without any."""
    rows = [f for f in frames.summaries(library.db, shoot_id) if f.found]
    if not rows:
        raise UserProblem(NO_FRAMES)
    seen = [Seen(_seconds(row.taken_at), _signature(library, row)) for row in rows]
    numbers, bursts = scenes_of(seen), bursts_of(seen)
    chosen = {scene.key_frame_id for scene in scenes.scenes(library.db, shoot_id)}
    out = []
    for number, group in groupby(range(len(rows)), key=numbers.__getitem__):
        own = list(group)
        together = [tuple(rows[i].id for i in burst) for _, burst in groupby(own, key=bursts.__getitem__)]
        members = tuple(rows[i] for i in own)
        name = scene_name(number + 1, members[0].taken_at)
        key = next((f for f in members if f.id in chosen), None)
        out.append(FoundScene(name, members, tuple(b for b in together if len(b) > 1), key))
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
    return described(picture, {name: _mask(library, frame, name) for name in names})


def _signature(library: Library, frame: FrameSummary) -> np.ndarray:
    computed = library.computed(frame.content, frame.found_by)
    thumb = read_photo(computed.thumb)
    return signature(thumb.rows(0, thumb.height), _mask(library, frame, "subject"))


def _mask(library: Library, frame: FrameSummary, name: str) -> Alpha:
    mask = read_mask(library.computed(frame.content, frame.found_by).mask(name))
    return np.asarray(mask, np.float32) / np.float32(255.0)


def _seconds(taken_at: str | None) -> float | None:
    return datetime.fromisoformat(taken_at).timestamp() if taken_at else None

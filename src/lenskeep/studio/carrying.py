"""A frame's repairs offered to the other frames of its burst: shown on each, and taken over one by one."""

from collections.abc import Collection
from dataclasses import dataclass

import cv2
import numpy as np

from lenskeep.core.engine.planes import smaller
from lenskeep.core.problems import UserProblem
from lenskeep.core.regions.base import Found
from lenskeep.core.regions.contours import tinted
from lenskeep.core.repairs.carried import carried
from lenskeep.core.repairs.models import MOST, NONE, Repair
from lenskeep.core.types import SRGB8, Alpha
from lenskeep.files.reading.photo import to_srgb8
from lenskeep.files.writing.jpeg import preview_jpeg
from lenskeep.store import walls
from lenskeep.store.frames import FrameRow, FrameSummary
from lenskeep.studio import repairing
from lenskeep.studio.applying import frame_there
from lenskeep.studio.find import BURST_SECONDS
from lenskeep.studio.library import Library
from lenskeep.studio.times import seconds_of

MOST_OFFERED = 24
SHOWN_SIDE, SHOWN_QUALITY = 480, 88
TINT = (216, 27, 96)


@dataclass(frozen=True)
class Offer:
    """A frame of the burst: ``taken`` when it has these repairs already, ``others`` when it has some of its own."""

    frame: FrameSummary
    seconds: float
    taken: bool
    others: bool


def burst(library: Library, frame: FrameRow) -> list[tuple[FrameSummary, float]]:
    """The frames with masks that were taken within ``BURST_SECONDS`` of one, the nearest first, with the seconds
    between; none where its time is unknown.
    """
    when = seconds_of(frame.taken_at)
    if when is None:
        return []
    rows = walls.found_around(library.db, frame, MOST_OFFERED)
    near = [(f, t - when) for f in rows if (t := seconds_of(f.taken_at)) is not None and abs(t - when) <= BURST_SECONDS]
    return sorted(near, key=lambda one: (abs(one[1]), one[0].id))[:MOST_OFFERED]


def offers(library: Library, frame_id: int) -> list[Offer]:
    """What can be offered, in the order it was taken. Raises UserProblem without a repair."""
    frame = frame_there(library, frame_id)
    if not frame.override.repairs.done:
        raise UserProblem("Nothing is repaired on this frame yet. Repair a mask, then carry it to the burst.")
    out = []
    for summary, seconds in burst(library, frame):
        other = frame_there(library, summary.id)
        own = other.override.repairs.done
        taken = bool(own) and _has(own, _moved(library, frame, other))
        out.append(Offer(summary, seconds, taken, bool(own) and not taken))
    return sorted(out, key=lambda one: (one.seconds, one.frame.id))


def take_over(library: Library, frame_id: int, other_id: int) -> FrameRow:
    """Add one frame's repairs, moved, to another frame's. Raises UserProblem."""
    frame, other = frame_there(library, frame_id), frame_there(library, other_id)
    moved = _moved(library, frame, other)
    if not moved:
        raise UserProblem("None of these repairs lies on that frame. Repair it by itself.")
    if len(other.override.repairs.done) + len(moved) > MOST:
        raise UserProblem("That frame has as many repairs as it can hold. Take some back first.")
    return repairing.change(library, other, lambda r: r.with_all(moved))


def picture(library: Library, frame_id: int, other_id: int, mask: str, with_repairs: bool) -> bytes:
    """The other frame as a small JPEG with one mask tinted: as it is now, or with the repairs it is offered."""
    frame, other = frame_there(library, frame_id), frame_there(library, other_id)
    own = other.override.repairs
    if with_repairs:
        moved = _moved(library, frame, other)
        own = own if _has(own.done, moved) else own.with_all(moved)
    found = repairing.found_on(library, other, own)
    return preview_jpeg(outlined(found, found.mask(mask)), SHOWN_QUALITY)


def outlined(found: Found, mask: Alpha) -> SRGB8:
    """The untouched picture, small, under a mask's tint and its line."""
    image = tinted(to_srgb8(smaller(found.picture, SHOWN_SIDE)), mask, TINT)
    inside = (cv2.resize(mask, image.shape[1::-1], interpolation=cv2.INTER_AREA) > 0.5).astype(np.uint8)
    image[cv2.morphologyEx(inside, cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8)) > 0] = TINT
    return image


def _has(own: Collection[Repair], moved: Collection[Repair]) -> bool:
    """Whether a frame took over these repairs already."""
    return bool(moved) and all(one in own for one in moved)


def _moved(library: Library, frame: FrameRow, other: FrameRow) -> tuple[Repair, ...]:
    """One frame's repairs as another one needs them."""
    source, target = (repairing.found_on(library, each, NONE) for each in (frame, other))
    return tuple(carried(frame.override.repairs.done, source, target))

"""A repair brought from one frame to another that was taken just before or after: moved as what it lies on moved.

Points near the repair are followed from frame to frame (Shi & Tomasi 1994; Lucas & Kanade 1981 on pyramids, forth and
back) and make one shift, turn and scale (RANSAC). Where too few agree, the boxes of the two subjects say how it moved.
"""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

import cv2
import numpy as np

from lenskeep.core.facts import Box
from lenskeep.core.regions.base import Found
from lenskeep.core.repairs.applied import shown
from lenskeep.core.repairs.models import Clicked, Emptied, Gap, Painted, Repair, Swept, Traced
from lenskeep.core.types import Float

Point = tuple[float, float]
MOST_POINTS, QUALITY, APART = 300, 0.01, 5.0
WINDOW, LEVELS = 21, 4
RETURNS = 1.5
"""A point is lost that does not come back to within this many pixels when it is followed back again."""
LEAST_FOLLOWED, LEAST_SHARE, FAR = 12, 0.5, 3.0
SCALES = (0.5, 2.0)
AROUND, LEAST_ROOM = 0.5, 0.12
"""How far around a repair points are taken: a share of its own box, and a share of the frame's long side at least."""


@dataclass(frozen=True)
class Movement:
    """From places of one frame to those of another, both in pixels of its own proxy: ``matrix`` (2, 3). ``followed``
    where points agreed on it, not only boxes.
    """

    matrix: Float
    followed: bool

    @property
    def scale(self) -> float:
        return float(np.hypot(self.matrix[0, 0], self.matrix[1, 0]))


def carried(repairs: Iterable[Repair], source: Found, target: Found) -> Iterator[Repair]:
    """The repairs as the other frame needs them: places moved, brushes scaled and kept to edges, outlines brought to
    them. One that would lie outside of the frame is left away.
    """
    for one in repairs:
        if isinstance(one, Emptied):
            yield one
            continue
        places = [(one.x, one.y)] if isinstance(one, Clicked | Gap) else one.points
        move = movement(source, target, np.array(places, np.float32))
        moved = _moved(places, move, source, target)
        if not _within(moved):
            continue
        if isinstance(one, Clicked | Gap):
            yield one.model_copy(update={"x": moved[0][0], "y": moved[0][1]})
        elif isinstance(one, Painted):
            size = one.size * move.scale * source.long_side / target.long_side
            yield one.model_copy(update={"points": moved, "size": min(max(size, 1e-3), 1.0), "edge_aware": True})
        elif isinstance(one, Swept):
            yield one.model_copy(update={"points": moved})
        else:
            yield Traced(mask=one.mask, away=one.away, points=moved)


def movement(source: Found, target: Found, places: Float) -> Movement:
    """How what lies around ``places`` (n, 2), 0…1 of the source, moved."""
    boxes = _by_boxes(source, target)
    followed = _followed(source, target, places, boxes)
    return Movement(boxes, False) if followed is None else Movement(followed, True)


def _by_boxes(source: Found, target: Found) -> Float:
    """From one subject's box to the other's, its size by their heights; places stay what they are without boxes."""
    (h0, w0), (h1, w1) = source.shape, target.shape
    a, b = source.facts.subject_box, target.facts.subject_box
    if a is None or b is None:
        return np.array([[w1 / w0, 0, 0], [0, h1 / h0, 0]], np.float32)
    scale = float(np.clip(_tall(b, target) / max(_tall(a, source), 1e-6), *SCALES))
    (ax, ay), (bx, by) = a.middle, b.middle
    return np.array([[scale, 0, bx * w1 - scale * ax * w0], [0, scale, by * h1 - scale * ay * h0]], np.float32)


def _tall(box: Box, found: Found) -> float:
    return float(np.sqrt(box.width * found.shape[1] * box.height * found.shape[0]))


def _followed(source: Found, target: Found, places: Float, first: Float) -> Float | None:
    """The movement (2, 3) that points near the places agree on; None where too few do, or one frame is upright and the
    other is not.
    """
    if source.shape != target.shape:
        return None
    grey = [cv2.cvtColor(shown(f.picture), cv2.COLOR_RGB2GRAY) for f in (source, target)]
    h, w = source.shape
    low, high = places.min(0) * [w, h], places.max(0) * [w, h]
    room = np.maximum(AROUND * (high - low), LEAST_ROOM * source.long_side)
    (x0, y0), (x1, y1) = np.maximum(low - room, 0).astype(int), np.ceil(high + room).astype(int)
    near = np.zeros(grey[0].shape, np.uint8)
    near[y0:y1, x0:x1] = 255
    corners = cv2.goodFeaturesToTrack(grey[0], MOST_POINTS, QUALITY, APART, mask=near)
    if corners is None or len(corners) < LEAST_FOLLOWED:
        return None
    points = np.asarray(corners, np.float32)
    guess = np.asarray(cv2.transform(points, first), np.float32)
    there, ok = _flow(grey[0], grey[1], points, guess)
    back, ok_back = _flow(grey[1], grey[0], there, points.copy())
    away = np.linalg.norm(back - points, axis=2).ravel()
    kept = ok & ok_back & (away < RETURNS)
    if kept.sum() < LEAST_FOLLOWED:
        return None
    matrix, inliers = cv2.estimateAffinePartial2D(points[kept], there[kept], ransacReprojThreshold=FAR)
    if matrix is None or inliers.sum() < max(LEAST_FOLLOWED, LEAST_SHARE * kept.sum()):
        return None
    scale = float(np.hypot(matrix[0, 0], matrix[1, 0]))
    return np.asarray(matrix, np.float32) if SCALES[0] <= scale <= SCALES[1] else None


def _flow(first: np.ndarray, second: np.ndarray, points: Float, guess: Float) -> tuple[Float, np.ndarray]:
    """Where points (n, 1, 2) of one grey picture are on another, and which were followed (n,)."""
    there, status, _ = cv2.calcOpticalFlowPyrLK(
        first, second, points, guess, winSize=(WINDOW, WINDOW), maxLevel=LEVELS, flags=cv2.OPTFLOW_USE_INITIAL_FLOW
    )
    return np.asarray(there, np.float32), np.asarray(status).ravel() > 0


def _moved(places: list[Point], move: Movement, source: Found, target: Found) -> list[Point]:
    (h0, w0), (h1, w1) = source.shape, target.shape
    pixels = np.array(places, np.float32)[None] * np.array([w0, h0], np.float32)
    there = cv2.transform(pixels, move.matrix)[0] / np.array([w1, h1], np.float32)
    return [(round(float(x), 4), round(float(y), 4)) for x, y in there]


def _within(places: list[Point]) -> bool:
    """Whether a repair still lies on the frame, and no part of it further out than a stroke may go."""
    at = np.array(places)
    if len(at) == 1:
        return bool(((at >= 0) & (at <= 1)).all())
    return bool(((at >= 0) & (at <= 1)).all(1).any() and ((at >= -0.5) & (at <= 1.5)).all())

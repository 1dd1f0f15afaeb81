"""Palms: MediaPipe's palm finder (Zhang et al. 2020, "MediaPipe Hands"; weights Apache-2.0), on the frame and closer on
what saliency saw. Asked only where nobody is seen whole: hands of whole people are theirs.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np

from lenskeep.core.detect.beings import SALIENT, Being
from lenskeep.core.detect.boxes import NEAR, longer, within
from lenskeep.core.detect.tensors import numbers_and_scores
from lenskeep.core.facts import Face
from lenskeep.core.types import SRGB8, Alpha, Float, GraphNetwork

SIDE, NUMBERS = 192, 18
LEVELS = ((24, 2), (12, 6))
"""Cells across, and anchors a cell: the network looks for palms on two levels."""
LEAST_SCORE = 0.6
LOOKS = (1.0, 1.4, 2.0)
"""Sides of closer looks in longer sides of the piece they are at: at a hand, and beside what somebody holds."""
MOST_PIECES, LEAST_PIECE = 2, 0.003
"""How many pieces are looked at, and what share of the frame they have at least."""
ON_PIECE, TOUCHES = 0.6, 0.1
"""Shares of a palm: what lies on the piece whose hand it is, and from what on it has to do with one."""
APART = 1.2
"""Two palms lie farther from each other than so many lengths of the larger one."""
RIM, ENTERS = 3, 0.2
"""Pixels along the frame's edge, and the least cosine between an arm and the way to where it enters the frame."""
LARGE_PALM = 0.1
"""Length of a palm in longer sides of the box around an arm; that of somebody who is seen whole is shorter."""
PALM_MARKS = 5
"""The first marks are the wrist and the knuckles; the thumb's two follow."""


@dataclass(frozen=True)
class Palm:
    """How sure the finder is, 0…1, and the marks (7, 2) as x, y in pixels: wrist, four knuckles, thumb's two joints."""

    score: float
    marks: Float

    @property
    def middle(self) -> Float:
        return np.asarray(self.marks[:PALM_MARKS].mean(0), np.float32)

    @property
    def size(self) -> float:
        """From the wrist to the middle knuckle, in pixels."""
        return float(np.linalg.norm(self.marks[2] - self.marks[0]))

    @property
    def arm(self) -> Float:
        """The way from the fingers to the arm, of length 1."""
        way = self.marks[0] - self.marks[1:PALM_MARKS].mean(0)
        return np.asarray(way / max(float(np.linalg.norm(way)), 1e-6), np.float32)

    def hull(self, shape: tuple[int, ...]) -> np.ndarray:
        """Where wrist and knuckles are the corners, (h, w) of True and False."""
        out = np.zeros(shape[:2], np.uint8)
        cv2.fillConvexPoly(out, cv2.convexHull(np.rint(self.marks[:PALM_MARKS]).astype(np.int32)), 1)
        return out > 0


def _anchors() -> Float:
    out = []
    for cells, count in LEVELS:
        middles = (np.arange(cells, dtype=np.float32) + 0.5) / cells
        x, y = np.meshgrid(middles, middles)
        out.append(np.repeat(np.stack([x.ravel(), y.ravel()], 1), count, 0))
    return np.concatenate(out)


ANCHORS = _anchors()


def find_palms(image: SRGB8, y0: int, x0: int, side: int, network: GraphNetwork) -> list[Palm]:
    """Palms on a square of (h, w, 3), the surest first. The square may reach over the picture's edges."""
    h, w = image.shape[:2]
    square = np.zeros((side, side, 3), np.uint8)
    top, left = max(y0, 0), max(x0, 0)
    bottom, right = max(top, min(y0 + side, h)), max(left, min(x0 + side, w))
    square[top - y0 : bottom - y0, left - x0 : right - x0] = image[top:bottom, left:right]
    how = cv2.INTER_AREA if side > SIDE else cv2.INTER_LINEAR
    fed = cv2.resize(square, (SIDE, SIDE), interpolation=how)[None].astype(np.float32) / np.float32(255)
    numbers, scores = numbers_and_scores(network.run({"square": fed}), NUMBERS)
    corner = np.array([x0, y0], np.float32)
    found = [
        Palm(float(scores[k]), (numbers[k, 4:].reshape(7, 2) / SIDE + ANCHORS[k]) * side + corner)
        for k in np.flatnonzero(scores >= LEAST_SCORE)
    ]
    return apart(found)


def apart(found: Sequence[Palm]) -> list[Palm]:
    """The surest of those in one place, the surest first."""
    out: list[Palm] = []
    for palm in sorted(found, key=lambda p: -p.score):
        if all(np.linalg.norm(palm.middle - o.middle) > APART * max(palm.size, o.size) for o in out):
            out.append(palm)
    return out


def find_hands(
    image: SRGB8, base: Alpha, beings: Sequence[Being], faces: Sequence[Face], network: GraphNetwork
) -> list[Palm]:
    """Palms of those of whom only hands are seen, on (h, w, 3) whose subject ``base`` saliency found, the surest first.

    None where somebody is seen whole or has a face; an animal's paws and face are none.
    """
    if faces or any(b.whole for b in beings):
        return []
    h, w = base.shape
    side = max(h, w)
    found = find_palms(image, (h - side) // 2, (w - side) // 2, side, network)
    left = base > 0.5
    beasts = [within(b.box, base.shape, NEAR) for b in beings if _beast(b)]
    for box in beasts:
        left[box] = False
    found = [p for p in found if not _in_any(p, beasts)]
    count, labels, stats, _ = cv2.connectedComponentsWithStats(left.astype(np.uint8), connectivity=8)
    order = sorted(range(1, count), key=lambda k: -stats[k, cv2.CC_STAT_AREA])[:MOST_PIECES]
    for k in order:
        x, y, wide, tall, area = (int(v) for v in stats[k])
        if area < LEAST_PIECE * base.size:
            break
        own = labels == k
        found = [p for p in found if _may_be_of(p, own)]
        for look in LOOKS:
            side = max(8, round(look * max(wide, tall)))
            closer = find_palms(image, y + (tall - side) // 2, x + (wide - side) // 2, side, network)
            found += [p for p in closer if not _in_any(p, beasts) and _may_be_of(p, own)]
            if any(lies_on(p, own) for p in found):
                break
    return apart(found)


def without_hands(beings: Sequence[Being], palms: Sequence[Palm]) -> list[Being]:
    """Those that are not hands alone: a palm is a small part of a person, and what saliency did not see is no animal
    where there is a palm.
    """
    return [b for b in beings if b.whole or _beast(b) or not any(_is_of(b, p) for p in palms)]


def _beast(being: Being) -> bool:
    return being.kind == "animal" and being.salient > SALIENT


def _is_of(being: Being, palm: Palm) -> bool:
    inside = bool((being.box[:2] <= palm.middle).all() and (palm.middle <= being.box[2:]).all())
    return inside and palm.size > LARGE_PALM * longer(being.box)


def _in_any(palm: Palm, boxes: Sequence[tuple[slice, slice]]) -> bool:
    x, y = palm.middle
    return any(rows.start <= y < rows.stop and columns.start <= x < columns.stop for rows, columns in boxes)


def lies_on(palm: Palm, own: np.ndarray, part: float = ON_PIECE) -> bool:
    """Whether at least that ``part`` of a palm lies on a piece (h, w) of True and False."""
    inside = palm.hull(own.shape)
    return bool(inside.any() and own[inside].mean() >= part)


def _may_be_of(palm: Palm, own: np.ndarray) -> bool:
    """Whether a palm has nothing to do with a piece, or comes in with it."""
    return not lies_on(palm, own, TOUCHES) or comes_in(palm, own)


def comes_in(palm: Palm, own: np.ndarray) -> bool:
    """Whether its arm comes from where its piece reaches the frame's edge, if that does."""
    count, _, _, middles = cv2.connectedComponentsWithStats(at_edge(own).astype(np.uint8), connectivity=8)
    if count < 2:
        return True
    ways = middles[1:] - palm.middle
    ways /= np.maximum(np.linalg.norm(ways, axis=1, keepdims=True), 1e-6)
    return bool((ways @ palm.arm).max() > ENTERS)


def at_edge(own: np.ndarray) -> np.ndarray:
    """What of (h, w) lies along the frame's edges."""
    rim = np.ones(own.shape, bool)
    rim[RIM:-RIM, RIM:-RIM] = False
    return own & rim

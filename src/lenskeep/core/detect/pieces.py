"""The map of pieces: the subject's objects, and what is around them cut into pieces of one kind and colour.

A click takes a piece. Around the subject, pieces are areas of one ground cover or sky; what is none of these is cut
where colour changes, after mean shift (Comaniciu & Meer 2002).
"""

import cv2
import numpy as np

from lenskeep.core.colour.oklab import measured_oklab
from lenskeep.core.colour.spaces import SRGB_TO_REC2020, through
from lenskeep.core.colour.transfer import DECODE8
from lenskeep.core.detect.edges import enlarged_labels, nearest_label
from lenskeep.core.detect.tensors import resized
from lenskeep.core.engine.planes import most_channel
from lenskeep.core.facts import Box, Piece
from lenskeep.core.types import SRGB8, Alpha, Mask8

SIDE = 240
ROUNDS = 3
"""Of mean shift; more change next to nothing."""
LEAST_AREA = 0.002
MOST = 90
COLOUR_STEP = 5.0
"""Difference of neighbouring pixels after mean shift, in 8-bit steps, over which they belong to different pieces."""


def find_pieces(
    image: SRGB8, objects: Mask8, kinds: list[str], around: dict[str, Alpha], even: np.ndarray
) -> tuple[Mask8, list[Piece]]:
    """(map (h, w) of piece numbers, 0 for none; the pieces). ``objects`` is a map of objects 1, 2, … whose kinds are
    given in order; ``around`` holds the other masks by name; ``even`` is ``evened(image)``.
    """
    size = (even.shape[1], even.shape[0])
    small = resized(image, size[1], size[0])
    labels = cv2.resize(objects, size, interpolation=cv2.INTER_NEAREST).astype(np.int32)
    named = list(kinds)
    for name, mask in around.items():
        own = (cv2.resize(mask, size, interpolation=cv2.INTER_AREA) > 0.5) & (labels == 0)
        _number(own.astype(np.uint8), name, labels, named)
    _number_by_colour(even, labels, named)
    full = enlarged_labels(labels, even, image)
    full = np.where(objects > 0, objects, np.where(np.isin(full, range(1, len(kinds) + 1)), 0, full)).astype(np.uint8)
    return full, _described(small, labels, named)


def _number(own: Mask8, name: str, labels: np.ndarray, named: list[str]) -> None:
    """Give every connected area of ``own`` the next number, the largest first."""
    count, parts, stats, _ = cv2.connectedComponentsWithStats(own, connectivity=4)
    for k in sorted(range(1, count), key=lambda k: -stats[k, cv2.CC_STAT_AREA]):
        if stats[k, cv2.CC_STAT_AREA] < LEAST_AREA * own.size or len(named) >= MOST:
            return
        named.append(name)
        labels[parts == k] = len(named)


def evened(image: SRGB8) -> np.ndarray:
    """The picture at the size pieces are found at, its colours evened out by mean shift, int16."""
    h, w = image.shape[:2]
    scale = min(1.0, SIDE / max(h, w))
    small = resized(image, max(1, round(h * scale)), max(1, round(w * scale)))
    stop = (cv2.TERM_CRITERIA_MAX_ITER + cv2.TERM_CRITERIA_EPS, ROUNDS, 1)
    return np.asarray(cv2.pyrMeanShiftFiltering(small, 8, 18, maxLevel=1, termcrit=stop), np.int16)


def _number_by_colour(even: np.ndarray, labels: np.ndarray, named: list[str]) -> None:
    rest = labels == 0
    calm = rest.copy()
    calm[:, 1:] &= most_channel(np.abs(even[:, 1:] - even[:, :-1])) < COLOUR_STEP
    calm[1:] &= most_channel(np.abs(even[1:] - even[:-1])) < COLOUR_STEP
    before = len(named)
    _number(calm.astype(np.uint8), "area", labels, named)
    if len(named) == before:
        return
    by_colour = np.where(labels > before, labels, 0)
    left_over = rest & (by_colour == 0)
    labels[left_over] = nearest_label(by_colour)[left_over]


def _described(small: SRGB8, labels: np.ndarray, named: list[str]) -> list[Piece]:
    lab = measured_oklab(through(DECODE8[small], SRGB_TO_REC2020))
    h, w = labels.shape
    out = []
    for number, kind in enumerate(named, 1):
        ys, xs = np.nonzero(labels == number)
        if len(ys) == 0:
            continue
        mean = lab[ys, xs].mean(0)
        box = Box(x0=xs.min() / w, y0=ys.min() / h, x1=(xs.max() + 1) / w, y1=(ys.max() + 1) / h)
        colour = (round(float(mean[0]), 4), round(float(mean[1]), 4), round(float(mean[2]), 4))
        out.append(Piece(label=number, kind=kind, box=box, area=round(len(ys) / labels.size, 5), colour=colour))
    return out

"""People and animals as boxes: NanoDet (RangiLyu 2020, weights Apache-2.0, trained on COCO), and reckoning with boxes.

A box is a float array (x0, y0, x1, y1) in pixels of the picture it was found on.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

import cv2
import numpy as np

from lenskeep.core.detect.edges import piece_stats
from lenskeep.core.types import SRGB8, Alpha, Float, GraphNetwork

SIDE = 416
STEPS = np.arange(11, dtype=np.float32)
"""A side's distance is a distribution over these many strides (Li et al. 2020)."""
LEAST, SAME, MOST, LEAST_SIDE = 0.15, 0.5, 24, 6.0
PERSON, TOY, ANIMALS = 0, 77, range(14, 24)
"""COCO's classes: a person, a teddy bear (what furry animals are often called), bird to giraffe."""
MEAN = np.array([103.53, 116.28, 123.675], np.float32)
DEVIATION = np.array([57.375, 57.12, 58.395], np.float32)
NEAR = 0.1
Seen = Literal["person", "toy", "animal"]


@dataclass(frozen=True)
class Detected:
    """A box, how sure the finder is (0…1), and what it takes it for."""

    box: Float
    score: float
    seen: Seen


def find_boxes(image: SRGB8, network: GraphNetwork) -> list[Detected]:
    """People and animals on (h, w, 3), the surest first; of those alike that overlap the surest stays."""
    fed, scale, left, top = letterbox(image)
    out = network.run({"input_1": fed})
    found: list[Detected] = []
    for scores, sides in zip(out[:3], out[3:], strict=True):
        found += _on_level(scores[0], sides[0], scale, left, top)
    return kept(found, *image.shape[:2])


def letterbox(image: SRGB8) -> tuple[Float, float, int, int]:
    """((1, 3, 416, 416) as the network wants it, scale, columns to the left, rows above)."""
    h, w = image.shape[:2]
    scale = SIDE / max(h, w)
    width, height = max(1, round(w * scale)), max(1, round(h * scale))
    left, top = (SIDE - width) // 2, (SIDE - height) // 2
    square = np.full((SIDE, SIDE, 3), 114, np.uint8)
    how = cv2.INTER_AREA if scale < 1 else cv2.INTER_LINEAR
    square[top : top + height, left : left + width] = cv2.resize(image, (width, height), interpolation=how)
    x = (square[..., ::-1].astype(np.float32) - MEAN) / DEVIATION
    return np.ascontiguousarray(x.transpose(2, 0, 1)[None]), scale, left, top


def _on_level(scores: Float, sides: Float, scale: float, left: int, top: int) -> Iterator[Detected]:
    """What one level saw: scores (n², 80), sides (n², 44), a cell's four distances as distributions."""
    across = round(np.sqrt(len(scores)))
    stride = SIDE / across
    wanted = (PERSON, TOY, *ANIMALS)
    for k in np.nonzero(scores[:, wanted].max(1) > LEAST)[0]:
        p = np.exp(sides[k].reshape(4, -1) - sides[k].max())
        away = (p / p.sum(1, keepdims=True)) @ STEPS * stride
        x, y = (k % across + 0.5) * stride - left, (k // across + 0.5) * stride - top
        box = np.array([x - away[0], y - away[1], x + away[2], y + away[3]], np.float32) / np.float32(scale)
        for c in wanted:
            if scores[k, c] > LEAST:
                yield Detected(box, float(scores[k, c]), "person" if c == PERSON else "toy" if c == TOY else "animal")


def kept(found: Sequence[Detected], height: int, width: int) -> list[Detected]:
    """The surest of each sort, held to the frame, none overlapping a surer one of its sort by half."""
    out: list[Detected] = []
    for one in sorted(found, key=lambda f: -f.score):
        box = np.asarray(np.clip(one.box, 0, [width, height, width, height]), np.float32)
        if min(box[2:] - box[:2]) < LEAST_SIDE:
            continue
        if all(o.seen != one.seen or iou(o.box, box) < SAME for o in out):
            out.append(Detected(box, one.score, one.seen))
    return out[:MOST]


def area(box: Float) -> float:
    return float(np.prod(np.maximum(box[2:] - box[:2], 0)))


def overlap(a: Float, b: Float) -> float:
    """Pixels that two boxes share."""
    return area(np.concatenate([np.maximum(a[:2], b[:2]), np.minimum(a[2:], b[2:])]))


def iou(a: Float, b: Float) -> float:
    """Intersection over union of two boxes."""
    both = overlap(a, b)
    return both / max(area(a) + area(b) - both, 1e-9)


def inside(a: Float, b: Float) -> float:
    """Share of a box that another one covers."""
    return overlap(a, b) / max(area(a), 1e-9)


def longer(box: Float) -> float:
    return float(max(box[2:] - box[:2]))


def around(boxes: Sequence[Float]) -> Float:
    """The box around several."""
    return np.concatenate([np.min([b[:2] for b in boxes], 0), np.max([b[2:] for b in boxes], 0)])


def within(box: Float, shape: tuple[int, ...], grow: float) -> tuple[slice, slice]:
    """The rows and columns of a box, grown by a share of its longer side and held to the picture."""
    more = grow * longer(box)
    x0, y0 = (max(0, int(v - more)) for v in box[:2])
    x1, y1 = min(shape[1], int(box[2] + more + 1)), min(shape[0], int(box[3] + more + 1))
    return slice(y0, max(y1, y0 + 1)), slice(x0, max(x1, x0 + 1))


def limited(mask: Alpha, box: Float, grow: float) -> Alpha:
    """The mask inside a grown box, 0 outside."""
    out = np.zeros_like(mask)
    out[within(box, mask.shape, grow)] = mask[within(box, mask.shape, grow)]
    return out


def fits(mask: Alpha, box: Float) -> float:
    """IoU of a box with the one around a mask's larger pieces; 0 for an empty mask."""
    pieces = piece_stats(mask)
    if not len(pieces):
        return 0.0
    areas = pieces[:, cv2.CC_STAT_AREA]
    large = pieces[areas >= 0.05 * areas.max()].astype(np.float32)
    first, last = large[:, :2].min(0), (large[:, :2] + large[:, 2:4]).max(0)
    return iou(np.concatenate([first, last]), box)


def touching(boxes: Sequence[Float]) -> list[list[int]]:
    """Groups of boxes that touch, directly or through others, as lists of their places."""
    left, out = list(range(len(boxes))), []
    while left:
        group = [left.pop(0)]
        for k in group:
            more = NEAR * longer(boxes[k])
            a = np.asarray(boxes[k] + [-more, -more, more, more], np.float32)
            near = [i for i in left if overlap(a, boxes[i]) > 0]
            group += near
            left = [i for i in left if i not in near]
        out.append(group)
    return out

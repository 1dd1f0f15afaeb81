"""Where a stroke lies on a picture, and how a long one is cut into pieces that are healed by themselves."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import cv2
import numpy as np

from lenskeep.core.clean.models import Healed, Mark
from lenskeep.core.types import Alpha

ACROSS, MARGIN, MOST_AROUND = 1.2, 48, 900
"""How far around a mark is looked: its longer side, so many of its shorter ones and a margin, in pixels, within a
limit.
"""
PIECE, OVERLAP = 5.0, 0.5
"""A long stroke is healed in pieces of so many diameters, which overlap."""
WIDE_AS, RUBBED = 8, 0.7
"""How wide a stroke is drawn, in pixels, to see how much of it lies beside itself; less than this share is rubbing."""


@dataclass(frozen=True)
class Box:
    """Rows top … low - 1, columns left … right - 1."""

    top: int
    low: int
    left: int
    right: int

    @property
    def part(self) -> tuple[slice, slice]:
        return slice(self.top, self.low), slice(self.left, self.right)


def box_of(points: Sequence[tuple[float, float]], size: float, h: int, w: int) -> Box | None:
    half = size * max(h, w) / 2.0 + 2.0
    xs, ys = [x * w for x, _ in points], [y * h for _, y in points]
    box = Box(
        max(0, int(min(ys) - half)),
        min(h, int(max(ys) + half) + 1),
        max(0, int(min(xs) - half)),
        min(w, int(max(xs) + half) + 1),
    )
    return box if box.top < box.low and box.left < box.right else None


def pieces(mark: Mark, h: int, w: int) -> list[Sequence[tuple[float, float]]]:
    """A stroke cut where it is much longer than wide; only healing looks for a source of each piece."""
    if not isinstance(mark, Healed) or len(mark.points) < 2:
        return [mark.points]
    long = max(PIECE * mark.size * max(h, w), 24.0)
    dense: list[tuple[float, float]] = [mark.points[0]]
    for (x0, y0), (x1, y1) in pairwise(mark.points):
        far = float(np.hypot((x1 - x0) * w, (y1 - y0) * h))
        steps = max(1, int(np.ceil(far / (long / 8.0))))
        dense += [(x0 + (x1 - x0) * k / steps, y0 + (y1 - y0) * k / steps) for k in range(1, steps + 1)]
    lengths = np.cumsum([0.0, *(float(np.hypot((b[0] - a[0]) * w, (b[1] - a[1]) * h)) for a, b in pairwise(dense))])
    if lengths[-1] <= 1.5 * long or _rubbed(mark, float(lengths[-1]), h, w):
        return [mark.points]
    count = int(np.ceil(lengths[-1] / long))
    ends = np.linspace(0.0, lengths[-1], count + 1)
    reach = OVERLAP * mark.size * max(h, w) / 2.0
    cut = [[p for p, at in zip(dense, lengths, strict=True) if a - reach <= at <= b + reach] for a, b in pairwise(ends)]
    return [points for points in cut if box_of(points, mark.size, h, w)]


def _rubbed(mark: Mark, length: float, h: int, w: int) -> bool:
    """Whether a stroke of this length runs over itself, back and forth over something broad: that is one hole."""
    scale = WIDE_AS / (mark.size * max(h, w))
    line = np.array([[x * w, y * h] for x, y in mark.points]) * scale
    line = np.rint(line - line.min(0) + WIDE_AS).astype(np.int32)
    canvas = np.zeros(line.max(0)[::-1] + WIDE_AS, np.uint8)
    cv2.polylines(canvas, [line[:, None]], False, 1, WIDE_AS)
    return float(np.count_nonzero(canvas)) < RUBBED * (length * scale + WIDE_AS) * WIDE_AS


def stroke_alpha(points: Sequence[tuple[float, float]], mark: Mark, box: Box, h: int, w: int) -> Alpha:
    """How far a stroke covers the pixels of a box, (h, w) 0…1."""
    radius = max(mark.size * max(h, w) / 2.0, 1.0)
    line = np.array([[x * w - 0.5 - box.left, y * h - 0.5 - box.top] for x, y in points], np.float64)
    away = np.full((box.low - box.top, box.right - box.left), np.inf, np.float32)
    rows, columns = (np.arange(n, dtype=np.float32) for n in away.shape)
    for a, b in zip(line, [*line[1:], line[-1]], strict=True):
        d = b - a
        long2 = float(d @ d)
        low, high = np.minimum(a, b) - radius - 2.0, np.maximum(a, b) + radius + 2.0  # further away it covers nothing
        part = tuple(slice(max(0, int(low[k])), max(0, int(np.ceil(high[k])) + 1)) for k in (1, 0))
        y, x = rows[part[0], None], columns[None, part[1]]
        t = np.clip(((x - a[0]) * d[0] + (y - a[1]) * d[1]) / long2, 0.0, 1.0) if long2 > 0 else np.float32(0.0)
        near = np.hypot(x - (a[0] + t * d[0]), y - (a[1] + t * d[1]))
        np.minimum(away[part], near, out=away[part])
    edge = max(mark.soft * radius, 1.0)
    t = np.clip((radius + 0.5 - away) / edge, 0.0, 1.0)
    return np.asarray(t * t * (3.0 - 2.0 * t), np.float32)


def grown(box: Box, far: int, h: int, w: int) -> Box:
    return Box(max(0, box.top - far), min(h, box.low + far), max(0, box.left - far), min(w, box.right + far))


def around(box: Box, h: int, w: int) -> Box:
    sides = sorted((box.low - box.top, box.right - box.left))
    return grown(box, int(min(sides[1] + ACROSS * sides[0] + MARGIN, MOST_AROUND)), h, w)

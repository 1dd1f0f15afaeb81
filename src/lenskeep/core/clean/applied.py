"""Marks done on a picture at full size, one after another, each seeing those before it.

Works in the numbers of the file itself (8 or 16 bits), so that what a mark does not touch stays bit for bit as it came;
linear files are looked at through a root, as the eye would. Only a part around each mark is looked at.
"""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from lenskeep.core.clean.aligned import laid_over
from lenskeep.core.clean.joining import joined, membrane
from lenskeep.core.clean.lifting import busyness, lifted
from lenskeep.core.clean.models import Cloned, Healed, Mark, Uncoloured
from lenskeep.core.clean.sources import MOST_RING, ring_of, sources
from lenskeep.core.types import Alpha, Float

Numbers = NDArray[Any]
"""A picture (h, w, 3) in the numbers of its file: uint8 or uint16."""
Others = Callable[[str], Numbers | None]
"""The pixels of another photograph by its content, None where it is gone."""
ACROSS, MARGIN, MOST_AROUND = 1.2, 48, 900
"""How far around a mark is looked: its longer side, so many of its shorter ones and a margin, in pixels, within a
limit.
"""
PIECE, OVERLAP = 5.0, 0.5
"""A long stroke is healed in pieces of so many diameters, which overlap."""
_LUMA = np.array([0.2126, 0.7152, 0.0722], np.float32)
DUST_REACH = 2.0
"""A mark of dust reaches so many of the speck's radii from its middle."""
ROOT = 1.0 / 2.4


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


@dataclass(frozen=True)
class Patch:
    """Pixels that take the place of a picture's own."""

    box: Box
    pixels: Numbers


def cleaned(
    pixels: Numbers,
    marks: Sequence[Mark],
    linear: bool = False,
    others: Others = lambda _: None,
    before: Sequence[Patch] = (),
) -> list[Patch]:
    """What the marks change of a picture (h, w, 3): patches that do not overlap. ``before`` are those of the marks that
    were made earlier: each sees those before it and none after it, so they need not be done anew.
    """
    picture = patched(pixels, before)
    h, w = picture.shape[:2]
    boxes = [patch.box for patch in before]
    for mark in marks:
        for points in _pieces(mark, h, w):
            boxes += _do(picture, mark, points, linear, others)
    return [Patch(box, picture[box.part].copy()) for box in _apart(boxes)]


def patched(pixels: Numbers, patches: Iterable[Patch]) -> Numbers:
    """A copy of a picture with its patches."""
    out = pixels.copy()
    for patch in patches:
        out[patch.box.part] = patch.pixels
    return out


def _box_of(points: Sequence[tuple[float, float]], size: float, h: int, w: int) -> Box | None:
    half = size * max(h, w) / 2.0 + 2.0
    xs, ys = [x * w for x, _ in points], [y * h for _, y in points]
    box = Box(
        max(0, int(min(ys) - half)),
        min(h, int(max(ys) + half) + 1),
        max(0, int(min(xs) - half)),
        min(w, int(max(xs) + half) + 1),
    )
    return box if box.top < box.low and box.left < box.right else None


def _pieces(mark: Mark, h: int, w: int) -> list[Sequence[tuple[float, float]]]:
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
    if lengths[-1] <= 1.5 * long:
        return [mark.points]
    count = int(np.ceil(lengths[-1] / long))
    ends = np.linspace(0.0, lengths[-1], count + 1)
    reach = OVERLAP * mark.size * max(h, w) / 2.0
    return [
        [p for p, at in zip(dense, lengths, strict=True) if a - reach <= at <= b + reach] for a, b in pairwise(ends)
    ]


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


def _do(
    picture: Numbers,
    mark: Mark,
    points: Sequence[tuple[float, float]],
    linear: bool,
    others: Others,
) -> list[Box]:
    """Do one mark, or a piece of it, on the picture; returns what it changed."""
    h, w = picture.shape[:2]
    own = _box_of(points, mark.size, h, w)
    if own is None:
        return []
    near = _grown(own, MOST_RING + 4, h, w)
    hole = stroke_alpha(points, mark, near, h, w)
    if not (hole > 0).any():
        return []
    seen, ring = _seen(picture[near.part], linear), ring_of(hole)
    if isinstance(mark, Cloned):
        made = _clone(picture, seen, mark, points, hole, near, linear, others)
    elif isinstance(mark, Uncoloured):
        grey = (seen @ _LUMA)[..., None]
        made = np.asarray(grey + membrane(seen - grey, hole, ring), np.float32)  # its light with the colour around it
    else:
        around, busy = _around(own, h, w), busyness(seen, ring) if mark.dust else 0.0
        made = _heal(_seen(picture[around.part], linear), seen, hole, ring, near, around, mark.other)
        if busy > 0.0:
            (x, y), radius = points[0], mark.size * max(h, w) / (2.0 * DUST_REACH)
            bare = lifted(seen, (x * w - 0.5 - near.left, y * h - 0.5 - near.top), radius)
            made = made + np.float32(busy) * (bare - made)
    if made is None:
        return []
    alpha = (hole * mark.strength)[..., None]
    out = _numbers(seen + alpha * (made - seen), picture.dtype, linear)
    np.copyto(picture[near.part], out, where=alpha > 0)
    return [own]


def filled(pixels: Numbers, holes: Alpha, linear: bool = False) -> tuple[Numbers, int]:
    """A picture (h, w, 3) with everything healed that ``holes`` (h, w) marks over 0.5, each connected part by itself;
    and how many there were.
    """
    out = pixels.copy()
    h, w = out.shape[:2]
    count, labels, stats, _ = cv2.connectedComponentsWithStats((holes > 0.5).astype(np.uint8), connectivity=8)
    for label in range(1, count):
        left, top, wide, tall = (int(v) for v in stats[label, :4])
        own = Box(top, top + tall, left, left + wide)
        near, around = _grown(own, MOST_RING + 4, h, w), _around(own, h, w)
        hard = (labels[near.part] == label).astype(np.float32)
        hole = np.maximum(hard, cv2.GaussianBlur(hard, (0, 0), 1.0) > 0.25).astype(np.float32)
        seen = _seen(out[near.part], linear)
        made = _heal(_seen(out[around.part], linear), seen, hole, ring_of(hole), near, around, 0)
        np.copyto(out[near.part], _numbers(made, out.dtype, linear), where=hole[..., None] > 0)
    return out, count - 1


def _grown(box: Box, far: int, h: int, w: int) -> Box:
    return Box(max(0, box.top - far), min(h, box.low + far), max(0, box.left - far), min(w, box.right + far))


def _around(box: Box, h: int, w: int) -> Box:
    sides = sorted((box.low - box.top, box.right - box.left))
    return _grown(box, int(min(sides[1] + ACROSS * sides[0] + MARGIN, MOST_AROUND)), h, w)


def _heal(wide: Float, seen: Float, hole: Alpha, ring: Alpha, near: Box, around: Box, other: int) -> Float:
    """Filled from the best place around, or from another one; smoothly where there is none."""
    at = (near.top - around.top, near.left - around.left)
    found = sources(wide, hole, ring, at, other + 1)
    if not found:
        return membrane(seen, hole, ring)
    down, across = found[min(other, len(found) - 1)].offset
    h, w = hole.shape
    rows = np.clip(np.arange(h) + at[0] + down, 0, wide.shape[0] - 1)
    columns = np.clip(np.arange(w) + at[1] + across, 0, wide.shape[1] - 1)
    return joined(seen, wide[np.ix_(rows, columns)], hole, ring)


def _clone(
    picture: Numbers,
    seen: Float,
    mark: Cloned,
    points: Sequence[tuple[float, float]],
    hole: Alpha,
    near: Box,
    linear: bool,
    others: Others,
) -> Float | None:
    """What lies elsewhere on this picture, or on another one of the burst, laid where the mark is."""
    h, w = picture.shape[:2]
    middle = np.array([np.mean([x for x, _ in points]) * w, np.mean([y for _, y in points]) * h])
    turn, scale = np.radians(mark.turn), 1.0 / mark.scale
    c, s = np.cos(turn) * scale, np.sin(turn) * scale
    inner = np.array([[c, s], [-s, c]])
    source = others(mark.frame) if mark.frame else picture
    if source is None:
        return None
    move = middle + np.array([mark.across * w, mark.down * h]) - inner @ middle
    here = np.array([near.left, near.top])
    matrix = np.concatenate([inner, (inner @ here + move)[:, None]], 1)
    size = (near.right - near.left, near.low - near.top)
    if mark.frame:
        matrix = laid_over(source, picture, near, hole) @ np.vstack([matrix, [0.0, 0.0, 1.0]])
    plain = not mark.frame and mark.turn == 0.0 and mark.scale == 1.0
    if plain:
        matrix[:, 2] = np.rint(matrix[:, 2])
    way = (cv2.INTER_NEAREST if plain else cv2.INTER_CUBIC) | cv2.WARP_INVERSE_MAP
    copied = cv2.warpAffine(source, matrix, size, flags=way, borderMode=cv2.BORDER_REFLECT_101)
    made = _seen(copied, linear)
    return joined(seen, made, hole, ring_of(hole)) if mark.joined else made


def _seen(numbers: Numbers, linear: bool) -> Float:
    """0…1 as the eye would see it."""
    top = np.float32(255.0 if numbers.dtype == np.uint8 else 65535.0)
    shares = numbers.astype(np.float32) / top
    return np.asarray(shares ** np.float32(ROOT), np.float32) if linear else shares


def _numbers(seen: Float, kind: np.dtype[Any], linear: bool) -> Numbers:
    shares = np.clip(seen, 0.0, 1.0)
    shares = shares ** np.float32(1.0 / ROOT) if linear else shares
    return np.asarray(np.rint(shares * (255.0 if kind == np.uint8 else 65535.0)), kind)


def _apart(boxes: Iterable[Box]) -> list[Box]:
    """Boxes joined until none overlap."""
    out: list[Box] = []
    for box in boxes:
        while True:
            hit = next(
                (o for o in out if o.top < box.low and box.top < o.low and o.left < box.right and box.left < o.right),
                None,
            )
            if hit is None:
                break
            out.remove(hit)
            box = Box(min(hit.top, box.top), max(hit.low, box.low), min(hit.left, box.left), max(hit.right, box.right))
        out.append(box)
    return out

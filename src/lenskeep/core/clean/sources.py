"""Where a hole can be filled from: the places around it whose surroundings are most like its own.

The ring around the hole is laid on every place of the neighbourhood, and the squared differences are compared, less
most of a difference in tone, which joining takes out (``joining``). Sums over a masked template are correlations (Lewis
1995, *Fast normalized cross-correlation*). What would be copied must also be about as busy as the ring is: a smooth sky
is not filled with another speck.
"""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from lenskeep.core.jit import njit
from lenskeep.core.types import Alpha, Float

Offset = tuple[int, int]
"""(down, across) in pixels from the hole to its source."""
LARGEST_TEMPLATE, LARGEST_ROOM = 72, 260
"""Pixels a side of what is looked for, and where; larger ones are first looked for at less detail."""
TONE_FORGIVEN, SLOPE_FORGIVEN = 0.85, 0.8
SPOT_WEIGHT, BUSY_WEIGHT, FAR_WEIGHT = 1.0, 0.5, 0.15
EVEN = 4e-4
"""The variance of a ring within which a spot would be seen; where it is busier, what lies inside may differ from it."""
NOWHERE = -(2**31)
RING, LEAST_RING, MOST_RING = 0.5, 4, 28
"""The ring's width as a share of the hole's half size, and its limits in pixels."""


@dataclass(frozen=True)
class Source:
    offset: Offset
    cost: float
    """Mean squared difference over the ring, in the numbers of the picture; larger where other things speak against."""


def ring_of(hole: Alpha) -> Alpha:
    """(h, w) 1 around the hole, 0 elsewhere; as wide as the hole asks for."""
    inside = (hole > 0).astype(np.uint8)
    half = float(
        cv2.distanceTransform(cv2.copyMakeBorder(inside, 1, 1, 1, 1, cv2.BORDER_CONSTANT), cv2.DIST_L2, 3).max()
    )
    width = round(min(max(RING * half, LEAST_RING), MOST_RING))
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * width + 1, 2 * width + 1))
    return np.asarray(cv2.dilate(inside, disc) - inside, np.float32)


def sources(
    picture: Float, hole: Alpha, ring: Alpha, at: Offset, count: int = 1, under: NDArray[np.bool_] | None = None
) -> list[Source]:
    """The best places to fill from, the best first, each well apart from those before it; [] where there is none.

    ``picture`` (h, w, 3) about 0…1 encoded. ``hole`` and its ``ring`` (``ring_of``) are smaller, and lie ``at`` a place
    of it; ``hole`` is over 0 where it is to be filled. Nothing is taken from where it is ``under`` a mark (h, w).
    """
    if not (ring > 0).any():
        return []
    ys, xs = np.nonzero((hole > 0) | (ring > 0))
    own = (slice(int(ys.min()), int(ys.max()) + 1), slice(int(xs.min()), int(xs.max()) + 1))
    box = (at[0] + own[0].start, at[0] + own[0].stop, at[1] + own[1].start, at[1] + own[1].stop)
    template, room = max(box[1] - box[0], box[3] - box[2]), max(picture.shape[:2])
    step = max(1, round(template / LARGEST_TEMPLATE), round(room / LARGEST_ROOM))
    whole = [np.zeros(picture.shape[:2], np.float32) for _ in range(2)]
    for plane, part in zip(whole, (hole, ring), strict=True):
        plane[at[0] : at[0] + hole.shape[0], at[1] : at[1] + hole.shape[1]] = part
    if under is not None:
        np.maximum(whole[0], under, out=whole[0])
    if step == 1:
        cost = _costs(picture, whole[1], whole[0], box)
        return _lowest(cost, box, count, max(3, (box[1] - box[0]) // 3))
    small = [_reduced(each, step) for each in (picture, whole[1], whole[0])]
    h, w = small[0].shape[:2]
    low = (box[0] // step, min(-(-box[1] // step), h), box[2] // step, min(-(-box[3] // step), w))
    cost = _costs(small[0], small[1], small[2], low)
    rough = _lowest(cost, low, count, max(3, (low[1] - low[0]) // 3))
    return [_refined(picture, whole[1], box, each, step) for each in rough]


def _reduced(plane: Float, step: int) -> Float:
    h, w = plane.shape[0] // step, plane.shape[1] // step
    return np.asarray(cv2.resize(plane[: h * step, : w * step], (w, h), interpolation=cv2.INTER_AREA), np.float32)


def _correlated(plane: Float, kernel: Float) -> Float:
    return np.asarray(cv2.matchTemplate(np.ascontiguousarray(plane), np.ascontiguousarray(kernel), cv2.TM_CCORR))


def _costs(picture: Float, ring: Alpha, hole: Alpha, box: tuple[int, int, int, int]) -> Float:
    """The cost of every place that the box fits on; infinite where it would reach into the hole."""
    part = (slice(box[0], box[1]), slice(box[2], box[3]))
    m, inner = ring[part], (hole[part] > 0.02).astype(np.float32)
    total = max(float(m.sum()), 1.0)
    cost: Float = np.zeros((picture.shape[0] - m.shape[0] + 1, picture.shape[1] - m.shape[1] + 1), np.float32)
    energy = np.zeros(picture.shape[:2], np.float32)
    slopes = _slopes(m)
    inside = max(float(inner.sum()), 1.0)
    known = (hole <= 0.02).astype(np.float32)  # what is in the hole must not count as busyness of its ring
    near = np.maximum(cv2.GaussianBlur(known, (0, 0), 1.5), 1e-3)
    squares: Float = np.zeros(picture.shape[:2], np.float32)
    spots: Float = np.zeros_like(cost)
    for c in range(3):
        plane = picture[..., c] - float(picture[..., c].mean())
        squares += plane * plane
        own = plane[part] * m
        sums = _correlated(plane, m)
        cost += float((own * plane[part]).sum()) - 2.0 * _correlated(plane, own)
        cost -= TONE_FORGIVEN * (sums - float(own.sum())) ** 2 / total
        for slope in slopes:
            cost -= SLOPE_FORGIVEN * (_correlated(plane, slope) - float((slope * plane[part]).sum())) ** 2
        even = EVEN / (EVEN + float((own * plane[part]).sum()) / total - (float(own.sum()) / total) ** 2)
        spots += even * (_correlated(plane, inner) / inside - sums / total) ** 2
        energy += (plane - cv2.GaussianBlur(plane * known, (0, 0), 1.5) / near) ** 2 * known
    cost = np.maximum(cost + _correlated(squares, m), 0.0) / total + SPOT_WEIGHT * spots
    floor = 1e-6 + float((energy[part] * m).sum()) / total
    busy = _correlated(energy, inner) / inside
    unlike = np.minimum(np.abs(np.log2((np.maximum(busy, 0.0) + 0.05 * floor) / floor)), 3.0)
    y, x = np.mgrid[: cost.shape[0], : cost.shape[1]]
    far = np.hypot(y - box[0], x - box[2]) / max(m.shape)
    cost = (cost + 0.1 * floor) * (1.0 + BUSY_WEIGHT * unlike**2) * (1.0 + FAR_WEIGHT * np.log1p(far))
    cost[_correlated(1.0 - known, np.maximum(m, inner)) > 0.5] = np.inf
    return np.asarray(cost, np.float32)


def _slopes(m: Alpha) -> list[Float]:
    """Slopes down and across over a ring (h, w), each of length 1 there and at right angles to the others and to 1."""
    y, x = (axis.astype(np.float32) for axis in np.mgrid[: m.shape[0], : m.shape[1]])
    out: list[Float] = []
    for axis in (y, x):
        axis = axis - float((axis * m).sum() / m.sum())
        for known in out:
            axis = axis - float((axis * known).sum()) * known / np.maximum(m, 1e-6)
        long = float(np.sqrt((axis * axis * m).sum()))
        if long > 1e-3:
            out.append(np.asarray(axis * m / long, np.float32))
    return out


def _lowest(cost: Float, box: tuple[int, int, int, int], count: int, apart: int) -> list[Source]:
    cost = cost.copy()
    found: list[Source] = []
    while len(found) < count:
        place = int(np.argmin(cost))
        y, x = divmod(place, cost.shape[1])
        if not np.isfinite(cost[y, x]):
            break
        found.append(Source((y - box[0], x - box[2]), float(cost[y, x])))
        cost[max(0, y - apart) : y + apart + 1, max(0, x - apart) : x + apart + 1] = np.inf
    return found


def _refined(picture: Float, ring: Alpha, box: tuple[int, int, int, int], rough: Source, step: int) -> Source:
    """The best place within a step of a rough one, by at most some thousand pixels of the ring."""
    part = ring[box[0] : box[1], box[2] : box[3]]
    ys, xs = np.nonzero(part > 0)
    every = max(1, len(ys) // 2000)
    ys, xs = ys[::every] + box[0], xs[::every] + box[2]
    h, w = picture.shape[:2]
    reach = [
        (max(low, o * step - step), min(high, o * step + step))
        for o, low, high in zip(rough.offset, (-box[0], -box[2]), (h - box[1], w - box[3]), strict=True)
    ]
    down, across = _nearest(picture, ys, xs, reach[0], reach[1], TONE_FORGIVEN)
    place = (rough.offset[0] * step, rough.offset[1] * step) if down == NOWHERE else (down, across)
    return Source(place, rough.cost)


@njit(cache=True, nogil=True)
def _nearest(
    picture: Float,
    ys: NDArray[np.int64],
    xs: NDArray[np.int64],
    downs: tuple[int, int],
    acrosses: tuple[int, int],
    forgiven: float,
) -> tuple[int, int]:
    """The shift within limits, both ends among them, by which what lies at the places is most like the places' own."""
    best, least = (NOWHERE, NOWHERE), np.inf
    n = max(len(ys), 1)
    for down in range(downs[0], downs[1] + 1):
        for across in range(acrosses[0], acrosses[1] + 1):
            squares, a0, a1, a2 = 0.0, 0.0, 0.0, 0.0
            for i in range(len(ys)):
                y, x = ys[i], xs[i]
                d0 = picture[y + down, x + across, 0] - picture[y, x, 0]
                d1 = picture[y + down, x + across, 1] - picture[y, x, 1]
                d2 = picture[y + down, x + across, 2] - picture[y, x, 2]
                squares += d0 * d0 + d1 * d1 + d2 * d2
                a0 += d0
                a1 += d1
                a2 += d2
            cost = squares / n - forgiven * (a0 * a0 + a1 * a1 + a2 * a2) / (n * n)
            if cost < least:
                best, least = (down, across), cost
    return best

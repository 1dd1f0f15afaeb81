"""Pictures brought to a smaller size, each pixel the mean of the area that it stands for."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from lenskeep.core.engine.kernel.rowmath import F
from lenskeep.core.jit import JIT, njit
from lenskeep.core.types import Float

_Spans = tuple[NDArray[np.uint32], NDArray[np.uint32], Float, Float]
_NEXT_TO_NOTHING = 1e-6
"""A share of a row by which a border may miss it, since sides are divided in floating point."""


@njit(**JIT)
def _spans(length: int, count: int) -> _Spans:
    """For each of ``count`` equal parts of a ``length``: the first and the last whole one that it touches, and how much
    of each belongs to it (of the last nothing where that is the first).
    """
    first, last = np.empty(count, np.uint32), np.empty(count, np.uint32)
    begins, ends = np.empty(count, np.float32), np.empty(count, np.float32)
    for i in range(count):
        low, high = i * length / count, (i + 1) * length / count
        one = int(low + _NEXT_TO_NOTHING)
        other = min(int(np.ceil(high - _NEXT_TO_NOTHING)) - 1, length - 1)
        first[i], last[i] = one, other
        begins[i] = min(one + 1.0, high) - low
        ends[i] = high - other if other > one else 0.0
    return first, last, begins, ends


@njit(**JIT)
def _taken(row: Any, share: Any, total: Float) -> None:
    for i in range(total.shape[0]):
        total[i] = row[i] * share


@njit(**JIT)
def _added(row: Any, share: Any, total: Float) -> None:
    for i in range(total.shape[0]):
        total[i] += row[i] * share


@njit(**JIT)
def _down(rows: Any, first: int, last: int, begins: Any, ends: Any, share: Any, total: Float) -> None:
    """total = the sum of rows ``first`` to ``last``, of the outer ones as much as belongs to it, times ``share``."""
    _taken(rows[first].reshape(-1), begins * share, total)
    for k in range(first + 1, last):
        _added(rows[k].reshape(-1), share, total)
    if last > first:
        _added(rows[last].reshape(-1), ends * share, total)


@njit(**JIT)
def averaged_plane(plane: Any, out: Float) -> None:
    """out (h, w) = a larger plane (H, W) of any numbers."""
    (high, wide), (h, w) = plane.shape, out.shape
    top, bottom, above, below = _spans(high, h)
    left, right, begins, ends = _spans(wide, w)
    total, share = np.empty(wide, np.float32), F(h * w / (high * wide))
    for y in range(h):
        _down(plane, top[y], bottom[y], above[y], below[y], share, total)
        row = out[y]
        for x in range(w):
            value = total[left[x]] * begins[x] + total[right[x]] * ends[x]
            for k in range(left[x] + np.uint32(1), right[x]):
                value += total[k]
            row[x] = value


@njit(**JIT)
def averaged_colours(picture: Any, out: Float) -> None:
    """out (h, w, 3) = a larger picture (H, W, 3) of any numbers."""
    (high, wide), (h, w) = picture.shape[:2], out.shape[:2]
    top, bottom, above, below = _spans(high, h)
    left, right, begins, ends = _spans(wide, w)
    total, share = np.empty(3 * wide, np.float32), F(h * w / (high * wide))
    three, one, two = np.uint32(3), np.uint32(1), np.uint32(2)
    for y in range(h):
        _down(picture, top[y], bottom[y], above[y], below[y], share, total)
        row = out[y].reshape(-1)
        for x in range(w):
            a, b, p, q = begins[x], ends[x], three * left[x], three * right[x]
            red, green, blue = (
                total[p] * a + total[q] * b,
                total[p + one] * a + total[q + one] * b,
                total[p + two] * a + total[q + two] * b,
            )
            k = np.uint32(p + three)
            while k < q:
                red, green, blue = red + total[k], green + total[k + one], blue + total[k + two]
                k = np.uint32(k + three)
            row[3 * x], row[3 * x + 1], row[3 * x + 2] = red, green, blue

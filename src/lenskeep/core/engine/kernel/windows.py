"""Lines fitted within square windows of a picture, as a guided filter needs them (He, Sun & Tang 2013).

Row by row: what a window holds is summed up down its columns, then across, and only as many rows are kept as a window
is high. Nothing of the picture's size is made but what is asked for. Beyond its borders a picture is mirrored.
"""

from typing import Any

import numpy as np

from lenskeep.core.engine.kernel.rowmath import F
from lenskeep.core.jit import PLAIN, njit
from lenskeep.core.types import Float


@njit(**PLAIN)
def _mirrored(place: int, length: int) -> int:
    while place < 0 or place >= length:
        place = -1 - place if place < 0 else 2 * length - 1 - place
    return place


@njit(**PLAIN)
def _times(one: Float, other: Float, out: Float, n: int) -> None:
    for x in range(n):
        out[x] = one[x] * other[x]


@njit(**PLAIN)
def _down(rows: Float, y: int, radius: int, height: int, out: Float, n: int) -> None:
    """out = the sum of the rows about row ``y`` of a picture so high; ``rows`` are its own, or the last few of them."""
    count = rows.shape[0]
    up, down = rows[_mirrored(y - radius, height) % count], rows[_mirrored(y + radius, height) % count]
    for x in range(n):
        out[x] = up[x] + down[x]
    for k in range(1, radius):
        up, down = rows[_mirrored(y - k, height) % count], rows[_mirrored(y + k, height) % count]
        for x in range(n):
            out[x] += up[x] + down[x]
    middle = rows[y % count]
    for x in range(n):
        out[x] += middle[x]


@njit(**PLAIN)
def _across(line: Float, radius: int, out: Float, n: int) -> None:
    """out (n) = the means of windows, from their columns' sums, which stand in ``line`` after ``radius`` places."""
    for k in range(radius):
        line[radius - 1 - k] = line[radius + _mirrored(-1 - k, n)]
        line[radius + n + k] = line[radius + _mirrored(n + k, n)]
    side, share = 2 * radius, F(1.0) / F((2 * radius + 1) * (2 * radius + 1))
    first, last = line[:n], line[side : side + n]
    for x in range(n):
        out[x] = first[x] + last[x]
    for k in range(1, radius):
        first, last = line[k : k + n], line[side - k : side - k + n]
        for x in range(n):
            out[x] += first[x] + last[x]
    middle = line[radius : radius + n]
    for x in range(n):
        out[x] = (out[x] + middle[x]) * share


@njit(**PLAIN)
def _mean(rows: Float, y: int, radius: int, height: int, line: Float, out: Float) -> None:
    """out = the means of the windows about each pixel of row ``y``; ``line`` is room for 2·radius more."""
    n = out.shape[0]
    _down(rows, y, radius, height, line[radius : radius + n], n)
    _across(line, radius, out, n)


@njit(**PLAIN)
def _line(mean_g: Float, squares: Float, mean_t: Float, products: Float, eps: Any, slope: Float, rest: Float) -> None:
    """The line t = slope·g + rest of each window of a row (equations 5 and 6)."""
    n = slope.shape[0]
    for x in range(n):
        variance = squares[x] - mean_g[x] * mean_g[x]
        slope[x] = (products[x] - mean_g[x] * mean_t[x]) / (max(variance, F(0.0)) + eps)
    for x in range(n):
        rest[x] = mean_t[x] - slope[x] * mean_g[x]


@njit(**PLAIN)
def window_means(g: Float, radius: int, mean: Float, squares: Float) -> None:
    """``mean`` and ``squares`` (h, w) = the means of g and of g² in windows of 2·radius + 1 a side."""
    h, n = g.shape
    line, own = np.empty(n + 2 * radius, np.float32), np.empty((2 * radius + 1, n), np.float32)
    for y in range(h + radius):
        if y < h:
            _times(g[y], g[y], own[y % own.shape[0]], n)
        done = y - radius
        if done >= 0:
            _mean(g, done, radius, h, line, mean[done])
            _mean(own, done, radius, h, line, squares[done])


@njit(**PLAIN)
def follow_windows(
    g: Float, mean: Float, squares: Float, t: Float, radius: int, eps: Any, a: Float, b: Float
) -> None:  # fmt: skip
    """a, b (h, w) with which a·g + b follows ``t`` over the guide g: each window's line, and of these the mean of all
    windows that hold a pixel. ``mean`` and ``squares`` are what ``window_means`` finds of g, ``eps`` is added to the
    variance of g.
    """
    h, n = g.shape
    count = 2 * radius + 1
    line, mean_t, both = np.empty(n + 2 * radius, np.float32), np.empty(n, np.float32), np.empty(n, np.float32)
    products, slopes, rests = (
        np.empty((count, n), np.float32), np.empty((count, n), np.float32), np.empty((count, n), np.float32),
    )  # fmt: skip
    for y in range(h + 2 * radius):
        if y < h:
            _times(g[y], t[y], products[y % count], n)
        fitted, done = y - radius, y - 2 * radius
        if 0 <= fitted < h:
            _mean(t, fitted, radius, h, line, mean_t)
            _mean(products, fitted, radius, h, line, both)
            k = fitted % count
            _line(mean[fitted], squares[fitted], mean_t, both, eps, slopes[k], rests[k])
        if done >= 0:
            _mean(slopes, done, radius, h, line, a[done])
            _mean(rests, done, radius, h, line, b[done])


@njit(**PLAIN)
def follow_own_windows(mean: Float, squares: Float, radius: int, eps: Any, a: Float, b: Float) -> None:
    """The same of a guide that follows itself, whose windows are known already."""
    h, n = mean.shape
    count = 2 * radius + 1
    line, slopes, rests = (
        np.empty(n + 2 * radius, np.float32), np.empty((count, n), np.float32), np.empty((count, n), np.float32),
    )  # fmt: skip
    for fitted in range(h + radius):
        if fitted < h:
            k = fitted % count
            _line(mean[fitted], squares[fitted], mean[fitted], squares[fitted], eps, slopes[k], rests[k])
        done = fitted - radius
        if done >= 0:
            _mean(slopes, done, radius, h, line, a[done])
            _mean(rests, done, radius, h, line, b[done])

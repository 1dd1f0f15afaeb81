"""Planes read bilinearly at the picture's size, a row at a time.

Where the picture is much larger than its planes, many of its rows lie between the same two rows of a plane. These are
spread over the picture's columns once and held, so that a row of the picture is arithmetic on neighbours in memory, and
nothing is looked up for each pixel.
"""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from lenskeep.core.engine.kernel.rowmath import JIT, F
from lenskeep.core.types import Float

SPREAD_FROM = 1.5
"""Rows of the picture for one of a plane, from which on holding them spread is quicker than looking each pixel up."""


@njit(**JIT)
def columns_of(first: int, full_width: int, width: int, left: NDArray[np.int32], right: NDArray[np.int32],
               across: Float, n: int) -> None:  # fmt: skip
    """Between which columns of a plane ``width`` wide each column from ``first`` on lies, and how far across, 0…1."""
    for i in range(n):
        x = min(max((F(first + i) + F(0.5)) / F(full_width) * F(width) - F(0.5), F(0.0)), F(width - 1))
        left[i] = np.int32(x)
        right[i] = min(left[i] + 1, width - 1)
        across[i] = x - F(left[i])


@njit(**JIT)
def _looked_up(planes: Float, k: int, top: int, down: Float, line: Float, left: NDArray[np.int32],
               right: NDArray[np.int32], across: Float, dst: Float, n: int) -> None:  # fmt: skip
    high, low = planes[k, top], planes[k, min(top + 1, planes.shape[1] - 1)]
    if line.shape[0] == 0:
        for i in range(n):
            a = high[left[i]] * (F(1.0) - down) + low[left[i]] * down
            b = high[right[i]] * (F(1.0) - down) + low[right[i]] * down
            dst[i] = a + across[i] * (b - a)
        return
    for i in range(planes.shape[2]):
        line[i] = high[i] * (F(1.0) - down) + low[i] * down
    for i in range(n):
        a = line[left[i]]
        dst[i] = a + across[i] * (line[right[i]] - a)


@njit(**JIT)
def _hold(planes: Float, k: int, row: int, left: NDArray[np.int32], right: NDArray[np.int32], held: Float,
          held_row: NDArray[np.int32], n: int) -> int:  # fmt: skip
    """Spread a row of plane ``k``, its left neighbours and its right ones, in the place that it shares with every
    second row; returns that place.
    """
    place = row & 1
    if held_row[k, place] != row:
        held_row[k, place] = row
        source, lefts, rights = planes[k, row], held[k, 2 * place], held[k, 2 * place + 1]
        for i in range(n):
            lefts[i] = source[left[i]]
            rights[i] = source[right[i]]
    return place


@njit(**JIT)
def plane_row(planes: Float, k: int, top: int, down: Float, line: Float, left: NDArray[np.int32],
              right: NDArray[np.int32], across: Float, held: Float, held_row: NDArray[np.int32], lo: int, hi: int,
              dst: Float) -> None:  # fmt: skip
    """dst = plane ``k`` between its rows ``top`` and the next one (held to the last) at fraction ``down``, at the
    columns lo…hi of those that ``left``, ``right`` and ``across`` describe.

    ``held`` (planes, 4, columns) with ``held_row`` (planes, 2) keep spread rows; without planes in it each pixel is
    looked up, by way of a ``line`` (width of a plane) where there are more pixels than the plane has columns.
    """
    n = hi - lo
    if held.shape[0] == 0:
        _looked_up(planes, k, top, down, line, left[lo:hi], right[lo:hi], across[lo:hi], dst, n)
        return
    columns = held.shape[2]
    a = _hold(planes, k, top, left, right, held, held_row, columns)
    b = _hold(planes, k, min(top + 1, planes.shape[1] - 1), left, right, held, held_row, columns)
    tl, tr, ll, lr = held[k, 2 * a, lo:hi], held[k, 2 * a + 1, lo:hi], held[k, 2 * b, lo:hi], held[k, 2 * b + 1, lo:hi]
    share = across[lo:hi]
    for i in range(n):
        x = tl[i] * (F(1.0) - down) + ll[i] * down
        y = tr[i] * (F(1.0) - down) + lr[i] * down
        dst[i] = x + share[i] * (y - x)


@njit(**JIT)
def _not_zero(planes: Float, which: NDArray[np.int32], row: int, lo: int, hi: int) -> tuple[int, int]:
    """First column, and one after the last, between ``lo`` and ``hi`` where one of these planes' rows is not 0."""
    first, last = hi, lo
    for k in range(which.shape[0]):
        if which[k] < 0:
            continue
        x = planes[which[k], row]
        i = lo
        while i < first and x[i] == F(0.0):
            i += 1
        first = min(first, i)
        i = hi
        while i > last and x[i - 1] == F(0.0):
            i -= 1
        last = max(last, i)
    return first, last


@njit(**JIT)
def live_columns(planes: Float, which: NDArray[np.int32], top: int, left: NDArray[np.int32], right: NDArray[np.int32],
                 live: NDArray[np.int32], n: int) -> tuple[int, int]:  # fmt: skip
    """First column of the picture, and one after the last, where one of the planes ``which`` (those under 0 are none),
    read between the rows ``top`` and the next one, may not be 0. ``live`` (2, 3) keeps what was found for two rows: the
    row, and its columns.
    """
    from_, to = left[0], right[n - 1] + 1
    first, last = to, from_
    for beside in range(2):
        row = min(top + beside, planes.shape[1] - 1)
        kept = live[row & 1]
        if kept[0] != row:
            a, b = _not_zero(planes, which, row, from_, to)
            kept[0], kept[1], kept[2] = row, a, b
        first, last = min(first, kept[1]), max(last, kept[2])
    if first >= last:
        return 0, 0
    lo, hi = np.searchsorted(right[:n], first), np.searchsorted(left[:n], last)
    return lo, hi

"""Planes read bilinearly at the picture's size, a row at a time.

Where the picture is much larger than its planes, many of its rows lie between the same two rows of a plane. These are
read at the picture's columns once and held, so that a row of the picture lies between two rows in memory, and nothing
is looked up for each pixel.
"""

import numpy as np
from numpy.typing import NDArray

from lenskeep.core.engine.kernel.borrowed import Planes, plane_line
from lenskeep.core.engine.kernel.rowmath import F, copy_row
from lenskeep.core.jit import JIT, njit
from lenskeep.core.types import Float

Columns = NDArray[np.uint32]
"""Unsigned: below 0 they would count from the end, which would be asked for each."""
SPREAD_FROM = 1.5
"""Rows of the picture for one of a plane, from which on holding them is quicker than looking each pixel up."""


@njit(**JIT)
def columns_of(first: int, full_width: int, width: int, left: Columns, right: Columns, across: Float,
               n: int) -> None:  # fmt: skip
    """Between which columns of a plane ``width`` wide each column from ``first`` on lies, and how far across, 0…1."""
    for i in range(n):
        x = min(max((F(first + i) + F(0.5)) / F(full_width) * F(width) - F(0.5), F(0.0)), F(width - 1))
        k = int(x)
        left[i], right[i] = k, min(k + 1, width - 1)
        across[i] = x - F(k)


@njit(**JIT)
def _looked_up(planes: Planes, k: int, top: int, down: Float, line: Float, left: Columns,
               right: Columns, across: Float, dst: Float, n: int) -> None:  # fmt: skip
    high, low = plane_line(planes, k, top), plane_line(planes, k, min(top + 1, planes[0] - 1))
    if line.shape[0] == 0:
        for i in range(n):
            a = high[left[i]] * (F(1.0) - down) + low[left[i]] * down
            b = high[right[i]] * (F(1.0) - down) + low[right[i]] * down
            dst[i] = a + across[i] * (b - a)
        return
    for i in range(planes[1]):
        line[i] = high[i] * (F(1.0) - down) + low[i] * down
    for i in range(n):
        a = line[left[i]]
        dst[i] = a + across[i] * (line[right[i]] - a)


@njit(**JIT)
def _hold(planes: Planes, k: int, row: int, left: Columns, right: Columns, across: Float,
          held: Float, held_row: NDArray[np.int32], n: int) -> int:  # fmt: skip
    """A row of plane ``k`` read at every column, in the place that it shares with every second row; returns that
    place.
    """
    place = row & 1
    if held_row[k, place] != row:
        held_row[k, place] = row
        source, out = plane_line(planes, k, row), held[k, place]
        for i in range(n):
            a = source[left[i]]
            out[i] = a + across[i] * (source[right[i]] - a)
    return place


@njit(**JIT)
def plane_row(planes: Planes, k: int, top: int, down: Float, line: Float, left: Columns,
              right: Columns, across: Float, held: Float, held_row: NDArray[np.int32], lo: int, hi: int,
              first: int, dst: Float) -> None:  # fmt: skip
    """dst = plane ``k`` between its rows ``top`` and the next one (held to the last) at fraction ``down``, at the
    columns lo…hi of those that ``left``, ``right`` and ``across`` describe.

    ``held`` (planes, 2, columns) with ``held_row`` (planes, 2) keep rows that were read; without planes in it each
    pixel is looked up, by way of a ``line`` (width of a plane) where there are more pixels than the plane has columns.
    From ``first`` on the columns are those of the plane itself where the picture is of its size; else that is under 0.
    """
    n = hi - lo
    if first >= 0:
        copy_row(plane_line(planes, k, top)[first + lo : first + hi], dst, n)
        return
    if held.shape[0] == 0:
        _looked_up(planes, k, top, down, line, left[lo:hi], right[lo:hi], across[lo:hi], dst, n)
        return
    columns = held.shape[2]
    a = _hold(planes, k, top, left, right, across, held, held_row, columns)
    b = _hold(planes, k, min(top + 1, planes[0] - 1), left, right, across, held, held_row, columns)
    high, low = held[k, a, lo:hi], held[k, b, lo:hi]
    for i in range(n):
        dst[i] = high[i] + down * (low[i] - high[i])


@njit(**JIT)
def _not_zero(planes: Planes, which: NDArray[np.int32], row: int, lo: int, hi: int) -> tuple[int, int]:
    """First column, and one after the last, between ``lo`` and ``hi`` where one of these planes' rows is not 0."""
    first, last = hi, lo
    for k in range(which.shape[0]):
        if which[k] < 0:
            continue
        x = plane_line(planes, which[k], row)
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
def live_columns(planes: Planes, which: NDArray[np.int32], top: int, left: Columns, right: Columns,
                 live: NDArray[np.int32], n: int) -> tuple[int, int]:  # fmt: skip
    """First column of the picture, and one after the last, where one of the planes ``which`` (those under 0 are none),
    read between the rows ``top`` and the next one, may not be 0. ``live`` (2, 3) keeps what was found for two rows: the
    row, and its columns.
    """
    from_, to = int(left[0]), int(right[n - 1]) + 1
    first, last = to, from_
    for beside in range(2):
        row = min(top + beside, planes[0] - 1)
        kept = live[row & 1]
        if kept[0] != row:
            a, b = _not_zero(planes, which, row, from_, to)
            kept[0], kept[1], kept[2] = row, a, b
        first, last = min(first, kept[1]), max(last, kept[2])
    if first >= last:
        return 0, 0
    lo, hi = np.searchsorted(right[:n], first), np.searchsorted(left[:n], last)
    return int(lo), int(hi)

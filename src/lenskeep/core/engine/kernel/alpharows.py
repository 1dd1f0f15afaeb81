"""A region's alpha in a row, looked for only where its planes are not 0, and mixing by it."""

import numpy as np
from numpy.typing import NDArray

from lenskeep.core.engine.kernel.borrowed import Planes
from lenskeep.core.engine.kernel.planerows import Columns, live_columns, plane_row
from lenskeep.core.engine.kernel.rowmath import F, in_lanes
from lenskeep.core.engine.ops import FINE_SLOT, PLANE_SLOT
from lenskeep.core.jit import JIT, njit
from lenskeep.core.types import Float


@njit(**JIT)
def _covered(slope: Float, offset: Float, guide: Float, opacity: float, alpha: Float, n: int) -> None:
    for i in range(n):
        alpha[i] = min(max(slope[i] * guide[i] + offset[i], F(0.0)), F(1.0)) * opacity


@njit(**JIT)
def _extent(alpha: Float, lo: int, hi: int, n: int) -> tuple[int, int]:
    """First column, and one after the last, of the lanes between ``lo`` and ``hi`` where alpha is over 0; (0, 0) where
    it nowhere is.
    """
    while lo < hi and alpha[lo] <= F(0.0):
        lo += 1
    if lo == hi:
        return 0, 0
    while alpha[hi - 1] <= F(0.0):
        hi -= 1
    lo, hi = in_lanes(lo, hi, n)
    return lo, hi


@njit(**JIT)
def alpha_row(codes: NDArray[np.int32], k: int, planes: Planes, top: int, down: Float, line: Float,
           left: Columns, right: Columns, across: Float, held: Float,
           held_row: NDArray[np.int32], live: NDArray[np.int32], guide: Float, opacity: Float, work: Float,
           alpha: Float, n: int, fine: Float, row: int, first: int, same: int) -> tuple[int, int]:  # fmt: skip
    """alpha = the region of the blend ``k`` in this row, and the columns it reaches. Where a part of it is drawn at
    this size, the alpha lies between that without the part and that with all of it.
    """
    at, drawn = codes[k, PLANE_SLOT : PLANE_SLOT + 4], codes[k, FINE_SLOT]
    lo, hi = 0, n
    if held.shape[0] > 0:  # what is found in a row of the planes serves several rows of the picture
        lo, hi = live_columns(planes, at, top, left, right, live[k], n)
        if hi == 0:
            return 0, 0
        lo, hi = in_lanes(lo, hi, n)
    m, share, follow, a, b = hi - lo, alpha[lo:hi], guide[lo:hi], work[10], work[11]
    plane_row(planes, at[0], top, down, line, left, right, across, held, held_row, lo, hi, same, a)
    plane_row(planes, at[1], top, down, line, left, right, across, held, held_row, lo, hi, same, b)
    _covered(a, b, follow, opacity, share, m)
    if drawn >= 0:
        plane_row(planes, at[2], top, down, line, left, right, across, held, held_row, lo, hi, same, a)
        plane_row(planes, at[3], top, down, line, left, right, across, held, held_row, lo, hi, same, b)
        _covered(a, b, follow, opacity, work[9], m)
        for i in range(m):
            share[i] += fine[drawn, row, first + lo + i] * (work[9, i] - share[i])
    lo, hi = _extent(alpha, lo, hi, n)
    return lo, hi


@njit(**JIT)
def mix_row(x: Float, below: Float, share: Float, n: int) -> None:
    """x = x over below, by share 0…1."""
    for i in range(n):
        x[i] = below[i] + share[i] * (x[i] - below[i])

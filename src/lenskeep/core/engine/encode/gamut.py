"""Rows of the working space in an output space: straight where colours lie inside it, with less chroma where not.

Gamut mapping: CSS Color 4, section 13: OKLCh chroma is reduced at constant lightness and hue (here by bisection, to
1/4096 of the chroma), never channels clipped. Most rows lie inside, so they are brought there as a whole; those outside
are gathered and halved together.
"""

from typing import get_args

import numpy as np
from numpy.typing import NDArray

from lenskeep.core.colour.oklab import LAB_TO_LMS, LMS_TO_RGB
from lenskeep.core.colour.spaces import OutputSpace, from_rec2020
from lenskeep.core.engine.kernel.labrows import to_lab_rows
from lenskeep.core.engine.kernel.rowmath import LANES, F
from lenskeep.core.jit import JIT, njit
from lenskeep.core.types import Float

_UNLAB = LAB_TO_LMS.astype(np.float32)
_LOW, _HIGH = F(-2e-4), F(1.0) + F(2e-4)
"""Between these a colour counts as inside."""
_HALVINGS = 12
_AT_ONCE = 256

SPACES: dict[str, tuple[Float, Float]] = {
    space: (
        np.ascontiguousarray(from_rec2020(space), np.float32),
        np.ascontiguousarray(from_rec2020(space) @ LMS_TO_RGB, np.float32),
    )
    for space in get_args(OutputSpace)
}
"""For every output space the matrices from linear Rec. 2020 and from linear LMS."""


@njit(**JIT)
def _direct(rgb: Float, m: Float, out: Float) -> None:
    """out (3, n) = m · each colour of rgb (n, 3), as numbers in a line: of those the compiler takes many at once."""
    m00, m01, m02, m10, m11, m12 = m[0, 0], m[0, 1], m[0, 2], m[1, 0], m[1, 1], m[1, 2]
    m20, m21, m22 = m[2, 0], m[2, 1], m[2, 2]
    r, g, b, line = out[0], out[1], out[2], rgb.reshape(-1)
    for i in range(rgb.shape[0]):
        p, q, s = line[3 * i], line[3 * i + 1], line[3 * i + 2]
        r[i] = m00 * p + m01 * q + m02 * s
        g[i] = m10 * p + m11 * q + m12 * s
        b[i] = m20 * p + m21 * q + m22 * s


@njit(**JIT)
def _outside(rgb: Float, where: NDArray[np.int32]) -> int:
    """The columns of rgb (3, n) whose colour is outside 0…1, written to ``where``; returns how many. They are counted
    first, many at a time, and looked for one by one only where there are any.
    """
    count, n = 0, rgb.shape[1]
    for first in range(0, n, _AT_ONCE):
        last = min(first + _AT_ONCE, n)
        r, g, b = rgb[0, first:last], rgb[1, first:last], rgb[2, first:last]
        here = np.int32(0)
        for i in range(last - first):
            low, high = min(r[i], min(g[i], b[i])), max(r[i], max(g[i], b[i]))
            here += np.int32(low < _LOW) | np.int32(high > _HIGH)
        if here == 0:
            continue
        for i in range(last - first):
            low, high = min(r[i], min(g[i], b[i])), max(r[i], max(g[i], b[i]))
            where[count] = first + i
            count += 1 if low < _LOW or high > _HIGH else 0
    return count


@njit(**JIT)
def _to_rgb(lab: Float, share: Float, to: Float, out: Float, n: int) -> None:
    """out (3, n) = OKLab (3, n) with its chroma times ``share``, through linear LMS and ``to``."""
    light, a, c = lab[0], lab[1], lab[2]
    r, g, b = out[0], out[1], out[2]
    t00, t01, t02, t10, t11, t12 = to[0, 0], to[0, 1], to[0, 2], to[1, 0], to[1, 1], to[1, 2]
    t20, t21, t22 = to[2, 0], to[2, 1], to[2, 2]
    for i in range(n):
        u, v = share[i] * a[i], share[i] * c[i]
        x = _UNLAB[0, 0] * light[i] + _UNLAB[0, 1] * u + _UNLAB[0, 2] * v
        y = _UNLAB[1, 0] * light[i] + _UNLAB[1, 1] * u + _UNLAB[1, 2] * v
        z = _UNLAB[2, 0] * light[i] + _UNLAB[2, 1] * u + _UNLAB[2, 2] * v
        x, y, z = x * x * x, y * y * y, z * z * z
        r[i] = t00 * x + t01 * y + t02 * z
        g[i] = t10 * x + t11 * y + t12 * z
        b[i] = t20 * x + t21 * y + t22 * z


@njit(**JIT)
def _halve(made: Float, low: Float, high: Float, middle: Float, n: int) -> None:
    """Keep the half of the share of chroma in which the border of the space lies; ``made`` is what ``middle`` made."""
    r, g, b = made[0], made[1], made[2]
    for j in range(n):
        least, most = min(r[j], min(g[j], b[j])), max(r[j], max(g[j], b[j]))
        inside = least >= _LOW and most <= _HIGH
        low[j] = middle[j] if inside else low[j]
        high[j] = high[j] if inside else middle[j]
        middle[j] = F(0.5) * (low[j] + high[j])


@njit(**JIT)
def _less_colourful(rgb: Float, where: NDArray[np.int32], n: int, to: Float, out: Float) -> None:
    """The ``n`` columns of out (3, width) in ``where``: the most colourful ones of the output space with the lightness
    and hue of those of rgb (width, 3). Whole lanes of them are worked on, so that each is rounded alike whatever others
    stand beside it.
    """
    most = (n + LANES - 1) // LANES * LANES
    lab, made = np.zeros((3, most), np.float32), np.empty((3, most), np.float32)
    low, high, middle = np.zeros(most, np.float32), np.ones(most, np.float32), np.full(most, F(0.5))
    for j in range(n):
        lab[0, j], lab[1, j], lab[2, j] = rgb[where[j], 0], rgb[where[j], 1], rgb[where[j], 2]
    to_lab_rows(lab[0], lab[1], lab[2], most)
    for _ in range(_HALVINGS):
        _to_rgb(lab, middle, to, made, most)
        _halve(made, low, high, middle, most)
    _to_rgb(lab, low, to, made, most)
    for j in range(n):
        for c in range(3):
            out[c, where[j]] = F(1.0) if lab[0, j] >= F(1.0) else F(0.0) if lab[0, j] <= F(0.0) else made[c, j]


@njit(**JIT)
def into_space(rgb: Float, direct: Float, to: Float, out: Float, where: NDArray[np.int32]) -> None:
    """out (3, n) = linear Rec. 2020 (n, 3) as an output space's linear RGB, gamut mapped; values may still lie outside
    0…1 by next to nothing. ``direct`` and ``to`` as in ``SPACES``; ``where`` (n + 1) is scratch.
    """
    _direct(rgb, direct, out)
    count = _outside(out, where)
    if count:
        _less_colourful(rgb, where, count, to, out)

"""Elementary functions over a row of float32, written so that the compiler can run them eight or sixteen at a time.

For that a loop must not write what another of its rows may be: rows that are one are named once, and loops are short,
since the compiler gives up where it would have to tell more than a few rows apart.

log2 and exp2 split exponent and mantissa in the bits of IEEE 754; the rest is a polynomial that is exact at both ends
of its interval, fitted at Chebyshev nodes. Errors stay below 4e-6 in log2 and relative 1e-6 elsewhere (tested against
NumPy).
"""

from typing import Any

import numpy as np
from llvmlite import ir  # type: ignore[import-untyped]
from numba.core import types
from numba.extending import intrinsic

from lenskeep.core.jit import JIT, njit
from lenskeep.core.types import Float

F = np.float32
LANES = 64
"""Work on part of a row begins and ends at multiples of this, from the frame's left border on: as many pixels as the
processor's vectors do in one turn of a loop, so that each is rounded in the same way whatever part is worked on.
"""


def _same_bits(source: Any, target: Any, kind: Any) -> Any:
    def typed(_context: Any, _number: Any) -> tuple[Any, Any]:
        return target(source), lambda _c, builder, _s, given: builder.bitcast(given[0], kind)

    return intrinsic(typed)


bits_of: Any = _same_bits(types.float32, types.int32, ir.IntType(32))
"""A float32's bits as an int32, and back."""
float_of: Any = _same_bits(types.int32, types.float32, ir.FloatType())


@njit(**JIT)
def in_lanes(lo: int, hi: int, n: int) -> tuple[int, int]:
    """Columns ``lo`` to ``hi`` of a row of ``n``, widened to whole lanes."""
    return lo // LANES * LANES, min((hi + LANES - 1) // LANES * LANES, n)


@njit(**JIT)
def log2_row(src: Float, dst: Float, n: int) -> None:
    """dst = log2(src); src is held to at least 2^-20."""
    bits = dst.view(np.int32)
    for i in range(n):
        dst[i] = max(src[i], F(9.5367431640625e-07))
    for i in range(n):
        b = bits[i]
        e = F((b >> 23) - 127)
        bits[i] = (b & 0x007FFFFF) | 0x3F800000
        m = dst[i] - F(1.0)
        p = F(-0.01548074480430592)
        p = p * m + F(0.0649749128337141)
        p = p * m + F(-0.132251745738289)
        p = p * m + F(0.1969565641705203)
        p = p * m + F(-0.2782401255722856)
        p = p * m + F(0.4426896746040465)
        dst[i] = e + m + m * (F(1.0) - m) * p


@njit(**JIT)
def exp2_row(x: Float, n: int) -> None:
    """x = 2 ** x in place; x is held to -60…60."""
    bits = x.view(np.int32)
    for i in range(n):
        y = min(max(x[i], F(-60.0)), F(60.0))
        e = np.floor(y)
        f = y - e
        p = F(-0.001459796371281444) + f * F(-0.00021900953880947394)
        p = F(-0.06662426057879679) + f * (F(-0.011138390508084618) + f * p)
        p = F(-0.306852860864443) + f * p
        x[i] = F(1.0) + f + f * (F(1.0) - f) * p
        bits[i] = bits[i] + (np.int32(e) << 23)


@njit(**JIT)
def _cbrt(value: Any) -> Any:
    """By the inverse cube root, which needs no division: a start from the bits of a float, then two steps (Moroz et al.
    2021, "Fast calculation of cube root and inverse cube root").
    """
    x = abs(value)
    y = float_of(np.int32(0x548C2B4B) - np.int32(F(bits_of(x)) * F(1.0 / 3.0)))
    c = x * y * y * y
    y = y * (F(1.752319676) - c * (F(1.2509524245) - F(0.5093818292) * c))
    c = F(1.0) - x * y * y * y
    y = y * (F(1.0) + F(1.0 / 3.0) * c)
    root = x * y * y
    return root if value >= F(0.0) else -root


@njit(**JIT)
def cbrt_row(src: Float, dst: Float, n: int) -> None:
    """dst = cube root of src, negative for negative values, 0 for 0. ``src`` and ``dst`` must differ."""
    for i in range(n):
        dst[i] = _cbrt(src[i])


@njit(**JIT)
def cbrt_here(x: Float, n: int) -> None:
    """x = cube root of x in place."""
    for i in range(n):
        x[i] = _cbrt(x[i])


@njit(**JIT)
def atan2_row(y: Float, x: Float, dst: Float, n: int) -> None:
    """dst = atan2(y, x) within 1.2e-5 (Abramowitz & Stegun 1964, 4.4.49); 0 where both are 0."""
    for i in range(n):
        ay, ax = abs(y[i]), abs(x[i])
        z = min(ax, ay) / (max(ax, ay) + F(1e-30))
        q = z * z
        p = F(0.1801410) + q * (F(-0.0851330) + q * F(0.0208351))
        p = z * (F(0.9998660) + q * (F(-0.3302995) + q * p))
        p = F(1.5707964) - p if ay > ax else p
        p = F(3.1415927) - p if x[i] < F(0.0) else p
        dst[i] = -p if y[i] < F(0.0) else p


@njit(**JIT)
def smooth(x: Any) -> Any:
    """3x² - 2x³ of x held to 0…1."""
    x = min(max(x, F(0.0)), F(1.0))
    return x * x * (F(3.0) - F(2.0) * x)


@njit(**JIT)
def lookup_row(table: Float, at: Float, start: Any, scale: Any, dst: Float, n: int) -> None:
    """dst = table read linearly at (at - start)·scale, held to its ends; ``at`` and ``dst`` must differ.

    Places first, then what stands there: the first half is then arithmetic alone, done for many at a time. Unsigned
    places: below 0 they would count from the end, which would be asked for each.
    """
    last = F(table.shape[0] - 1.001)
    places = np.empty(n, np.uint32)
    for i in range(n):
        x = min(max((at[i] - start) * scale, F(0.0)), last)
        k = np.int32(x)
        places[i] = k
        dst[i] = x - F(k)
    for i in range(n):
        k = places[i]
        a = table[k]
        dst[i] = a + dst[i] * (table[k + np.uint32(1)] - a)


@njit(**JIT)
def copy_row(src: Float, dst: Float, n: int) -> None:
    """dst = src, which must differ; without the copy beside that an assignment of slices makes."""
    for i in range(n):
        dst[i] = src[i]


@njit(**JIT)
def matrix_here(m: Float, r: Float, g: Float, b: Float, n: int) -> None:
    """(r, g, b) = m · (r, g, b), m (3, 3), in place."""
    m00, m01, m02, m10, m11, m12 = m[0, 0], m[0, 1], m[0, 2], m[1, 0], m[1, 1], m[1, 2]
    m20, m21, m22 = m[2, 0], m[2, 1], m[2, 2]
    for i in range(n):
        u, v, w = r[i], g[i], b[i]
        r[i] = m00 * u + m01 * v + m02 * w
        g[i] = m10 * u + m11 * v + m12 * w
        b[i] = m20 * u + m21 * v + m22 * w


@njit(**JIT)
def matrix_rows(m: Float, r: Float, g: Float, b: Float, x: Float, y: Float, z: Float, n: int) -> None:
    """(x, y, z) = m · (r, g, b), m (3, 3), into rows that differ from those."""
    copy_row(r, x, n)
    copy_row(g, y, n)
    copy_row(b, z, n)
    matrix_here(m, x, y, z, n)

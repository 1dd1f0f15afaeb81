"""One pass over the pixels: every operation of a program, row by row, with the row's values staying in the cache."""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from lenskeep.core.colour.oklab import LAB_TO_LMS, LMS_TO_LAB, LMS_TO_RGB, RGB_TO_LMS
from lenskeep.core.colour.spaces import LUMINANCE
from lenskeep.core.engine.ops import TABLE_FROM, TABLE_SIZE, TABLE_TO
from lenskeep.core.engine.rowmath import (
    JIT,
    F,
    blend_rows,
    cbrt_row,
    exp2_row,
    log2_row,
    sample_row,
)
from lenskeep.core.types import Float

_Y0, _Y1, _Y2 = (F(v) for v in LUMINANCE)
_LMS = RGB_TO_LMS.astype(np.float32)
_LAB = LMS_TO_LAB.astype(np.float32)
_UNLAB = LAB_TO_LMS.astype(np.float32)
_UNLMS = LMS_TO_RGB.astype(np.float32)
_FROM, _SCALE, _LAST = F(TABLE_FROM), F((TABLE_SIZE - 1) / (TABLE_TO - TABLE_FROM)), F(TABLE_SIZE - 1.001)
_MIN_TRANSMISSION = F(0.1)


@njit(**JIT)
def _luminance(r: Float, g: Float, b: Float, dst: Float, n: int) -> None:
    for i in range(n):
        dst[i] = _Y0 * r[i] + _Y1 * g[i] + _Y2 * b[i]


@njit(**JIT)
def _matrix(r: Float, g: Float, b: Float, p: Float, n: int) -> None:
    m00, m01, m02, m10, m11, m12, m20, m21, m22 = p[0], p[1], p[2], p[3], p[4], p[5], p[6], p[7], p[8]
    for i in range(n):
        x, y, z = r[i], g[i], b[i]
        r[i] = m00 * x + m01 * y + m02 * z
        g[i] = m10 * x + m11 * y + m12 * z
        b[i] = m20 * x + m21 * y + m22 * z


@njit(**JIT)
def _lookup(table: Float, at: Float, dst: Float, n: int) -> None:
    for i in range(n):
        x = min(max((at[i] - _FROM) * _SCALE, F(0.0)), _LAST)
        k = np.int32(x)
        a = table[k]
        dst[i] = a + (x - F(k)) * (table[k + 1] - a)


@njit(**JIT)
def _gain(r: Float, g: Float, b: Float, gain: Float, n: int) -> None:
    for i in range(n):
        r[i] *= gain[i]
        g[i] *= gain[i]
        b[i] *= gain[i]


@njit(**JIT)
def _chroma(r: Float, g: Float, b: Float, scale: Float, t: Float, n: int) -> None:
    """Scale a and b of OKLab; ``t`` holds six scratch rows."""
    long, m, s, cl, cm, cs = t[0], t[1], t[2], t[3], t[4], t[5]
    for i in range(n):
        x, y, z = r[i], g[i], b[i]
        long[i] = _LMS[0, 0] * x + _LMS[0, 1] * y + _LMS[0, 2] * z
        m[i] = _LMS[1, 0] * x + _LMS[1, 1] * y + _LMS[1, 2] * z
        s[i] = _LMS[2, 0] * x + _LMS[2, 1] * y + _LMS[2, 2] * z
    cbrt_row(long, cl, n)
    cbrt_row(m, cm, n)
    cbrt_row(s, cs, n)
    for i in range(n):
        x, y, z = cl[i], cm[i], cs[i]
        light = _LAB[0, 0] * x + _LAB[0, 1] * y + _LAB[0, 2] * z
        a = scale * (_LAB[1, 0] * x + _LAB[1, 1] * y + _LAB[1, 2] * z)
        c = scale * (_LAB[2, 0] * x + _LAB[2, 1] * y + _LAB[2, 2] * z)
        x = _UNLAB[0, 0] * light + _UNLAB[0, 1] * a + _UNLAB[0, 2] * c
        y = _UNLAB[1, 0] * light + _UNLAB[1, 1] * a + _UNLAB[1, 2] * c
        z = _UNLAB[2, 0] * light + _UNLAB[2, 1] * a + _UNLAB[2, 2] * c
        x, y, z = x * x * x, y * y * y, z * z * z
        r[i] = _UNLMS[0, 0] * x + _UNLMS[0, 1] * y + _UNLMS[0, 2] * z
        g[i] = _UNLMS[1, 0] * x + _UNLMS[1, 1] * y + _UNLMS[1, 2] * z
        b[i] = _UNLMS[2, 0] * x + _UNLMS[2, 1] * y + _UNLMS[2, 2] * z


@njit(**JIT)
def _veil(r: Float, g: Float, b: Float, p: Float, lg: Float, ta: Float, tb: Float, n: int) -> None:
    """p = (airlight r, g, b, amount): amount under 0 clears (He, Sun & Tang 2009), over 0 adds."""
    a0, a1, a2, amount = p[0], p[1], p[2], p[3]
    if amount < F(0.0):
        for i in range(n):
            t = min(max(ta[i] * lg[i] + tb[i], F(0.0)), F(1.0))
            k = F(1.0) / max(F(1.0) + amount * (F(1.0) - t), _MIN_TRANSMISSION)
            r[i] = max((r[i] - a0) * k + a0, F(0.0))
            g[i] = max((g[i] - a1) * k + a1, F(0.0))
            b[i] = max((b[i] - a2) * k + a2, F(0.0))
    else:
        for i in range(n):
            t = min(max(ta[i] * lg[i] + tb[i], F(0.0)), F(1.0))
            k = amount * (F(0.35) + F(0.65) * (F(1.0) - t))
            r[i] += (a0 - r[i]) * k
            g[i] += (a1 - g[i]) * k
            b[i] += (a2 - b[i]) * k


@njit(**JIT)
def _radial(gain: Float, p: Float, y: Float, first: int, width: int, n: int) -> None:
    """gain = log2 gain of a vignette from column ``first`` on; p = (cx, cy, 1/rx, 1/ry, EV, from, to), 0…1."""
    dy = (y - p[1]) * p[3]
    dy2 = dy * dy
    for i in range(n):
        dx = ((F(first + i) + F(0.5)) / F(width) - p[0]) * p[2]
        s = min(max((np.sqrt(dx * dx + dy2) - p[5]) / (p[6] - p[5]), F(0.0)), F(1.0))
        gain[i] = p[4] * s * s * (F(3.0) - F(2.0) * s)


@njit(**JIT)
def _plane(planes: Float, k: int, top: int, down: Float, line: Float, left: Float, right: Float, across: Float,
           dst: Float, n: int) -> None:  # fmt: skip
    """dst = plane ``k`` read at this row and these columns."""
    blend_rows(planes, k, top, down, line)
    sample_row(line, left, right, across, dst, n)


@njit(**JIT)
def _extent(alpha: Float, n: int) -> tuple[int, int]:
    """First column, and one after the last, where alpha is over 0; (0, 0) where it nowhere is."""
    lo = 0
    while lo < n and alpha[lo] <= F(0.0):
        lo += 1
    if lo == n:
        return 0, 0
    hi = n
    while alpha[hi - 1] <= F(0.0):
        hi -= 1
    return lo, hi


@njit(**JIT)
def run_rows(
    rgb: Float,
    first_row: int,
    full_height: int,
    codes: NDArray[np.int32],
    params: Float,
    planes: Float,
    tables: Float,
    guides: Float,
) -> None:
    """Run the program in place on rows ``first_row …`` of a frame ``full_height`` high; rgb is (rows, width, 3).

    ``guides`` (rows, width) is what masks follow; with no rows it is the cube root of the rows' own luminance, which
    is right whenever ``rgb`` is the untouched picture.
    """
    rows, n = rgb.shape[0], rgb.shape[1]
    ph, pw = planes.shape[1], planes.shape[2]
    work = np.empty((19, n), np.float32)
    left, right = np.empty(n, np.int32), np.empty(n, np.int32)
    across, line = np.empty(n, np.float32), np.empty(pw, np.float32)
    guide, alpha = work[8], work[18]
    for i in range(n):
        x = min(max((F(i) + F(0.5)) / F(n) * F(pw) - F(0.5), F(0.0)), F(pw - 1))
        left[i] = np.int32(x)
        right[i] = min(left[i] + 1, pw - 1)
        across[i] = x - F(left[i])
    for row in range(rows):
        where = (F(first_row + row) + F(0.5)) / F(full_height)
        py = min(max(where * F(ph) - F(0.5), F(0.0)), F(ph - 1))
        top = np.int32(py)
        down = py - F(top)
        for i in range(n):
            work[0, i], work[1, i], work[2, i] = rgb[row, i, 0], rgb[row, i, 1], rgb[row, i, 2]
        if guides.shape[0] == 0:
            _luminance(work[0], work[1], work[2], work[6], n)
            cbrt_row(work[6], guide, n)
        else:
            guide[:] = guides[row]
        lo, hi, k = 0, n, 0
        while k < codes.shape[0]:
            code, p = codes[k, 0], params[k]
            if code == 0:  # a step begins: find its region in this row first, and work no further than it reaches
                end = k + 1
                while end < codes.shape[0] and codes[end, 0] != 8:
                    end += 1
                lo, hi = 0, n
                if end < codes.shape[0] and codes[end, 2] >= 0:
                    _plane(planes, codes[end, 2], top, down, line, left, right, across, work[10], n)
                    _plane(planes, codes[end, 3], top, down, line, left, right, across, work[11], n)
                    opacity = params[end, 0]
                    for i in range(n):
                        alpha[i] = min(max(work[10, i] * guide[i] + work[11, i], F(0.0)), F(1.0)) * opacity
                    lo, hi = _extent(alpha, n)
                    if hi == 0:
                        k, lo, hi = end + 1, 0, n
                        continue
            m = hi - lo
            r, g, b = work[0, lo:hi], work[1, lo:hi], work[2, lo:hi]
            lum, lg, gain, u, v, scratch = work[6], work[7], work[9], work[10], work[11], work[12:18]
            le, ri, ac = left[lo:hi], right[lo:hi], across[lo:hi]
            if code == 0:
                work[3, lo:hi], work[4, lo:hi], work[5, lo:hi] = r, g, b
            elif code == 1:
                _matrix(r, g, b, p, m)
            elif code == 2 or code == 3:
                _luminance(r, g, b, lum, m)
                log2_row(lum, lg, m)
                if code == 3:
                    _plane(planes, codes[k, 2], top, down, line, le, ri, ac, u, m)
                    _plane(planes, codes[k, 3], top, down, line, le, ri, ac, v, m)
                    for i in range(m):
                        lg[i] = u[i] * lg[i] + v[i]
                _lookup(tables[codes[k, 1]], lg, gain, m)
                exp2_row(gain, gain, m)
                _gain(r, g, b, gain, m)
            elif code == 4:
                _chroma(r, g, b, p[0], scratch, m)
            elif code == 5:
                _luminance(r, g, b, lum, m)
                log2_row(lum, lg, m)
                for j in range(4):
                    _plane(planes, codes[k, 2 + j], top, down, line, le, ri, ac, scratch[j], m)
                for i in range(m):
                    d = (scratch[0, i] - scratch[2, i]) * lg[i] + scratch[1, i] - scratch[3, i]
                    gain[i] = p[0] * d / (F(1.0) + abs(d) * p[1])
                exp2_row(gain, gain, m)
                _gain(r, g, b, gain, m)
            elif code == 6:
                _luminance(r, g, b, lum, m)
                log2_row(lum, lg, m)
                _plane(planes, codes[k, 2], top, down, line, le, ri, ac, u, m)
                _plane(planes, codes[k, 3], top, down, line, le, ri, ac, v, m)
                _veil(r, g, b, p, lg, u, v, m)
            elif code == 7:
                _radial(gain, p, where, lo, n, m)
                exp2_row(gain, gain, m)
                _gain(r, g, b, gain, m)
            elif code == 8:
                r0, g0, b0, share = work[3, lo:hi], work[4, lo:hi], work[5, lo:hi], alpha[lo:hi]
                if codes[k, 2] < 0:
                    share[:] = p[0]
                if codes[k, 2] >= 0 or p[0] < F(1.0):
                    for i in range(m):
                        r[i] = r0[i] + share[i] * (r[i] - r0[i])
                        g[i] = g0[i] + share[i] * (g[i] - g0[i])
                        b[i] = b0[i] + share[i] * (b[i] - b0[i])
                lo, hi = 0, n
            k += 1
        for i in range(n):
            rgb[row, i, 0], rgb[row, i, 1], rgb[row, i, 2] = work[0, i], work[1, i], work[2, i]

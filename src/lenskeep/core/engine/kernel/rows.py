"""One pass over the pixels: every operation of a program, row by row, with the row's values staying in the cache."""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from lenskeep.core.colour.spaces import LUMINANCE
from lenskeep.core.engine.kernel.blends import blend_mode_rows
from lenskeep.core.engine.kernel.labrows import (
    affine_rows,
    hue_rows,
    lightness_rows,
    muted_rows,
    smooth_rows,
    to_lab_rows,
    to_rgb_rows,
    toned_rows,
)
from lenskeep.core.engine.kernel.layrows import channel_row, cube_rows, fill_rows, sheet_rows
from lenskeep.core.engine.kernel.rowmath import (
    JIT,
    F,
    blend_rows,
    cbrt_row,
    exp2_row,
    log2_row,
    lookup_row,
    matrix_rows,
    sample_row,
)
from lenskeep.core.engine.ops import EXTRA_SLOT, FINE_SLOT, PLANE_SLOT, TABLE_FROM, TABLE_SIZE, TABLE_TO, TRAITS, Code
from lenskeep.core.types import Float

_Y0, _Y1, _Y2 = (F(v) for v in LUMINANCE)
_FROM, _SCALE = F(TABLE_FROM), F((TABLE_SIZE - 1) / (TABLE_TO - TABLE_FROM))
_SIZE = max(TRAITS) + 1
_PLANES = np.array([TRAITS[c].planes if c in TRAITS else 0 for c in range(_SIZE)], np.int64)
_BY_LIGHT = np.array([c in TRAITS and TRAITS[c].by_light for c in range(_SIZE)])
_IN_LAB = np.array([c in TRAITS and TRAITS[c].space != "rgb" for c in range(_SIZE)])
"""The table of what operations read, by their codes."""
_MIN_TRANSMISSION = F(0.1)


@njit(**JIT)
def _luminance(r: Float, g: Float, b: Float, dst: Float, n: int) -> None:
    for i in range(n):
        dst[i] = _Y0 * r[i] + _Y1 * g[i] + _Y2 * b[i]


@njit(**JIT)
def guide_rows(rgb: Float, out: Float) -> None:
    """out (rows, width) = the cube root of the luminance of rgb (rows, width, 3), which masks follow."""
    n = rgb.shape[1]
    lum = np.empty(n, np.float32)
    for row in range(rgb.shape[0]):
        _luminance(rgb[row, :, 0], rgb[row, :, 1], rgb[row, :, 2], lum, n)
        cbrt_row(lum, out[row], n)


@njit(**JIT)
def _gain(r: Float, g: Float, b: Float, gain: Float, n: int) -> None:
    for i in range(n):
        r[i] *= gain[i]
        g[i] *= gain[i]
        b[i] *= gain[i]


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
def _alpha(codes: NDArray[np.int32], k: int, planes: Float, top: int, down: Float, line: Float, left: Float,
           right: Float, across: Float, guide: Float, opacity: Float, work: Float, alpha: Float, n: int, fine: Float,
           row: int) -> tuple[int, int]:  # fmt: skip
    """alpha = the region of the blend ``k`` in this row, and the columns it reaches. Where a part of it is drawn at
    this size, the alpha lies between that without the part and that with all of it.
    """
    _plane(planes, codes[k, PLANE_SLOT], top, down, line, left, right, across, work[10], n)
    _plane(planes, codes[k, PLANE_SLOT + 1], top, down, line, left, right, across, work[11], n)
    for i in range(n):
        alpha[i] = min(max(work[10, i] * guide[i] + work[11, i], F(0.0)), F(1.0)) * opacity
    drawn = codes[k, FINE_SLOT]
    if drawn >= 0:
        _plane(planes, codes[k, PLANE_SLOT + 2], top, down, line, left, right, across, work[10], n)
        _plane(planes, codes[k, PLANE_SLOT + 3], top, down, line, left, right, across, work[11], n)
        for i in range(n):
            whole = min(max(work[10, i] * guide[i] + work[11, i], F(0.0)), F(1.0)) * opacity
            alpha[i] += fine[drawn, row, i] * (whole - alpha[i])
    lo, hi = _extent(alpha, n)
    return lo, hi


@njit(**JIT)
def run_rows(
    rgb: Float,
    first_row: int,
    first_column: int,
    full_height: int,
    full_width: int,
    codes: NDArray[np.int32],
    params: Float,
    planes: Float,
    tables: Float,
    data: Float,
    guides: Float,
    below: Float,
    fine: Float,
) -> None:
    """Run the program in place on a block (rows, columns, 3) that begins at ``first_row`` and ``first_column`` of a
    frame ``full_height`` high and ``full_width`` wide.

    ``guides`` (rows, columns) is what masks follow; with no rows it is the cube root of the rows' own luminance, which
    is right whenever ``rgb`` is the untouched picture. ``below`` (rows, columns, 3), if it has rows, is what a step
    that was cut in two remembers: read by ``RECALL``, written at the end. ``fine`` (k, rows, columns) are the alphas
    drawn at this size.
    """
    rows, n = rgb.shape[0], rgb.shape[1]
    ph, pw = planes.shape[1], planes.shape[2]
    work = np.empty((19, n), np.float32)
    left, right = np.empty(n, np.int32), np.empty(n, np.int32)
    across, line = np.empty(n, np.float32), np.empty(pw, np.float32)
    guide, alpha = work[8], work[18]
    for i in range(n):
        x = min(max((F(first_column + i) + F(0.5)) / F(full_width) * F(pw) - F(0.5), F(0.0)), F(pw - 1))
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
            if (
                code == Code.BELOW
            ):  # a step begins: find its region in this row first, and work no further than it reaches
                end = k + 1
                while end < codes.shape[0] and codes[end, 0] != Code.BLEND:
                    end += 1
                lo, hi = 0, n
                if end < codes.shape[0] and codes[end, PLANE_SLOT] >= 0:
                    lo, hi = _alpha(codes, end, planes, top, down, line, left, right, across, guide, params[end, 0],
                                    work, alpha, n, fine, row)  # fmt: skip
                    if hi == 0:
                        k, lo, hi = end + 1, 0, n
                        continue
            elif code == Code.RECALL:
                for i in range(n):
                    work[3, i], work[4, i], work[5, i] = below[row, i, 0], below[row, i, 1], below[row, i, 2]
                if codes[k, PLANE_SLOT] >= 0:
                    lo, hi = _alpha(codes, k, planes, top, down, line, left, right, across, guide, p[0],
                                    work, alpha, n, fine, row)  # fmt: skip
                    for i in range(n):  # what the first half did where the step does not reach
                        if i < lo or i >= hi:
                            work[0, i], work[1, i], work[2, i] = work[3, i], work[4, i], work[5, i]
                    if hi == 0:
                        while k < codes.shape[0] and codes[k, 0] != Code.BLEND:
                            k += 1
                        k, lo, hi = k + 1, 0, n
                        continue
            m = hi - lo
            r, g, b = work[0, lo:hi], work[1, lo:hi], work[2, lo:hi]
            lum, lg, gain, t = work[6], work[7], work[9], work[12:18]
            le, ri, ac = left[lo:hi], right[lo:hi], across[lo:hi]
            if _BY_LIGHT[code]:
                _luminance(r, g, b, lum, m)
                log2_row(lum, lg, m)
            reads = _PLANES[code]
            for j in range(reads):
                _plane(planes, codes[k, PLANE_SLOT + j], top, down, line, le, ri, ac, t[j], m)
            if code == Code.BELOW:
                work[3, lo:hi], work[4, lo:hi], work[5, lo:hi] = r, g, b
            elif code == Code.MATRIX:
                matrix_rows(p[:9].reshape(3, 3), r, g, b, r, g, b, m)
            elif code == Code.TONE or code == Code.BASE_TONE:
                if code == Code.BASE_TONE:
                    for i in range(m):
                        lg[i] = t[0, i] * lg[i] + t[1, i]
                lookup_row(tables[codes[k, 1]], lg, _FROM, _SCALE, gain, m)
                exp2_row(gain, gain, m)
                _gain(r, g, b, gain, m)
            elif code == Code.TOP_BAND or code == Code.BAND:
                for i in range(m):
                    if code == Code.TOP_BAND:
                        d = lg[i] - t[0, i] * lg[i] - t[1, i]
                    else:
                        d = (t[0, i] - t[2, i]) * lg[i] + t[1, i] - t[3, i]
                    gain[i] = p[0] * d / (F(1.0) + abs(d) * p[1])
                exp2_row(gain, gain, m)
                _gain(r, g, b, gain, m)
            elif code == Code.VEIL:
                _veil(r, g, b, p, lg, t[0], t[1], m)
            elif code == Code.RADIAL:
                _radial(gain, p, where, first_column + lo, full_width, m)
                exp2_row(gain, gain, m)
                _gain(r, g, b, gain, m)
            elif code == Code.BLEND:
                r0, g0, b0, share = work[3, lo:hi], work[4, lo:hi], work[5, lo:hi], alpha[lo:hi]
                if codes[k, EXTRA_SLOT] > 0:
                    blend_mode_rows(codes[k, EXTRA_SLOT], r0, g0, b0, r, g, b, t, m)
                if codes[k, PLANE_SLOT] < 0:
                    share[:] = p[0]
                if codes[k, PLANE_SLOT] >= 0 or p[0] < F(1.0):
                    for i in range(m):
                        r[i] = r0[i] + share[i] * (r[i] - r0[i])
                        g[i] = g0[i] + share[i] * (g[i] - g0[i])
                        b[i] = b0[i] + share[i] * (b[i] - b0[i])
                lo, hi = 0, n
            elif not _IN_LAB[code]:
                _lay(code, codes[k], r, g, b, p, lg, tables, data, where, first_column + lo, full_width, t, m)
            else:
                _in_lab(code, codes[k], r, g, b, p, tables, t, m)
            k += 1
        for i in range(n):
            rgb[row, i, 0], rgb[row, i, 1], rgb[row, i, 2] = work[0, i], work[1, i], work[2, i]
        if below.shape[0] > 0:
            for i in range(n):
                below[row, i, 0], below[row, i, 1], below[row, i, 2] = work[3, i], work[4, i], work[5, i]


@njit(**JIT)
def _lay(code: int, c: NDArray[np.int32], r: Float, g: Float, b: Float, p: Float, lg: Float, tables: Float,
         data: Float, y: Float, first: int, width: int, t: Float, n: int) -> None:  # fmt: skip
    if code == Code.CHANNELS:
        channel_row(r, tables[c[1]], t, n)
        channel_row(g, tables[c[2]], t, n)
        channel_row(b, tables[c[3]], t, n)
    elif code == Code.LIGHT:
        for i in range(n):
            r[i] = p[0] * r[i] + p[1] * p[2] * t[0, i]
            g[i] = p[0] * g[i] + p[1] * p[3] * t[1, i]
            b[i] = p[0] * b[i] + p[1] * p[4] * t[2, i]
    elif code == Code.PAINT:
        for i in range(n):
            r[i] += p[0] * (max(t[0, i] * lg[i] + t[1, i], F(0.0)) - r[i])
            g[i] += p[0] * (max(t[2, i] * lg[i] + t[3, i], F(0.0)) - g[i])
            b[i] += p[0] * (max(t[4, i] * lg[i] + t[5, i], F(0.0)) - b[i])
    elif code == Code.FILL:
        fill_rows(r, g, b, tables[c[1]], tables[c[2]], tables[c[3]], p, y, first, width, n)
    elif code == Code.SHEET:
        sheet_rows(r, g, b, data, c[EXTRA_SLOT], c[EXTRA_SLOT + 1], c[EXTRA_SLOT + 2] > 0, p, y, first, width, n)
    elif code == Code.CUBE:
        cube_rows(r, g, b, data, c[EXTRA_SLOT], c[EXTRA_SLOT + 1], c[EXTRA_SLOT + 2] > 0, p, t, n)
    elif code == Code.TEXTURE:
        t[0, :n], t[1, :n], t[2, :n] = F(0.0), F(0.0), F(0.0)
        sheet_rows(
            t[0], t[1], t[2], data, c[EXTRA_SLOT], c[EXTRA_SLOT + 1], c[EXTRA_SLOT + 2] > 0, p, y, first, width, n
        )
        exp2_row(t[0], t[0], n)
        _gain(r, g, b, t[0], n)
    elif code == Code.GRAIN:
        t[0, :n], t[1, :n], t[2, :n] = F(0.0), F(0.0), F(0.0)
        sheet_rows(
            t[0], t[1], t[2], data, c[EXTRA_SLOT], c[EXTRA_SLOT + 1], c[EXTRA_SLOT + 2] > 0, p, y, first, width, n
        )
        lookup_row(tables[c[1]], lg, _FROM, _SCALE, t[3], n)
        for i in range(n):
            same = t[0, i] * (F(1.0) - p[1])
            t[1, i] = (same + p[1] * t[1, i]) * t[3, i]
            t[2, i] = (same + p[1] * t[2, i]) * t[3, i]
            t[0, i] *= t[3, i]
        for j in range(3):
            exp2_row(t[j], t[j], n)
        for i in range(n):
            r[i] *= t[0, i]
            g[i] *= t[1, i]
            b[i] *= t[2, i]


@njit(**JIT)
def _in_lab(code: int, c: NDArray[np.int32], r: Float, g: Float, b: Float, p: Float, tables: Float, t: Float,
            n: int) -> None:  # fmt: skip
    """r, g and b hold L, a and b, but for the way there."""
    if code == Code.TO_LAB:
        to_lab_rows(r, g, b, t, n)
    elif code == Code.AFFINE:
        affine_rows(g, b, p, n)
    elif code == Code.MUTED:
        muted_rows(g, b, p, n)
    elif code == Code.HUES:
        hue_rows(r, g, b, tables[c[1]], tables[c[2]], tables[c[3]], t, n)
    elif code == Code.TONED:
        toned_rows(r, g, b, tables[c[1]], tables[c[2]], t, n)
    elif code == Code.LIGHTNESS:
        lightness_rows(r, g, b, tables[c[1]], p, t, n)
    elif code == Code.SMOOTH:
        smooth_rows(r, g, b, p[0], t, n)
    elif code == Code.TO_RGB:
        to_rgb_rows(r, g, b, n)

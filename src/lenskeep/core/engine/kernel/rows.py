"""One pass over the pixels: every operation of a program, row by row, with the row's values staying in the cache."""

import numpy as np
from numpy.typing import NDArray

from lenskeep.core.colour.spaces import LUMINANCE
from lenskeep.core.engine.kernel.alpharows import alpha_row, mix_row
from lenskeep.core.engine.kernel.blends import blend_mode_rows
from lenskeep.core.engine.kernel.borrowed import Planes, borrowed
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
from lenskeep.core.engine.kernel.lightrows import (
    TONE_FROM,
    TONE_SCALE,
    band_row,
    by_tone_row,
    gain_rows,
    on_base_row,
    radial_row,
    tint_rows,
    top_band_row,
    veil_rows,
)
from lenskeep.core.engine.kernel.planerows import SPREAD_FROM, Columns, columns_of, plane_row
from lenskeep.core.engine.kernel.rowmath import (
    F,
    cbrt_row,
    copy_row,
    exp2_row,
    log2_row,
    lookup_row,
    matrix_here,
)
from lenskeep.core.engine.ops import EXTRA_SLOT, PLANE_SLOT, TRAITS, Code
from lenskeep.core.jit import JIT, njit
from lenskeep.core.types import Float

_Y0, _Y1, _Y2 = (F(v) for v in LUMINANCE)
_SIZE = max(TRAITS) + 1
_PLANES = np.array([TRAITS[c].planes if c in TRAITS else 0 for c in range(_SIZE)], np.int64)
_BY_LIGHT = np.array([c in TRAITS and TRAITS[c].by_light for c in range(_SIZE)])
_IN_LAB = np.array([c in TRAITS and TRAITS[c].space != "rgb" for c in range(_SIZE)])
"""The table of what operations read, by their codes."""
COLUMNS = 2048
"""So many columns of the frame at a time, that what is worked on stays in the processor's own memory."""


@njit(**JIT)
def _luminance(r: Float, g: Float, b: Float, dst: Float, n: int) -> None:
    for i in range(n):
        dst[i] = _Y0 * r[i] + _Y1 * g[i] + _Y2 * b[i]


@njit(**JIT)
def _take(pixels: Float, first: int, r: Float, g: Float, b: Float, n: int) -> None:
    """r, g, b = pixels (columns, 3) from a column on, numbers in a line: the compiler takes many of those at once."""
    line = pixels[first : first + n].reshape(-1)
    for i in range(n):
        r[i], g[i], b[i] = line[3 * i], line[3 * i + 1], line[3 * i + 2]


@njit(**JIT)
def _put(pixels: Float, first: int, r: Float, g: Float, b: Float, n: int) -> None:
    line = pixels[first : first + n].reshape(-1)
    for i in range(n):
        line[3 * i], line[3 * i + 1], line[3 * i + 2] = r[i], g[i], b[i]


@njit(**JIT)
def guide_rows(rgb: Float, out: Float) -> None:
    """out (rows, width) = the cube root of the luminance of rgb (rows, width, 3), which masks follow."""
    n = rgb.shape[1]
    lum = np.empty(n, np.float32)
    for row in range(rgb.shape[0]):
        _luminance(rgb[row, :, 0], rgb[row, :, 1], rgb[row, :, 2], lum, n)
        cbrt_row(lum, out[row], n)


@njit(**JIT)
def run_rows(
    rgb: Float,
    first_row: int,
    first_column: int,
    full_height: int,
    full_width: int,
    codes: NDArray[np.int32],
    params: Float,
    planes: Planes,
    tables: Float,
    data: Float,
    guides: Float,
    below: Float,
    fine: Float,
) -> None:
    """Run the program in place on a block (rows, columns, 3) that begins at ``first_row`` and ``first_column`` of a
    frame ``full_height`` high and ``full_width`` wide. ``planes`` are lent by ``lent_planes``.

    ``guides`` (rows, columns) is what masks follow; with no rows it is the cube root of the rows' own luminance, which
    is right whenever ``rgb`` is the untouched picture. ``below`` (rows, columns, 3), if it has rows, is what a step
    that was cut in two remembers: read by ``RECALL``, written at the end. ``fine`` (k, rows, columns) are the alphas
    drawn at this size.
    """
    columns = rgb.shape[1]
    spread = planes.shape[0] - 2 if F(full_height) >= F(SPREAD_FROM) * F(planes[0]) else 0
    line = np.empty(planes[1] if full_width >= planes[1] else 0, np.float32)
    first = np.int64(0)  # a plain 0 would be a type of its own, for which everything below is compiled once more
    while first < columns:  # the same columns of the frame together, whatever part of it the block is
        n = min(COLUMNS - (first_column + first) % COLUMNS, columns - first)
        work, held = np.empty((19, n), np.float32), np.empty((spread, 2, n), np.float32)
        held_row, live = np.full((spread, 2), -1, np.int32), np.full((codes.shape[0], 2, 3), -1, np.int32)
        left, right, across = np.empty(n, np.uint32), np.empty(n, np.uint32), np.empty(n, np.float32)
        columns_of(first_column + first, full_width, planes[1], left, right, across, n)
        _lent_columns(rgb, first, n, first_row, first_column, full_height, full_width, codes, params, planes, tables,
                      data, guides, below, fine, work, held, held_row, live, left, right, across, line)  # fmt: skip
        first += n


@njit(**JIT)
def _lent_columns(
    rgb: Float, first: int, n: int, first_row: int, first_column: int, full_height: int, full_width: int,
    codes: NDArray[np.int32], params: Float, planes: Planes, tables: Float, data: Float, guides: Float, below: Float,
    fine: Float, work: Float, held: Float, held_row: NDArray[np.int32], live: NDArray[np.int32],
    left: Columns, right: Columns, across: Float, line: Float,
) -> None:  # fmt: skip
    """Lends ``_run_columns`` its arrays. The caller holds them: here each would be let go as soon as it was lent."""
    _run_columns(
        borrowed(rgb), first, n, first_row, first_column, full_height, full_width, borrowed(codes), borrowed(params),
        borrowed(planes), borrowed(tables), borrowed(data), borrowed(guides), borrowed(below), borrowed(fine),
        borrowed(work), borrowed(held), borrowed(held_row), borrowed(live), borrowed(left), borrowed(right),
        borrowed(across), borrowed(line),
    )  # fmt: skip


@njit(**JIT)
def _run_columns(
    rgb: Float, first: int, n: int, first_row: int, first_column: int, full_height: int, full_width: int,
    codes: NDArray[np.int32], params: Float, planes: Planes, tables: Float, data: Float, guides: Float, below: Float,
    fine: Float, work: Float, held: Float, held_row: NDArray[np.int32], live: NDArray[np.int32],
    left: Columns, right: Columns, across: Float, line: Float,
) -> None:  # fmt: skip
    """The ``n`` columns of a block from ``first`` on."""
    rows, ph = rgb.shape[0], planes[0]
    guide, alpha = work[8], work[18]
    # on the proxy, and for guards, planes are of the picture's own size, and read as they are; what is finished, which
    # brings no guides, keeps the bits it always had
    own_size = guides.shape[0] > 0 and ph == full_height and planes[1] == full_width
    same = first_column + first if own_size else -1
    for row in range(rows):
        where = (F(first_row + row) + F(0.5)) / F(full_height)
        py = min(max(where * F(ph) - F(0.5), F(0.0)), F(ph - 1))
        top = np.int32(py)
        down = py - F(top)
        if same >= 0:
            top, down = np.int32(first_row + row), F(0.0)
        _take(rgb[row], first, work[0], work[1], work[2], n)
        if guides.shape[0] == 0:
            _luminance(work[0], work[1], work[2], work[6], n)
            cbrt_row(work[6], guide, n)
        else:
            for i in range(n):
                guide[i] = guides[row, first + i]
        lo, hi, k = 0, n, 0
        while k < codes.shape[0]:
            code, p = codes[k, 0], params[k]
            if code == Code.BELOW or code == Code.RECALL:
                # a step begins or goes on: find its region in this row first, and work no further than it reaches
                end = k + 1
                while end < codes.shape[0] and codes[end, 0] != Code.BLEND:
                    end += 1
                which = end
                if code == Code.RECALL:
                    which = k
                    _take(below[row], first, work[3], work[4], work[5], n)
                lo, hi = 0, n
                if which < codes.shape[0] and codes[which, PLANE_SLOT] >= 0:
                    lo, hi = alpha_row(codes, which, planes, top, down, line, left, right, across, held, held_row, live,
                                       guide, params[which, 0], work, alpha, n, fine, row, first, same)  # fmt: skip
                    if code == Code.RECALL:  # what the first half did where the step does not reach
                        for i in range(n):
                            if i < lo or i >= hi:
                                work[0, i], work[1, i], work[2, i] = work[3, i], work[4, i], work[5, i]
                    if hi == 0:
                        k, lo, hi = end + 1, 0, n
                        continue
            m = hi - lo
            r, g, b = work[0, lo:hi], work[1, lo:hi], work[2, lo:hi]
            lum, lg, gain, t = work[6], work[7], work[9], work[12:18]
            if _BY_LIGHT[code]:
                _luminance(r, g, b, lum, m)
                log2_row(lum, lg, m)
            reads = _PLANES[code]
            for j in range(reads):
                plane_row(planes, codes[k, PLANE_SLOT + j], top, down, line, left, right, across, held, held_row, lo,
                          hi, same, t[j])  # fmt: skip
            if code == Code.BELOW:
                copy_row(r, work[3, lo:hi], m)
                copy_row(g, work[4, lo:hi], m)
                copy_row(b, work[5, lo:hi], m)
            elif code == Code.MATRIX:
                matrix_here(p[:9].reshape(3, 3), r, g, b, m)
            elif code == Code.TONE or code == Code.BASE_TONE:
                if code == Code.BASE_TONE:
                    on_base_row(lg, t[0], t[1], m)
                lookup_row(tables[codes[k, 1]], lg, TONE_FROM, TONE_SCALE, gain, m)
                exp2_row(gain, m)
                gain_rows(r, g, b, gain, m)
            elif code == Code.TOP_BAND or code == Code.BAND:
                if code == Code.TOP_BAND:
                    top_band_row(lg, t[0], t[1], p, gain, m)
                else:
                    band_row(lg, t[0], t[1], t[2], t[3], p, gain, m)
                if codes[k, 1] >= 0:
                    by_tone_row(gain, tables[codes[k, 1]], lg, t, 0 if code == Code.TOP_BAND else 2, m)
                exp2_row(gain, m)
                gain_rows(r, g, b, gain, m)
            elif code == Code.VEIL:
                veil_rows(r, g, b, p, lg, t[0], t[1], m)
            elif code == Code.RADIAL:
                radial_row(gain, p, where, first_column + first + lo, full_width, m)
                if p[14] > F(0.0):
                    tint_rows(r, g, b, gain, p, m)
                for i in range(m):
                    gain[i] *= p[4]
                exp2_row(gain, m)
                gain_rows(r, g, b, gain, m)
            elif code == Code.BLEND:
                r0, g0, b0, share = work[3, lo:hi], work[4, lo:hi], work[5, lo:hi], alpha[lo:hi]
                if codes[k, EXTRA_SLOT] > 0:
                    blend_mode_rows(codes[k, EXTRA_SLOT], r0, g0, b0, r, g, b, t, m)
                if codes[k, PLANE_SLOT] < 0:
                    share[:] = p[0]
                if codes[k, PLANE_SLOT] >= 0 or p[0] < F(1.0):
                    mix_row(r, r0, share, m)
                    mix_row(g, g0, share, m)
                    mix_row(b, b0, share, m)
                lo, hi = 0, n
            elif not _IN_LAB[code]:
                _lay(code, codes[k], r, g, b, p, lg, tables, data, where, first_column + first + lo, full_width, t, m)
            else:
                _in_lab(code, codes[k], r, g, b, p, tables, t, m)
            k += 1
        _put(rgb[row], first, work[0], work[1], work[2], n)
        if below.shape[0] > 0:
            _put(below[row], first, work[3], work[4], work[5], n)


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
    elif code == Code.TEXTURE or code == Code.GRAIN:
        t[0, :n], t[1, :n], t[2, :n] = F(0.0), F(0.0), F(0.0)
        sheet_rows(
            t[0], t[1], t[2], data, c[EXTRA_SLOT], c[EXTRA_SLOT + 1], c[EXTRA_SLOT + 2] > 0, p, y, first, width, n
        )
        if code == Code.TEXTURE:
            exp2_row(t[0], n)
            gain_rows(r, g, b, t[0], n)
            return
        lookup_row(tables[c[1]], lg, TONE_FROM, TONE_SCALE, t[3], n)
        for i in range(n):
            same = t[0, i] * (F(1.0) - p[1])
            t[1, i] = (same + p[1] * t[1, i]) * t[3, i]
            t[2, i] = (same + p[1] * t[2, i]) * t[3, i]
            t[0, i] *= t[3, i]
        for j in range(3):
            exp2_row(t[j], n)
        for i in range(n):
            r[i] *= t[0, i]
            g[i] *= t[1, i]
            b[i] *= t[2, i]


@njit(**JIT)
def _in_lab(code: int, c: NDArray[np.int32], r: Float, g: Float, b: Float, p: Float, tables: Float, t: Float,
            n: int) -> None:  # fmt: skip
    """r, g and b hold L, a and b, but for the way there."""
    if code == Code.TO_LAB:
        to_lab_rows(r, g, b, n)
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


def compile_operations() -> None:
    """Compile what ``run_rows`` calls last, for whoever compiles that one in another process meanwhile."""
    slots, row, rows = np.zeros(8, np.int32), np.zeros(1, np.float32), np.zeros((1, 1), np.float32)
    code, one, zero = np.int32(0), np.int64(1), np.int64(0)
    _in_lab(code, slots, row, row, row, row, rows, rows, one)
    _lay(code, slots, row, row, row, row, row, rows, row, F(0.0), zero, one, rows, one)

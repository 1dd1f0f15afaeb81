"""Rows filled, tinted by tables and laid over: colour fill, sheets, per-channel curves and colour tables."""

from typing import Any

import numpy as np

from lenskeep.core.colour.spaces import REC2020_TO_SRGB, SRGB_TO_REC2020
from lenskeep.core.engine.kernel.blends import decode_row, encode_row
from lenskeep.core.engine.kernel.labrows import LIGHT_SCALE
from lenskeep.core.engine.kernel.rowmath import F, cbrt_row, lookup_row, matrix_rows
from lenskeep.core.engine.ops import LIGHT_TO, TABLE_SIZE
from lenskeep.core.jit import JIT, njit
from lenskeep.core.types import Float

_TO_SRGB = REC2020_TO_SRGB.astype(np.float32)
_FROM_SRGB = SRGB_TO_REC2020.astype(np.float32)
_LIGHT_TO = F(LIGHT_TO)


@njit(**JIT)
def channel_row(x: Float, table: Float, t: Float, n: int) -> None:
    """One channel: its cube root through a table, beyond the ends in parallel."""
    cbrt_row(x, t[0], n)
    lookup_row(table, t[0], F(0.0), LIGHT_SCALE, t[1], n)
    for i in range(n):
        v = t[1, i] + t[0, i] - min(max(t[0, i], F(0.0)), _LIGHT_TO)
        x[i] = v * v * v


@njit(**JIT)
def fill_rows(r: Float, g: Float, b: Float, red: Float, green: Float, blue: Float, p: Float, y: Float, first: int,
              width: int, n: int) -> None:  # fmt: skip
    """Mixed by p[3] with colours from tables at p[0]·x + p[1]·y + p[2], held to 0…1."""
    last = F(TABLE_SIZE - 1.001)
    for i in range(n):
        at = p[0] * (F(first + i) + F(0.5)) / F(width) + p[1] * y + p[2]
        x = min(max(at, F(0.0)), F(1.0)) * last
        k = np.int32(x)
        f = x - F(k)
        r[i] += p[3] * (red[k] + f * (red[k + 1] - red[k]) - r[i])
        g[i] += p[3] * (green[k] + f * (green[k + 1] - green[k]) - g[i])
        b[i] += p[3] * (blue[k] + f * (blue[k + 1] - blue[k]) - b[i])


@njit(**JIT)
def sheet_rows(r: Float, g: Float, b: Float, data: Float, start: int, levels: int, tiled: bool, p: Float, y: Float,
               first: int, width: int, n: int) -> None:  # fmt: skip
    """A sheet over the rows; p = (opacity, …, from p[4]: x0, y0, width, height). Takes the level nearest in size."""
    x0, y0, across, down = p[4], p[5], p[6], p[7]
    at = start
    h, w = int(data[at]), int(data[at + 1])
    texels = F(w) / (across * F(width))
    for _ in range(levels - 1):
        if texels < F(1.5):
            break
        at += 2 + 4 * h * w
        h, w = int(data[at]), int(data[at + 1])
        texels *= F(0.5)
    v = (y - y0) / down
    if tiled:
        v -= np.floor(v)
    elif v < F(0.0) or v >= F(1.0):
        return
    fy = v * F(h) - F(0.5)
    top = int(np.floor(fy))
    dy = fy - F(top)
    top, low = (top % h, (top + 1) % h) if tiled else (max(top, 0), min(top + 1, h - 1))
    for i in range(n):
        u = ((F(first + i) + F(0.5)) / F(width) - x0) / across
        if tiled:
            u -= np.floor(u)
        elif u < F(0.0) or u >= F(1.0):
            continue
        fx = u * F(w) - F(0.5)
        left = int(np.floor(fx))
        dx = fx - F(left)
        left, right = (left % w, (left + 1) % w) if tiled else (max(left, 0), min(left + 1, w - 1))
        a, c = at + 2 + 4 * (top * w + left), at + 2 + 4 * (top * w + right)
        d, e = at + 2 + 4 * (low * w + left), at + 2 + 4 * (low * w + right)
        cover = _mixed(data[a + 3], data[c + 3], data[d + 3], data[e + 3], dx, dy) * p[0]
        r[i] = r[i] * (F(1.0) - cover) + p[0] * _mixed(data[a], data[c], data[d], data[e], dx, dy)
        g[i] = g[i] * (F(1.0) - cover) + p[0] * _mixed(data[a + 1], data[c + 1], data[d + 1], data[e + 1], dx, dy)
        b[i] = b[i] * (F(1.0) - cover) + p[0] * _mixed(data[a + 2], data[c + 2], data[d + 2], data[e + 2], dx, dy)


@njit(**JIT)
def _mixed(a: Any, b: Any, c: Any, d: Any, dx: Any, dy: Any) -> Any:
    high, low = a + dx * (b - a), c + dx * (d - c)
    return high + dy * (low - high)


@njit(**JIT)
def tetrahedral(data: Float, at: int, size: int, x: Any, y: Any, z: Any) -> Any:
    """A colour table of ``size``³ at (x, y, z) in cells; linear in tetrahedra (Kang 2006, *Computational
    Color Technology*, chapter 9).
    """
    i, j, k = min(int(x), size - 2), min(int(y), size - 2), min(int(z), size - 2)
    x, y, z = x - F(i), y - F(j), z - F(k)
    sx, sy, sz = 3 * size * size, 3 * size, 3
    low = at + i * sx + j * sy + k * sz
    high = low + sx + sy + sz
    if x >= y:
        if y >= z:
            one, two, a, b, c = sx, sx + sy, x, y, z
        elif x >= z:
            one, two, a, b, c = sx, sx + sz, x, z, y
        else:
            one, two, a, b, c = sz, sx + sz, z, x, y
    elif x >= z:
        one, two, a, b, c = sy, sx + sy, y, x, z
    elif y >= z:
        one, two, a, b, c = sy, sy + sz, y, z, x
    else:
        one, two, a, b, c = sz, sy + sz, z, y, x
    w0, w1, w2 = F(1.0) - a, a - b, b - c
    p, q = low + one, low + two
    return (
        w0 * data[low] + w1 * data[p] + w2 * data[q] + c * data[high],
        w0 * data[low + 1] + w1 * data[p + 1] + w2 * data[q + 1] + c * data[high + 1],
        w0 * data[low + 2] + w1 * data[p + 2] + w2 * data[q + 2] + c * data[high + 2],
    )


@njit(**JIT)
def _line(data: Float, at: int, size: int, x: Any) -> Any:
    """One channel of a one-dimensional table at x in cells."""
    i = min(int(x), size - 2)
    a = data[at + 3 * i]
    return a + (x - F(i)) * (data[at + 3 * i + 3] - a)


@njit(**JIT)
def cube_rows(r: Float, g: Float, b: Float, data: Float, at: int, size: int, one: bool, p: Float, t: Float,
              n: int) -> None:  # fmt: skip
    """Rows through a colour table over encoded sRGB; p = (share, domain's low r g b, its high r g b).

    Colours outside the domain take the change of the nearest one inside it.
    """
    matrix_rows(_TO_SRGB, r, g, b, t[0], t[1], t[2], n)
    encode_row(t[0], t[3], n)
    encode_row(t[1], t[3], n)
    encode_row(t[2], t[3], n)
    top = F(size - 1)
    for i in range(n):
        x, y, z = min(max(t[0, i], p[1]), p[4]), min(max(t[1, i], p[2]), p[5]), min(max(t[2, i], p[3]), p[6])
        u, v, w = (x - p[1]) / (p[4] - p[1]) * top, (y - p[2]) / (p[5] - p[2]) * top, (z - p[3]) / (p[6] - p[3]) * top
        if one:
            red, green, blue = _line(data, at, size, u), _line(data, at + 1, size, v), _line(data, at + 2, size, w)
        else:
            red, green, blue = tetrahedral(data, at, size, u, v, w)
        t[0, i] += p[0] * (red - x)
        t[1, i] += p[0] * (green - y)
        t[2, i] += p[0] * (blue - z)
    decode_row(t[0], t[3], n)
    decode_row(t[1], t[3], n)
    decode_row(t[2], t[3], n)
    matrix_rows(_FROM_SRGB, t[0], t[1], t[2], r, g, b, n)

"""What is told of every pixel of a picture at once: one pass each where NumPy would take three."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from lenskeep.core.colour.spaces import LUMINANCE
from lenskeep.core.engine.kernel.rowmath import F, log2_row, smooth
from lenskeep.core.jit import JIT, njit
from lenskeep.core.types import Float

_Y0, _Y1, _Y2 = (F(v) for v in LUMINANCE)


@njit(**JIT)
def _light(row: Float, out: Float) -> None:
    """out (w) = the luminance of a row (w, 3)."""
    line = row.reshape(-1)
    for x in range(out.shape[0]):
        out[x] = _Y0 * line[3 * x] + _Y1 * line[3 * x + 1] + _Y2 * line[3 * x + 2]


@njit(**JIT)
def light_of(rgb: Float, out: Float) -> None:
    """out (h, w) = the luminance of linear Rec. 2020 (h, w, 3)."""
    for y in range(rgb.shape[0]):
        _light(rgb[y], out[y])


@njit(**JIT)
def log_light_of(rgb: Float, out: Float) -> None:
    """out (h, w) = log2 of the luminance of linear Rec. 2020 (h, w, 3), held to at least -20."""
    n = rgb.shape[1]
    lum = np.empty(n, np.float32)
    for y in range(rgb.shape[0]):
        _light(rgb[y], lum)
        log2_row(lum, out[y], n)


@njit(**JIT)
def least_of(rgb: Float, red: Any, green: Any, blue: Any, out: Float) -> None:
    """out (h, w) = the least of three channels (h, w, 3), each times its own factor."""
    n = rgb.shape[1]
    for y in range(rgb.shape[0]):
        line, row = rgb[y].reshape(-1), out[y]
        for x in range(n):
            row[x] = min(min(line[3 * x] * red, line[3 * x + 1] * green), line[3 * x + 2] * blue)


@njit(**JIT)
def ease_here(plane: Float, times: Any, plus: Any) -> None:
    """plane (h, w) = the smooth step of ``plus`` + ``times`` · plane."""
    for y in range(plane.shape[0]):
        row = plane[y]
        for x in range(row.shape[0]):
            row[x] = smooth(plus + times * row[x])


@njit(**JIT)
def table_of(codes: NDArray[np.uint16], table: Float, out: Float) -> None:
    """out = what stands in a table of 65536 entries at each of the codes, both in a line."""
    for i in range(codes.shape[0]):
        out[i] = table[codes[i]]

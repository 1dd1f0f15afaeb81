"""From 8-bit sRGB into the working space, and into 8 bits of output spaces."""

import numpy as np
from numpy.typing import NDArray

from lenskeep.core.colour.spaces import SRGB_TO_REC2020, OutputSpace
from lenskeep.core.colour.transfer import ENCODE8
from lenskeep.core.engine.encode.base import Encoder
from lenskeep.core.engine.encode.gamut import SPACES, into_space
from lenskeep.core.engine.kernel.rowmath import F
from lenskeep.core.jit import JIT, njit
from lenskeep.core.types import SRGB8, Float

_IN = SRGB_TO_REC2020.astype(np.float32)


@njit(**JIT)
def decode_rows(encoded: SRGB8, table: Float, out: Float) -> None:
    """8-bit sRGB (rows, width, 3) to linear Rec. 2020 in ``out`` of the same shape."""
    for y in range(encoded.shape[0]):
        for x in range(encoded.shape[1]):
            r, g, b = table[encoded[y, x, 0]], table[encoded[y, x, 1]], table[encoded[y, x, 2]]
            out[y, x, 0] = _IN[0, 0] * r + _IN[0, 1] * g + _IN[0, 2] * b
            out[y, x, 1] = _IN[1, 0] * r + _IN[1, 1] * g + _IN[1, 2] * b
            out[y, x, 2] = _IN[2, 0] * r + _IN[2, 1] * g + _IN[2, 2] * b


@njit(**JIT)
def averaged_rows(encoded: SRGB8, table: Float, bins: int, out: Float) -> None:
    """8-bit sRGB (rows · bins, width · bins, 3) averaged in linear light, ``bins`` by ``bins``, to linear Rec. 2020 in
    ``out`` (rows, width, 3). Light is summed up as it is read, and nothing of full size is made of it.
    """
    share, n = F(1.0) / F(bins * bins), out.shape[1]
    sums = np.empty((3, n), np.float32)
    red, green, blue = sums[0], sums[1], sums[2]
    for y in range(out.shape[0]):
        sums[:] = F(0.0)
        for j in range(bins):
            line = encoded[y * bins + j].reshape(-1)
            k = np.uint32(0)
            for x in range(n):
                r, g, b = red[x], green[x], blue[x]
                for _ in range(bins):
                    r += table[line[k]]
                    g += table[line[k + np.uint32(1)]]
                    b += table[line[k + np.uint32(2)]]
                    k = np.uint32(k + np.uint32(3))
                red[x], green[x], blue[x] = r, g, b
        for x in range(n):
            r, g, b = red[x] * share, green[x] * share, blue[x] * share
            out[y, x, 0] = _IN[0, 0] * r + _IN[0, 1] * g + _IN[0, 2] * b
            out[y, x, 1] = _IN[1, 0] * r + _IN[1, 1] * g + _IN[1, 2] * b
            out[y, x, 2] = _IN[2, 0] * r + _IN[2, 1] * g + _IN[2, 2] * b


@njit(**JIT)
def _entries(values: Float, top: float, entries: NDArray[np.uint32]) -> None:
    """Where in a table of ``top`` + 1 entries each value stands; unsigned, below 0 it would count from the end."""
    for i in range(values.shape[0]):
        entries[i] = np.uint32(min(max(values[i], F(0.0)), F(1.0)) * top + F(0.5))


@njit(**JIT)
def _encode_rows(rgb: Float, table: NDArray[np.uint8], direct: Float, to: Float, out: SRGB8) -> None:
    n, top = rgb.shape[1], F(table.shape[0] - 1)
    row, where, at = np.empty((3, n), np.float32), np.empty(n + 1, np.int32), np.empty((3, n), np.uint32)
    red, green, blue = at[0], at[1], at[2]
    for y in range(rgb.shape[0]):
        into_space(rgb[y], direct, to, row, where)
        for c in range(3):  # apart from reading the table, which goes one by one
            _entries(row[c], top, at[c])
        codes = out[y].reshape(-1)
        for x in range(n):
            codes[3 * x], codes[3 * x + 1], codes[3 * x + 2] = table[red[x]], table[green[x]], table[blue[x]]


def encode_rows(rgb: Float, out: SRGB8, space: OutputSpace = "srgb") -> None:
    """Linear Rec. 2020 (rows, width, 3) to 8 bits of an output space in ``out``, gamut mapped."""
    direct, to = SPACES[space]
    _encode_rows(rgb, ENCODE8, direct, to, out)


EIGHT_BITS = Encoder("8 bits", np.uint8, encode_rows)

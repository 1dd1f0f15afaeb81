"""From 8-bit sRGB into the working space, and into output spaces, colours outside brought in by lowering their chroma.

Gamut mapping: CSS Color 4, section 13: OKLCh chroma is reduced at constant lightness and hue (here by bisection, to
1/4096 of the chroma), never channels clipped.
"""

from typing import Any, get_args

import numpy as np
from numba import njit
from numpy.typing import NDArray

from lenskeep.core.colour.oklab import LAB_TO_LMS, LMS_TO_LAB, LMS_TO_RGB, RGB_TO_LMS
from lenskeep.core.colour.spaces import SRGB_TO_REC2020, OutputSpace, from_rec2020
from lenskeep.core.colour.transfer import ENCODE8
from lenskeep.core.engine.encode.base import Encoder
from lenskeep.core.engine.kernel.rowmath import JIT, F
from lenskeep.core.types import SRGB8, Float

_IN = SRGB_TO_REC2020.astype(np.float32)
_LMS = RGB_TO_LMS.astype(np.float32)
_LAB = LMS_TO_LAB.astype(np.float32)
_UNLAB = LAB_TO_LMS.astype(np.float32)
_SLACK = F(2e-4)


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
def _lab_to_rgb(light: Any, a: Any, b: Any, to: Float) -> tuple[Any, Any, Any]:
    x = _UNLAB[0, 0] * light + _UNLAB[0, 1] * a + _UNLAB[0, 2] * b
    y = _UNLAB[1, 0] * light + _UNLAB[1, 1] * a + _UNLAB[1, 2] * b
    z = _UNLAB[2, 0] * light + _UNLAB[2, 1] * a + _UNLAB[2, 2] * b
    x, y, z = x * x * x, y * y * y, z * z * z
    return (
        to[0, 0] * x + to[0, 1] * y + to[0, 2] * z,
        to[1, 0] * x + to[1, 1] * y + to[1, 2] * z,
        to[2, 0] * x + to[2, 1] * y + to[2, 2] * z,
    )


@njit(**JIT)
def _inside(r: Any, g: Any, b: Any) -> bool:
    low, high = min(r, min(g, b)), max(r, max(g, b))
    return bool(low >= -_SLACK and high <= F(1.0) + _SLACK)


@njit(**JIT)
def mapped(r: Any, g: Any, b: Any, to: Float) -> tuple[Any, Any, Any]:
    """Linear Rec. 2020 outside an output space to its most colourful RGB with that OKLab lightness and hue.

    ``to`` (3, 3) goes from linear LMS to the output's RGB.
    """
    x = np.cbrt(_LMS[0, 0] * r + _LMS[0, 1] * g + _LMS[0, 2] * b)
    y = np.cbrt(_LMS[1, 0] * r + _LMS[1, 1] * g + _LMS[1, 2] * b)
    z = np.cbrt(_LMS[2, 0] * r + _LMS[2, 1] * g + _LMS[2, 2] * b)
    light = _LAB[0, 0] * x + _LAB[0, 1] * y + _LAB[0, 2] * z
    if light >= F(1.0):
        return F(1.0), F(1.0), F(1.0)
    if light <= F(0.0):
        return F(0.0), F(0.0), F(0.0)
    a = _LAB[1, 0] * x + _LAB[1, 1] * y + _LAB[1, 2] * z
    c = _LAB[2, 0] * x + _LAB[2, 1] * y + _LAB[2, 2] * z
    low, high = F(0.0), F(1.0)
    for _ in range(12):
        middle = F(0.5) * (low + high)
        r, g, b = _lab_to_rgb(light, middle * a, middle * c, to)
        if _inside(r, g, b):
            low = middle
        else:
            high = middle
    out: tuple[Any, Any, Any] = _lab_to_rgb(light, low * a, low * c, to)
    return out


@njit(**JIT)
def in_gamut(p: Any, q: Any, s: Any, direct: Float, to: Float) -> tuple[Any, Any, Any]:
    """Linear Rec. 2020 as an output space's linear RGB: straight where it lies inside, else with less chroma."""
    r = direct[0, 0] * p + direct[0, 1] * q + direct[0, 2] * s
    g = direct[1, 0] * p + direct[1, 1] * q + direct[1, 2] * s
    b = direct[2, 0] * p + direct[2, 1] * q + direct[2, 2] * s
    if not _inside(r, g, b):
        r, g, b = mapped(p, q, s, to)
    return r, g, b


@njit(**JIT)
def _encode_rows(rgb: Float, table: NDArray[np.uint8], direct: Float, to: Float, out: SRGB8) -> None:
    """``direct`` (3, 3) goes from linear Rec. 2020 to the output's linear RGB, ``to`` from linear LMS."""
    top = F(table.shape[0] - 1)
    for y in range(rgb.shape[0]):
        for x in range(rgb.shape[1]):
            r, g, b = in_gamut(rgb[y, x, 0], rgb[y, x, 1], rgb[y, x, 2], direct, to)
            out[y, x, 0] = table[np.int32(min(max(r, F(0.0)), F(1.0)) * top + F(0.5))]
            out[y, x, 1] = table[np.int32(min(max(g, F(0.0)), F(1.0)) * top + F(0.5))]
            out[y, x, 2] = table[np.int32(min(max(b, F(0.0)), F(1.0)) * top + F(0.5))]


SPACES: dict[str, tuple[Float, Float]] = {
    space: (
        np.ascontiguousarray(from_rec2020(space), np.float32),
        np.ascontiguousarray(from_rec2020(space) @ LMS_TO_RGB, np.float32),
    )
    for space in get_args(OutputSpace)
}
"""For every output space the matrices from linear Rec. 2020 and from linear LMS."""


def encode_rows(rgb: Float, out: SRGB8, space: OutputSpace = "srgb") -> None:
    """Linear Rec. 2020 (rows, width, 3) to 8 bits of an output space in ``out``, gamut mapped."""
    direct, to = SPACES[space]
    _encode_rows(rgb, ENCODE8, direct, to, out)


EIGHT_BITS = Encoder("8 bits", np.uint8, encode_rows)

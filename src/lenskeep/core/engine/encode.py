"""From 8-bit sRGB into the working space and back, with colours outside sRGB brought in by lowering their chroma.

Gamut mapping: CSS Color 4, section 13: OKLCh chroma is reduced at constant lightness and hue (here by bisection, to
1/4096 of the chroma), never channels clipped.
"""

from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray

from lenskeep.core.colour.oklab import LAB_TO_LMS, LMS_TO_LAB, LMS_TO_RGB, RGB_TO_LMS
from lenskeep.core.colour.spaces import REC2020_TO_SRGB, SRGB_TO_REC2020
from lenskeep.core.engine.rowmath import JIT, F
from lenskeep.core.types import SRGB8, Float

_IN = SRGB_TO_REC2020.astype(np.float32)
_OUT = REC2020_TO_SRGB.astype(np.float32)
_SRGB_TO_LMS = (RGB_TO_LMS @ SRGB_TO_REC2020).astype(np.float32)
_LMS_TO_SRGB = (REC2020_TO_SRGB @ LMS_TO_RGB).astype(np.float32)
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
def _lab_to_srgb(light: Any, a: Any, b: Any) -> tuple[Any, Any, Any]:
    x = _UNLAB[0, 0] * light + _UNLAB[0, 1] * a + _UNLAB[0, 2] * b
    y = _UNLAB[1, 0] * light + _UNLAB[1, 1] * a + _UNLAB[1, 2] * b
    z = _UNLAB[2, 0] * light + _UNLAB[2, 1] * a + _UNLAB[2, 2] * b
    x, y, z = x * x * x, y * y * y, z * z * z
    return (
        _LMS_TO_SRGB[0, 0] * x + _LMS_TO_SRGB[0, 1] * y + _LMS_TO_SRGB[0, 2] * z,
        _LMS_TO_SRGB[1, 0] * x + _LMS_TO_SRGB[1, 1] * y + _LMS_TO_SRGB[1, 2] * z,
        _LMS_TO_SRGB[2, 0] * x + _LMS_TO_SRGB[2, 1] * y + _LMS_TO_SRGB[2, 2] * z,
    )


@njit(**JIT)
def _inside(r: Any, g: Any, b: Any) -> bool:
    low, high = min(r, min(g, b)), max(r, max(g, b))
    return bool(low >= -_SLACK and high <= F(1.0) + _SLACK)


@njit(**JIT)
def map_to_srgb(r: Any, g: Any, b: Any) -> tuple[Any, Any, Any]:
    """A linear sRGB colour outside 0…1 to the most colourful one inside with its OKLab lightness and hue."""
    x = np.cbrt(_SRGB_TO_LMS[0, 0] * r + _SRGB_TO_LMS[0, 1] * g + _SRGB_TO_LMS[0, 2] * b)
    y = np.cbrt(_SRGB_TO_LMS[1, 0] * r + _SRGB_TO_LMS[1, 1] * g + _SRGB_TO_LMS[1, 2] * b)
    z = np.cbrt(_SRGB_TO_LMS[2, 0] * r + _SRGB_TO_LMS[2, 1] * g + _SRGB_TO_LMS[2, 2] * b)
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
        r, g, b = _lab_to_srgb(light, middle * a, middle * c)
        if _inside(r, g, b):
            low = middle
        else:
            high = middle
    out: tuple[Any, Any, Any] = _lab_to_srgb(light, low * a, low * c)
    return out


@njit(**JIT)
def encode_rows(rgb: Float, table: NDArray[np.uint8], out: SRGB8) -> None:
    """Linear Rec. 2020 (rows, width, 3) to 8-bit sRGB in ``out``, gamut mapped."""
    top = F(table.shape[0] - 1)
    for y in range(rgb.shape[0]):
        for x in range(rgb.shape[1]):
            p, q, s = rgb[y, x, 0], rgb[y, x, 1], rgb[y, x, 2]
            r = _OUT[0, 0] * p + _OUT[0, 1] * q + _OUT[0, 2] * s
            g = _OUT[1, 0] * p + _OUT[1, 1] * q + _OUT[1, 2] * s
            b = _OUT[2, 0] * p + _OUT[2, 1] * q + _OUT[2, 2] * s
            if not _inside(r, g, b):
                r, g, b = map_to_srgb(r, g, b)
            out[y, x, 0] = table[np.int32(min(max(r, F(0.0)), F(1.0)) * top + F(0.5))]
            out[y, x, 1] = table[np.int32(min(max(g, F(0.0)), F(1.0)) * top + F(0.5))]
            out[y, x, 2] = table[np.int32(min(max(b, F(0.0)), F(1.0)) * top + F(0.5))]

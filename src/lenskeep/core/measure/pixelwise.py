"""Guards that look at each finished pixel alone: clipped, crushed and out of gamut, in one pass."""

from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray

from lenskeep.core.colour.spaces import REC2020_TO_SRGB
from lenskeep.core.colour.transfer import decode_srgb
from lenskeep.core.engine.kernel.rowmath import F
from lenskeep.core.types import Alpha, LinearRGB

PIXELWISE = ("clipped", "crushed", "gamut")
BLACK, WHITE = (F(v) for v in decode_srgb(np.array([1.5 / 255, 254.5 / 255], np.float32)))
GAMUT_SLACK = F(4e-3)
_TO_SRGB = REC2020_TO_SRGB.astype(np.float32)


def pixel_faults(picture: LinearRGB) -> dict[str, Alpha]:
    """Where (h, w), 0 or 1, a finished picture (h, w, 3) has two channels or all at white ("clipped"), all at black
    ("crushed"), or a colour that no sRGB value holds, apart from sheer light over white ("gamut").
    """
    out = np.empty((3, *picture.shape[:2]), np.float32)
    _tested(np.ascontiguousarray(picture, np.float32), _TO_SRGB, out)
    return dict(zip(PIXELWISE, out, strict=True))


@njit(nogil=True, cache=True, error_model="numpy")
def _tested(picture: LinearRGB, to_srgb: NDArray[Any], out: Alpha) -> None:
    for y in range(picture.shape[0]):
        for x in range(picture.shape[1]):
            a, b, c = picture[y, x, 0], picture[y, x, 1], picture[y, x, 2]
            red = to_srgb[0, 0] * a + to_srgb[0, 1] * b + to_srgb[0, 2] * c
            green = to_srgb[1, 0] * a + to_srgb[1, 1] * b + to_srgb[1, 2] * c
            blue = to_srgb[2, 0] * a + to_srgb[2, 1] * b + to_srgb[2, 2] * c
            most, least = max(red, green, blue), min(red, green, blue)
            middle = max(min(red, green), min(max(red, green), blue))
            out[0, y, x] = F(1.0) if middle >= WHITE else F(0.0)
            out[1, y, x] = F(1.0) if most <= BLACK else F(0.0)
            # over white, only what is left of the colour counts
            out[2, y, x] = F(1.0) if least < -GAMUT_SLACK * max(most, F(1.0)) else F(0.0)

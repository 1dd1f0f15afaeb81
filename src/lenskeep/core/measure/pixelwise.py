"""Guards that look at each finished pixel alone: clipped, crushed and out of gamut, in one pass."""

from typing import Any

import numpy as np

from lenskeep.core.colour.spaces import REC2020_TO_SRGB
from lenskeep.core.colour.transfer import decode_srgb
from lenskeep.core.engine.kernel.rowmath import F
from lenskeep.core.jit import PLAIN, njit
from lenskeep.core.types import Alpha, LinearRGB

PIXELWISE = ("clipped", "crushed", "gamut")
BLACK, WHITE = (F(v) for v in decode_srgb(np.array([1.5 / 255, 254.5 / 255], np.float32)))
GAMUT_SLACK = F(4e-3)
_TO_SRGB = tuple(REC2020_TO_SRGB.astype(np.float32).ravel())


def pixel_faults(picture: LinearRGB) -> dict[str, Alpha]:
    """Where (h, w), 0 or 1, a finished picture (h, w, 3) has two channels or all at white ("clipped"), all at black
    ("crushed"), or a colour that no sRGB value holds, apart from sheer light over white ("gamut").
    """
    out = np.empty((3, *picture.shape[:2]), np.float32)
    _tested(np.require(picture, np.float32, ["C", "W"]), _TO_SRGB, out)
    return dict(zip(PIXELWISE, out, strict=True))


@njit(**PLAIN)
def _tested(picture: LinearRGB, to_srgb: tuple[Any, ...], out: Alpha) -> None:
    m00, m01, m02, m10, m11, m12, m20, m21, m22 = to_srgb
    for y in range(picture.shape[0]):
        # numbers in a line: the compiler takes many of those at once
        line, clipped, crushed, gamut = picture[y].reshape(-1), out[0, y], out[1, y], out[2, y]
        for x in range(picture.shape[1]):
            a, b, c = line[3 * x], line[3 * x + 1], line[3 * x + 2]
            red = m00 * a + m01 * b + m02 * c
            green = m10 * a + m11 * b + m12 * c
            blue = m20 * a + m21 * b + m22 * c
            most, least = max(red, green, blue), min(red, green, blue)
            middle = max(min(red, green), min(max(red, green), blue))
            clipped[x] = F(1.0) if middle >= WHITE else F(0.0)
            crushed[x] = F(1.0) if most <= BLACK else F(0.0)
            # over white, only what is left of the colour counts
            gamut[x] = F(1.0) if least < -GAMUT_SLACK * max(most, F(1.0)) else F(0.0)

"""Into 16 bits of an output space, gamut mapped as 8 bits are."""

from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray

from lenskeep.core.colour.spaces import OutputSpace
from lenskeep.core.colour.transfer import encode_srgb
from lenskeep.core.engine.encode.base import Encoder
from lenskeep.core.engine.encode.srgb8 import SPACES, in_gamut
from lenskeep.core.engine.kernel.rowmath import JIT, F
from lenskeep.core.types import Float

STEPS = 8192
_CURVE = np.asarray(
    encode_srgb(np.linspace(0.0, 1.0, STEPS + 1, dtype=np.float32) ** 2) * np.float32(65535.0), np.float32
)
"""Codes by the root of linear light, over which the curve is nearly straight: read between two entries it is right to a
hundredth of a code.
"""


@njit(**JIT)
def _code(v: Any, curve: Float) -> Any:
    at = np.sqrt(min(max(v, F(0.0)), F(1.0))) * F(STEPS)
    k: Any = min(np.int32(at), np.int32(STEPS - 1))
    part = at - F(k)
    return np.uint16(curve[k] + part * (curve[k + 1] - curve[k]) + F(0.5))


@njit(**JIT)
def _encode_rows(rgb: Float, curve: Float, direct: Float, to: Float, out: NDArray[np.uint16]) -> None:
    for y in range(rgb.shape[0]):
        for x in range(rgb.shape[1]):
            r, g, b = in_gamut(rgb[y, x, 0], rgb[y, x, 1], rgb[y, x, 2], direct, to)
            out[y, x, 0], out[y, x, 1], out[y, x, 2] = _code(r, curve), _code(g, curve), _code(b, curve)


def encode_rows(rgb: Float, out: NDArray[np.uint16], space: OutputSpace = "srgb") -> None:
    """Linear Rec. 2020 (rows, width, 3) to 16 bits of an output space in ``out``, gamut mapped."""
    direct, to = SPACES[space]
    _encode_rows(rgb, _CURVE, direct, to, out)


SIXTEEN_BITS = Encoder("16 bits", np.uint16, encode_rows)

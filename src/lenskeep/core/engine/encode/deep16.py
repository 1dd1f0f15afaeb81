"""Into 16 bits of an output space, gamut mapped as 8 bits are."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from lenskeep.core.colour.spaces import OutputSpace
from lenskeep.core.colour.transfer import encode_srgb
from lenskeep.core.engine.encode.base import Encoder
from lenskeep.core.engine.encode.gamut import SPACES, into_space
from lenskeep.core.engine.kernel.rowmath import F
from lenskeep.core.jit import JIT, njit
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
    n = rgb.shape[1]
    row, where = np.empty((3, n), np.float32), np.empty(n + 1, np.int32)
    for y in range(rgb.shape[0]):
        into_space(rgb[y], direct, to, row, where)
        for c in range(3):
            for x in range(n):
                out[y, x, c] = _code(row[c, x], curve)


def encode_rows(rgb: Float, out: NDArray[np.uint16], space: OutputSpace = "srgb") -> None:
    """Linear Rec. 2020 (rows, width, 3) to 16 bits of an output space in ``out``, gamut mapped."""
    direct, to = SPACES[space]
    _encode_rows(rgb, _CURVE, direct, to, out)


SIXTEEN_BITS = Encoder("16 bits", np.uint16, encode_rows)

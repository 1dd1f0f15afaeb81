"""Into 16 bits of an output space in proportion to light, gamut mapped as the others are: for masters that go on."""

import numpy as np
from numpy.typing import NDArray

from lenskeep.core.colour.spaces import OutputSpace
from lenskeep.core.engine.encode.base import Encoder
from lenskeep.core.engine.encode.gamut import SPACES, into_space
from lenskeep.core.engine.kernel.rowmath import F
from lenskeep.core.jit import JIT, njit
from lenskeep.core.types import Float

MOST = 65535.0


@njit(**JIT)
def _encode_rows(rgb: Float, direct: Float, to: Float, out: NDArray[np.uint16]) -> None:
    n = rgb.shape[1]
    row, where = np.empty((3, n), np.float32), np.empty(n + 1, np.int32)
    for y in range(rgb.shape[0]):
        into_space(rgb[y], direct, to, row, where)
        for c in range(3):
            for x in range(n):
                out[y, x, c] = np.uint16(min(max(row[c, x], F(0.0)), F(1.0)) * F(MOST) + F(0.5))


def encode_rows(rgb: Float, out: NDArray[np.uint16], space: OutputSpace = "srgb") -> None:
    """Linear Rec. 2020 (rows, width, 3) to 16 linear bits of an output space in ``out``, gamut mapped."""
    direct, to = SPACES[space]
    _encode_rows(rgb, direct, to, out)


LINEAR_BITS = Encoder("16 linear bits", np.uint16, encode_rows)

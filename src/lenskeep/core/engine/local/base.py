"""What an operation that looks at neighbours is."""

import math
from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np

from lenskeep.core.engine.ops import Code, Op
from lenskeep.core.types import Float, LinearRGB

Params = tuple[float, ...]


@dataclass(frozen=True)
class LocalOperation:
    """``reach`` is how far it looks, as a fraction of the long side; ``apply`` takes (rows, width, 3) and the long side
    in pixels and gives a new strip of that shape.
    """

    name: str
    reach: Callable[[Params], float]
    apply: Callable[[LinearRGB, int, Params], LinearRGB]

    def op(self, *params: float) -> Op:
        """The operation with its numbers, as an adjustment compiles to it."""
        return Op(Code.LOCAL, params, local=self.name)


def gaussian(plane: Float, sigma: float) -> Float:
    """(h, w) blurred by a Gaussian of so many pixels, cut off at three of them."""
    size = 2 * math.ceil(3.0 * sigma) + 1
    return np.asarray(cv2.GaussianBlur(plane, (size, size), sigma, borderType=cv2.BORDER_REFLECT_101), np.float32)

"""Operations that look at a pixel's neighbours, on strips with enough rows around them."""

import math

import cv2
import numpy as np

from lenskeep.core.engine.ops import Op
from lenskeep.core.engine.planes import log_luminance
from lenskeep.core.types import Float, LinearRGB

LEAST_SIGMA = 0.3
"""In pixels; a narrower Gaussian changes nothing at this size."""
LIMIT_PER_EV = 0.7


def reach(op: Op, long_side: int) -> int:
    """How many pixels a neighbourhood operation looks away at a size."""
    return math.ceil(op.params[0] * long_side) + 1


def apply_local(op: Op, rgb: LinearRGB, long_side: int) -> LinearRGB:
    """A new strip of the same shape; within ``reach`` of a cut border it is not right."""
    return _sharpened(rgb, long_side, *op.params[1:4])


def _gaussian(plane: Float, sigma: float) -> Float:
    size = 2 * math.ceil(3.0 * sigma) + 1
    return np.asarray(cv2.GaussianBlur(plane, (size, size), sigma, borderType=cv2.BORDER_REFLECT_101), np.float32)


def _sharpened(rgb: LinearRGB, long_side: int, sigma: float, amount: float, threshold: float) -> LinearRGB:
    """Unsharp mask of log luminance. Where differences around are half of ``threshold`` EV
    or less nothing is done; large ones grow less (no halos).
    """
    pixels = sigma * long_side
    if pixels < LEAST_SIGMA:
        return rgb
    lg = log_luminance(rgb)
    d = lg - _gaussian(lg, pixels)
    away = np.abs(d)
    gain = amount * d / (1.0 + LIMIT_PER_EV * away)
    if threshold > 0.0:  # judged around a pixel, since the middle of an edge differs from its surroundings by nothing
        gain *= np.clip(2.0 * _gaussian(away, pixels) / threshold - 1.0, 0.0, 1.0)
    gain = np.exp2(gain)
    return np.ascontiguousarray(rgb * gain[..., None], np.float32)

"""Sharpen: an unsharp mask of log luminance with a Gaussian; params are its width as a fraction of the long side, the
amount, and the EV up to half of which differences are left alone.
"""

import numpy as np

from lenskeep.core.engine.local.base import LocalOperation, Params, gaussian
from lenskeep.core.engine.planes import log_luminance
from lenskeep.core.types import Float, LinearRGB

LEAST_SIGMA = 0.3
"""In pixels; a narrower Gaussian changes nothing at this size."""
LIMIT_PER_EV = 0.7
REACH = 6.0
"""In Gaussian widths: one blur upon another, three each."""


def edges_at(rgb: LinearRGB, pixels: float, threshold: float) -> Float:
    """(h, w) 0…1: where sharpening at a width in pixels acts in full, and where it leaves small differences alone."""
    lg = log_luminance(rgb)
    away = np.abs(lg - gaussian(lg, max(pixels, LEAST_SIGMA)))
    return _acting(away, max(pixels, LEAST_SIGMA), threshold) if threshold > 0.0 else np.ones_like(lg)


def _acting(away: Float, pixels: float, threshold: float) -> Float:
    """Judged around a pixel, since the middle of an edge differs from its surroundings by nothing."""
    return np.asarray(np.clip(2.0 * gaussian(away, pixels) / threshold - 1.0, 0.0, 1.0), np.float32)


def _sharpened(rgb: LinearRGB, long_side: int, params: Params) -> LinearRGB:
    """Where differences around are half of the threshold or less nothing is done; large ones grow less (no halos)."""
    sigma, amount, threshold = params
    pixels = sigma * long_side
    if pixels < LEAST_SIGMA:
        return rgb
    lg = log_luminance(rgb)
    d = lg - gaussian(lg, pixels)
    away = np.abs(d)
    gain = amount * d / (1.0 + LIMIT_PER_EV * away)
    if threshold > 0.0:
        gain *= _acting(away, pixels, threshold)
    gain = np.exp2(gain)
    return np.ascontiguousarray(rgb * gain[..., None], np.float32)


SHARPEN = LocalOperation("sharpen", lambda params: REACH * params[0], _sharpened)

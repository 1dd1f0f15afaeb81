"""What is done to a whole region after its parts are combined: grow or shrink, snap to edges, feather."""

import itertools

import cv2
import numpy as np

from lenskeep.core.engine.planes import guided_coefficients, mask_guide
from lenskeep.core.regions.base import Found
from lenskeep.core.types import Alpha, Float

LEVELS, LOWEST = 9, 0.02
SNAP_REACH, SNAP_EPS, SNAP_PASSES = 0.02, 2e-4, 2


def grown(alpha: Alpha, radius: float) -> Alpha:
    """Grow (or, below 0, shrink) by ``radius`` pixels: every level set moves outwards by that much.

    Grey dilation by a disc, as a mean over level sets found by their distance transforms (Felzenszwalb & Huttenlocher
    2012), whose cost does not grow with the radius.
    """
    if radius == 0.0:
        return alpha
    if radius < 0.0:
        return np.asarray(1.0 - grown(np.asarray(1.0 - alpha, np.float32), -radius), np.float32)
    levels = np.linspace(LOWEST, 1.0 - LOWEST, LEVELS, dtype=np.float32)
    near = _away_from(alpha, levels[0])
    total = levels[0] * np.clip(radius + 1.0 - near, 0.0, 1.0)
    for lower, upper in itertools.pairwise(levels):
        far = _away_from(alpha, upper)
        # between two level sets the new value rises in proportion to the way, so that a soft border stays even
        # (a hard one ends a pixel further out, as distances count from the middle of the last pixel inside)
        apart = np.maximum(far - near, 1.0)
        total += (upper - lower) * np.clip((radius - near + 1.0 / apart) / apart, 0.0, 1.0)
        near = far
    return np.maximum(alpha, np.asarray(np.minimum(total / levels[-1], 1.0), np.float32))


def _away_from(alpha: Alpha, level: float) -> Float:
    """How far each pixel is from the nearest one of at least ``level``; far beyond the frame where there is none."""
    outside = (alpha < level).astype(np.uint8)
    if outside.all():
        return np.full(alpha.shape, 4.0 * max(alpha.shape), np.float32)
    return np.asarray(cv2.distanceTransform(outside, cv2.DIST_L2, cv2.DIST_MASK_PRECISE), np.float32)


def snapped(alpha: Alpha, found: Found, amount: float) -> Alpha:
    """Borders drawn to the edges of the frame's own luminance by a guided filter (He, Sun & Tang 2013); 0…1."""
    if amount <= 0.0:
        return alpha
    guide = mask_guide(found.picture)
    for _ in range(SNAP_PASSES):
        a, b = guided_coefficients(guide, alpha, SNAP_REACH * amount, SNAP_EPS)
        alpha = np.asarray(np.clip(a * guide + b, 0.0, 1.0), np.float32)
    return alpha


def feathered(alpha: Alpha, sigma: float) -> Alpha:
    """Softened by a Gaussian of ``sigma`` pixels; the frame's edge does not count as an edge."""
    if sigma <= 0.0:
        return alpha
    return np.asarray(cv2.GaussianBlur(alpha, (0, 0), max(sigma, 0.3), borderType=cv2.BORDER_REFLECT), np.float32)

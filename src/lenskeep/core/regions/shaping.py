"""What is done to a whole region after its parts are combined: grow or shrink, snap to edges, feather."""

import cv2
import numpy as np

from lenskeep.core.engine.planes import guided_coefficients, mask_guide
from lenskeep.core.regions.base import Found
from lenskeep.core.types import Alpha

LEVELS = 8
SNAP_REACH, SNAP_EPS = 0.02, 2e-4


def grown(alpha: Alpha, radius: float) -> Alpha:
    """Grow (or, below 0, shrink) by ``radius`` pixels: every level set moves outwards by that much.

    Grey dilation by a disc, as a mean over level sets found by their distance transforms (Felzenszwalb & Huttenlocher
    2012), whose cost does not grow with the radius.
    """
    if radius == 0.0:
        return alpha
    if radius < 0.0:
        return np.asarray(1.0 - grown(np.asarray(1.0 - alpha, np.float32), -radius), np.float32)
    total = np.zeros_like(alpha)
    for level in (np.arange(LEVELS, dtype=np.float32) + 0.5) / LEVELS:
        outside = (alpha < level).astype(np.uint8)
        if not outside.any() or outside.all():
            total += 1.0 - float(outside.flat[0])
            continue
        away = cv2.distanceTransform(outside, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
        total += np.clip(radius + 1.0 - away, 0.0, 1.0)
    return np.maximum(alpha, np.asarray(total / LEVELS, np.float32))


def snapped(alpha: Alpha, found: Found, amount: float) -> Alpha:
    """Borders drawn to the edges of the frame's own luminance by a guided filter (He, Sun & Tang 2013); 0…1."""
    if amount <= 0.0:
        return alpha
    guide = mask_guide(found.picture)
    a, b = guided_coefficients(guide, alpha, SNAP_REACH * amount, SNAP_EPS)
    return np.asarray(np.clip(a * guide + b, 0.0, 1.0), np.float32)


def feathered(alpha: Alpha, sigma: float) -> Alpha:
    """Softened by a Gaussian of ``sigma`` pixels; the frame's edge does not count as an edge."""
    if sigma <= 0.0:
        return alpha
    return np.asarray(cv2.GaussianBlur(alpha, (0, 0), max(sigma, 0.3), borderType=cv2.BORDER_REFLECT), np.float32)

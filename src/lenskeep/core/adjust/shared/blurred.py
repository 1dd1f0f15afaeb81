"""Shared by soften and glow: the picture blurred by a Gaussian, which slow changes allow to find on the proxy."""

import cv2
import numpy as np

from lenskeep.core.types import Alpha, Float, LinearRGB


def blurred(picture: LinearRGB, fraction: float, weight: Alpha | None = None) -> list[Float]:
    """Three planes (h, w) of the picture blurred by a Gaussian of ``fraction`` of the long side.

    With ``weight`` only what lies there counts (normalised convolution, Knutsson & Westin 1993), so nothing of a
    neighbour bleeds over its border.
    """
    sigma = max(fraction * max(picture.shape[:2]), 0.3)
    if weight is None:
        return [np.asarray(cv2.GaussianBlur(picture[..., c].copy(), (0, 0), sigma), np.float32) for c in range(3)]
    share = np.asarray(weight + np.float32(1e-4), np.float32)
    total = cv2.GaussianBlur(share, (0, 0), sigma)
    planes = [picture[..., c] * share for c in range(3)]
    return [np.asarray(cv2.GaussianBlur(p, (0, 0), sigma) / total, np.float32) for p in planes]

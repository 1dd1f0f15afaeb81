"""How sharp a part of a picture is, to tell the best frame of a burst."""

import cv2
import numpy as np

from lenskeep.core.engine.planes import log_luminance
from lenskeep.core.types import Alpha, LinearRGB

LEAST_PIXELS = 40


def sharpness(picture: LinearRGB, where: Alpha) -> float:
    """log2 of the mean square Laplacian of log luminance where ``where`` (h, w) 0…1 is; of the whole picture where that
    is next to nothing. Only frames of one moment can be compared (variance of the Laplacian: Pech-Pacheco et al. 2000).
    """
    lg = cv2.GaussianBlur(log_luminance(picture), (0, 0), 0.8)  # without grain, which is no sharpness
    energy = cv2.Laplacian(lg, cv2.CV_32F) ** 2
    inside = where >= 0.5
    own = energy[inside] if int(inside.sum()) >= LEAST_PIXELS else energy
    return float(np.log2(max(float(own.mean()), 1e-12)))

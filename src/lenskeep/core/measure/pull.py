"""Pull: how much brighter, warmer and richer in detail the subject is than its surroundings.

Brightness is the difference of median OKLab L, warmth that of mean OKLab b, both times 100; detail is the log2 of the
ratio of local-contrast energy at 0.4 % of the long side.
"""

import cv2
import numpy as np
from pydantic import BaseModel

from lenskeep.core.colour.oklab import measured_oklab
from lenskeep.core.measure.quantile import quantile
from lenskeep.core.types import Alpha, LinearRGB

DETAIL_SCALE = 0.004
LEAST_PIXELS = 30


class Pull(BaseModel):
    """Subject against background; 0 where they are alike."""

    brightness: float
    warmth: float
    detail: float


def pull(picture: LinearRGB, subject: Alpha) -> Pull | None:
    """The pull of a picture (h, w, 3) with its subject's mask (h, w); None when either side is nearly empty."""
    inside, outside = np.flatnonzero(subject > 0.5), np.flatnonzero(subject < 0.2)
    if min(len(inside), len(outside)) < LEAST_PIXELS:
        return None
    lab = measured_oklab(np.maximum(picture, 0.0))
    light = np.ascontiguousarray(lab[..., 0])
    sigma = max(DETAIL_SCALE * max(light.shape), 0.5)
    local = light - cv2.GaussianBlur(light, (0, 0), sigma)
    energy_in, energy_out = (float((local.take(side) ** 2).mean()) for side in (inside, outside))
    bright_in, bright_out = (quantile(light.take(side), 0.5) for side in (inside, outside))
    warm_in, warm_out = (float(lab.take(3 * side + 2).mean()) for side in (inside, outside))
    return Pull(
        brightness=100.0 * (bright_in - bright_out),
        warmth=100.0 * (warm_in - warm_out),
        detail=0.5 * float(np.log2(max(energy_in, 1e-9) / max(energy_out, 1e-9))),
    )

"""Haze, cleared or added, after He, Sun & Tang 2009, "Single Image Haze Removal Using Dark Channel Prior".

The airlight is the mean colour of the haziest 0.1 % (the brightest of the dark channel); transmission is
1 - 0.95 · dark(I / A), refined by a guided filter. Adding haze mixes with the same airlight, most where the picture
is hazy, that is far, already.
"""

from collections.abc import Sequence
from typing import ClassVar, Literal

import cv2
import numpy as np

from lenskeep.core.adjust.base import Adjustment, Below, amount
from lenskeep.core.engine.ops import Code, Op
from lenskeep.core.engine.planes import guided_coefficients, least_channel, radius_in_pixels
from lenskeep.core.types import Float, LinearRGB

PATCH = 0.0075
REFINE_RADIUS = 0.03
REFINE_EPS = 0.05
OMEGA = 0.95
MOST_CLEARED, MOST_ADDED = 0.9, 0.8


def dark_channel(rgb: LinearRGB, light: Sequence[float] = (1.0, 1.0, 1.0)) -> Float:
    """Least of the three channels, over those of ``light``, within a patch of 1.5 % of the long side, (h, w)."""
    size = 2 * radius_in_pixels(PATCH, rgb.shape) + 1
    least = least_channel(rgb, [1.0 / channel for channel in light])
    return np.asarray(cv2.erode(least, np.ones((size, size), np.uint8)), np.float32)


def airlight(rgb: LinearRGB, dark: Float) -> Float:
    """Mean colour of the 0.1 % of pixels with the brightest dark channel, (3,)."""
    count = max(1, dark.size // 1000)
    haziest = np.argpartition(dark.ravel(), -count)[-count:]
    return np.asarray(np.maximum(rgb.reshape(-1, 3)[haziest].mean(axis=0), 0.05), np.float32)


class Haze(Adjustment):
    label: ClassVar[str] = "Haze"
    group: ClassVar[str] = "Detail"
    help: ClassVar[str] = "Below 0 clears haze and pale skies; above adds haze that grows with distance."
    needs_picture: ClassVar[bool] = True
    per_pixel: ClassVar[bool] = False
    kind: Literal["haze"] = "haze"
    haze: float = amount(-100, 100, label="Haze", unit="%")

    def operations(self, below: Below) -> list[Op]:
        light = airlight(below.picture, dark_channel(below.picture))
        transmission = dark_channel(below.picture, light.tolist())
        np.clip(transmission, 0.0, 1.0, out=transmission)
        transmission *= -OMEGA
        transmission += 1.0
        planes = guided_coefficients(below.lg, transmission, REFINE_RADIUS, REFINE_EPS)
        strength = self.haze / 100.0 * (MOST_CLEARED if self.haze < 0 else MOST_ADDED)
        return [Op(Code.VEIL, (*(float(v) for v in light), strength), planes=planes)]

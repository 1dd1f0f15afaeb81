"""Colour match: where the frame's own colour is near to one of the samples."""

from typing import ClassVar, Literal

import cv2
import numpy as np
from pydantic import Field

from lenskeep.core.easing import ease
from lenskeep.core.regions.base import Found, Part, measure
from lenskeep.core.types import Alpha, Float

CALM = 0.0015
LIGHTNESS_WEIGHT = 0.45
"""Light and shade of one thing differ more in lightness than in colour, so lightness counts less."""


class ColourMatch(Part):
    """Distance is in OKLab of the untouched frame, lightness at less than half weight, times 100."""

    label: ClassVar[str] = "Colour match"
    group: ClassVar[str] = "From the picture"
    help: ClassVar[str] = "Where the untouched picture has a colour like the samples. Click the picture to take one."
    kind: Literal["colour_match"] = "colour_match"
    editor: ClassVar[str] = "sample"
    samples: list[tuple[float, float, float]] = Field(default=[], max_length=12)
    tolerance: float = measure("Tolerance", 6.0, 0.5, 40.0, step=0.5)
    softness: float = measure("Softness", 4.0, 0.2, 40.0, step=0.5)

    def alpha(self, found: Found) -> Alpha:
        if not self.samples:
            return np.zeros(found.shape, np.float32)
        lab = np.asarray(cv2.GaussianBlur(found.lab, (0, 0), max(CALM * found.long_side, 0.3)), np.float32)
        nearest: Float = np.full(found.shape, np.inf, np.float32)
        weights = np.array([LIGHTNESS_WEIGHT, 1.0, 1.0], np.float32)
        for sample in self.samples:
            away = (lab - np.array(sample, np.float32)) * weights
            nearest = np.minimum(nearest, 100.0 * np.sqrt((away * away).sum(-1)))
        return ease(np.asarray((self.tolerance + self.softness - nearest) / self.softness, np.float32))

    def words(self) -> str:
        return "matched colour" if self.samples else "matched colour without a sample"

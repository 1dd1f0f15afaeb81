"""Tone range: where the frame's own lightness lies between two values, with soft ends."""

from typing import ClassVar, Literal

import cv2
import numpy as np

from lenskeep.core.easing import ease
from lenskeep.core.regions.base import Found, Part, measure
from lenskeep.core.types import Alpha

CALM = 0.0015
"""Lightness is averaged over this fraction of the long side, so that grain does not make the mask speckle."""


class ToneRange(Part):
    """Lightness is OKLab L of the untouched frame, 0…100."""

    label: ClassVar[str] = "Tone range"
    group: ClassVar[str] = "From the picture"
    help: ClassVar[str] = "Where the untouched picture is between two lightnesses."
    kind: Literal["tone_range"] = "tone_range"
    low: float = measure("From", 60.0, 0.0, 100.0, step=1)
    high: float = measure("To", 100.0, 0.0, 100.0, step=1)
    soft_low: float = measure("Soft end below", 15.0, 0.0, 60.0, step=1)
    soft_high: float = measure("Soft end above", 15.0, 0.0, 60.0, step=1)

    def alpha(self, found: Found) -> Alpha:
        lightness = 100.0 * cv2.GaussianBlur(found.lab[..., 0], (0, 0), max(CALM * found.long_side, 0.3))
        low, high = min(self.low, self.high), max(self.low, self.high)
        rise = (lightness - low) / max(self.soft_low, 0.5) + 1.0
        fall = (high - lightness) / max(self.soft_high, 0.5) + 1.0
        return ease(np.asarray(np.minimum(rise, fall), np.float32))

    def words(self) -> str:
        low, high = min(self.low, self.high), max(self.low, self.high)
        if high >= 100:
            return f"tones over {low:.0f}"
        return f"tones under {high:.0f}" if low <= 0 else f"tones from {low:.0f} to {high:.0f}"

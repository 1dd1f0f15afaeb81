"""Tone range: where the frame's own lightness lies between two values, or among so many per cent of its tones."""

from typing import ClassVar, Literal

import cv2
import numpy as np
from pydantic import Field

from lenskeep.core.easing import ease
from lenskeep.core.regions.base import Found, Part, measure
from lenskeep.core.types import Alpha, Float

CALM = 0.0015
"""Lightness is averaged over this fraction of the long side, so that grain does not make the mask speckle."""


BINS = 512


class ToneRange(Part):
    """Lightness is OKLab L of the untouched frame, 0…100; counted by shares it is how many per cent of the frame are
    darker, so that "the brightest 20 %" are found on every frame anew.
    """

    label: ClassVar[str] = "Tone range"
    group: ClassVar[str] = "From the picture"
    help: ClassVar[str] = (
        "Where the untouched picture is between two lightnesses, or among so many per cent of its tones."
    )
    later: ClassVar[tuple[str, ...]] = ("by", "proportional")
    kind: Literal["tone_range"] = "tone_range"
    by: Literal["lightness", "share of the frame"] = Field(default="lightness", title="Counted by")
    low: float = measure("From", 60.0, 0.0, 100.0, step=1)
    high: float = measure("To", 100.0, 0.0, 100.0, step=1)
    soft_low: float = measure("Soft end below", 15.0, 0.0, 60.0, step=1)
    soft_high: float = measure("Soft end above", 15.0, 0.0, 60.0, step=1)
    proportional: bool = Field(default=False, title="In proportion to lightness")

    def alpha(self, found: Found) -> Alpha:
        lightness = 100.0 * cv2.GaussianBlur(found.lab[..., 0], (0, 0), max(CALM * found.long_side, 0.3))
        tone = lightness if self.by == "lightness" else darker_share(lightness)
        low, high = min(self.low, self.high), max(self.low, self.high)
        rise = (tone - low) / max(self.soft_low, 0.5) + 1.0
        fall = (high - tone) / max(self.soft_high, 0.5) + 1.0
        alpha = ease(np.asarray(np.minimum(rise, fall), np.float32))
        if self.proportional:
            alpha = np.asarray(alpha * np.clip(lightness / 100.0, 0, 1), np.float32)
        return alpha

    def words(self) -> str:
        said = self._range_words()
        return f"{said}, in proportion to lightness" if self.proportional else said

    def _range_words(self) -> str:
        low, high = min(self.low, self.high), max(self.low, self.high)
        if self.by == "share of the frame":
            if high >= 100:
                return f"the brightest {100 - low:.0f} %"
            return f"the darkest {high:.0f} %" if low <= 0 else f"tones from {low:.0f} to {high:.0f} % of the frame"
        if high >= 100:
            return f"tones over {low:.0f}"
        return f"tones under {high:.0f}" if low <= 0 else f"tones from {low:.0f} to {high:.0f}"


def darker_share(lightness: Float) -> Float:
    """How many per cent of the frame are darker than each pixel, 0…100; equal tones share the middle of theirs."""
    top = float(max(lightness.max(), 1.0))
    counts, edges = np.histogram(lightness, bins=BINS, range=(0.0, top))
    share = (np.cumsum(counts) - 0.5 * counts) / max(lightness.size, 1) * 100.0
    middles = 0.5 * (edges[:-1] + edges[1:])
    return np.asarray(np.interp(lightness, middles, share), np.float32)

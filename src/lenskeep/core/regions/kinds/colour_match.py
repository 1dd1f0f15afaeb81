"""Colour match: where the frame's own colour is near to one of the samples."""

from typing import ClassVar, Literal

import cv2
import numpy as np
from pydantic import Field

from lenskeep.core.easing import ease
from lenskeep.core.regions.base import Found, Part, measure
from lenskeep.core.types import Alpha, Float

CALM = 0.0015
LEAST_COLOURS = 20
LIGHTNESS_WEIGHT = 0.45
"""Light and shade of one thing differ more in lightness than in colour, so lightness counts less."""


class ColourMatch(Part):
    """Distance is in OKLab of the untouched frame, lightness at less than half weight, times 100. Within the subject or
    the background each sample moves to the colours there that are nearest to it, so that it follows the light.
    """

    label: ClassVar[str] = "Colour match"
    group: ClassVar[str] = "From the picture"
    help: ClassVar[str] = "Where the untouched picture has a colour like the samples. Click the picture to take one."
    kind: Literal["colour_match"] = "colour_match"
    editor: ClassVar[str] = "sample"
    later: ClassVar[tuple[str, ...]] = ("within",)
    within: Literal["the frame", "the subject", "the background"] = Field(default="the frame", title="Within")
    samples: list[tuple[float, float, float]] = Field(default=[], max_length=12)
    tolerance: float = measure("Tolerance", 6.0, 0.5, 40.0, step=0.5)
    softness: float = measure("Softness", 4.0, 0.2, 40.0, step=0.5)

    def alpha(self, found: Found) -> Alpha:
        if not self.samples:
            return np.zeros(found.shape, np.float32)
        lab = np.asarray(cv2.GaussianBlur(found.lab, (0, 0), max(CALM * found.long_side, 0.3)), np.float32)
        nearest: Float = np.full(found.shape, np.inf, np.float32)
        weights = np.array([LIGHTNESS_WEIGHT, 1.0, 1.0], np.float32)
        inside = self._inside(found)
        for sample in self.samples:
            own = np.array(sample, np.float32)
            if inside is not None:
                own = nearest_there(own, lab[inside > 0.5], weights)
            away = (lab - own) * weights
            nearest = np.minimum(nearest, 100.0 * np.sqrt((away * away).sum(-1)))
        alpha = ease(np.asarray((self.tolerance + self.softness - nearest) / self.softness, np.float32))
        return alpha if inside is None else np.asarray(alpha * inside, np.float32)

    def _inside(self, found: Found) -> Alpha | None:
        if self.within == "the frame":
            return None
        return found.subject if self.within == "the subject" else np.asarray(1.0 - found.subject, np.float32)

    def lost(self, found: Found) -> str | None:
        return "subject" if self.within != "the frame" and found.facts.subject_box is None else None

    def uses(self) -> frozenset[str]:
        return frozenset() if self.within == "the frame" else frozenset({"subject"})

    def words(self) -> str:
        where = "" if self.within == "the frame" else f" within {self.within}"
        return f"matched colour{where}" if self.samples else "matched colour without a sample"


def nearest_there(sample: Float, colours: Float, weights: Float) -> Float:
    """The mean of those of ``colours`` (n, 3) that are nearest to a sample: a fiftieth of them; the sample without
    any.
    """
    if len(colours) < LEAST_COLOURS:
        return sample
    away = (((colours - sample) * weights) ** 2).sum(-1)
    count = max(LEAST_COLOURS, len(colours) // 50)
    return np.asarray(colours[np.argpartition(away, count - 1)[:count]].mean(0), np.float32)

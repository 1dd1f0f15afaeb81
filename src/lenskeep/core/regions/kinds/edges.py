"""Edges: along the frame's own edges, for example to keep sharpening off smooth skin and sky."""

from typing import ClassVar, Literal

import cv2
import numpy as np

from lenskeep.core.easing import ease
from lenskeep.core.regions.base import Found, Part, measure
from lenskeep.core.types import Alpha

CALM = 0.002


class Edges(Part):
    """Edge strength is the slope of OKLab L (Sobel), per 1 % of the long side, times 100. Over twice the threshold the
    alpha is full; ``width`` is how far it reaches to either side, as a fraction of the long side.
    """

    label: ClassVar[str] = "Edges"
    group: ClassVar[str] = "From the picture"
    help: ClassVar[str] = "Along the edges of the untouched picture."
    kind: Literal["edges"] = "edges"
    threshold: float = measure("Threshold", 12.0, 1.0, 80.0, step=1)
    width: float = measure("Width", 0.003, 0.0005, 0.02, step=0.05, unit="%", shown=100)

    def alpha(self, found: Found) -> Alpha:
        side = found.long_side
        lightness = np.asarray(cv2.GaussianBlur(found.lab[..., 0], (0, 0), max(CALM * side, 0.5)), np.float32)
        # an eighth makes Sobel's weights a slope per pixel (Sobel & Feldman 1968)
        dx = cv2.Sobel(lightness, cv2.CV_32F, 1, 0, scale=0.125)
        dy = cv2.Sobel(lightness, cv2.CV_32F, 0, 1, scale=0.125)
        slope = np.sqrt(dx * dx + dy * dy) * (0.01 * side * 100.0)
        hard = ease(np.asarray(slope / self.threshold - 1.0, np.float32))
        reach = self.width * side
        radius = max(1, round(reach))
        shape = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * radius + 1, 2 * radius + 1))
        wide = cv2.dilate(hard, shape)
        return np.asarray(np.clip(cv2.GaussianBlur(wide, (0, 0), max(reach / 2, 0.4)), 0.0, 1.0), np.float32)

"""Painterly: strokes of even colour with sharp borders, by the Kuwahara filter with eight sectors.

Strokes can be drawn out along a direction, in which the sectors reach further.

Generalised Kuwahara: Papari, Petkov & Campisi 2007: of eight sectors around a pixel, those with little variance count
most. Found on the proxy; guided coefficients (He, Sun & Tang 2013) carry its borders to any size.
"""

import math
from typing import ClassVar, Literal

import cv2
import numpy as np

from lenskeep.core.adjust.base import Adjustment, Below, amount
from lenskeep.core.engine.ops import Code, Op
from lenskeep.core.engine.planes import guided_coefficients
from lenskeep.core.types import Float, LinearRGB

SECTORS, SHARPNESS = 8, 6.0
GUIDE_RADIUS, GUIDE_EPS = 0.002, 0.02


def sector_kernels(radius: int, drawn_out: float = 1.0, direction: float = 0.0) -> list[Float]:
    """Eight overlapping Gaussian sectors of a disc, each adding up to 1; ``drawn_out`` makes it an ellipse that is so
    many times as long along ``direction`` (radians, clockwise from rightwards).
    """
    reach = round(radius * drawn_out)
    y, x = np.mgrid[-reach : reach + 1, -reach : reach + 1].astype(np.float64)
    if drawn_out != 1.0:
        c, s = np.cos(direction), np.sin(direction)
        x, y = (c * x + s * y) / drawn_out, c * y - s * x
    angle, distance = np.arctan2(y, x), np.hypot(x, y)
    disc = np.exp(-(distance**2) / (2.0 * (0.6 * radius) ** 2)) * (distance <= radius)
    out = []
    for k in range(SECTORS):
        off = (angle - 2.0 * np.pi * k / SECTORS + np.pi) % (2.0 * np.pi) - np.pi
        weight = disc * np.exp(-(off**2) / (2.0 * (np.pi / SECTORS) ** 2))
        weight[reach, reach] = disc[reach, reach] / SECTORS
        out.append(np.asarray(weight / weight.sum(), np.float32))
    return out


def kuwahara(picture: LinearRGB, radius: int, drawn_out: float = 1.0, direction: float = 0.0) -> LinearRGB:
    """(h, w, 3) in strokes of about ``radius`` pixels, ``drawn_out`` times as long along ``direction``; worked
    in the cube root of light, where tones are alike."""
    root = np.asarray(np.cbrt(np.maximum(picture, 0.0)), np.float32)
    total, weights = np.zeros_like(root), np.zeros(root.shape[:2], np.float32)
    square = (root * root).sum(2)
    for kernel in sector_kernels(radius, drawn_out, direction):
        mean = cv2.filter2D(root, cv2.CV_32F, kernel, borderType=cv2.BORDER_REFLECT)
        spread = cv2.filter2D(square, cv2.CV_32F, kernel, borderType=cv2.BORDER_REFLECT) - (mean * mean).sum(2)
        weight = (1e-4 + np.sqrt(np.maximum(spread, 0.0))) ** -SHARPNESS
        total += mean * weight[..., None].astype(np.float32)
        weights += weight.astype(np.float32)
    return np.asarray((total / weights[..., None]) ** 3, np.float32)


class Painterly(Adjustment):
    label: ClassVar[str] = "Painterly"
    group: ClassVar[str] = "Finish"
    help: ClassVar[str] = "Lays the picture down in strokes; their size is in per cent of the long side."
    needs_picture: ClassVar[bool] = True
    per_pixel: ClassVar[bool] = False
    kind: Literal["painterly"] = "painterly"
    painterly: float = amount(0, 100, label="Painterly", unit="%")
    stroke: float = amount(0.3, 1.5, label="Stroke", unit="% of side", neutral=0.6, scales=False, step=0.1)

    drawn_out: float = amount(0, 100, label="Drawn out", unit="%", scales=False)
    direction: float = amount(0, 180, label="Direction", unit="°", scales=False)
    later: ClassVar[tuple[str, ...]] = ("drawn_out", "direction")

    def operations(self, below: Below) -> list[Op]:
        radius = max(2, round(self.stroke / 100.0 * max(below.picture.shape[:2])))
        longer = 1.0 + 3.0 * self.drawn_out / 100.0
        painted = kuwahara(below.picture, radius, longer, math.radians(self.direction))
        planes = [
            plane
            for c in range(3)
            for plane in guided_coefficients(below.lg, painted[..., c].copy(), GUIDE_RADIUS, GUIDE_EPS)
        ]
        return [Op(Code.PAINT, (self.painterly / 100.0,), planes=tuple(planes))]

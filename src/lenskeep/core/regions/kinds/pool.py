"""Pool: an ellipse, full inside and softening to nothing at its rim."""

import math
from typing import ClassVar, Literal

import cv2
import numpy as np

from lenskeep.core.easing import eased
from lenskeep.core.regions.anchor import AnchoredPart, grid, pixel_aspect
from lenskeep.core.regions.base import Found, measure, position
from lenskeep.core.types import Alpha


class Pool(AnchoredPart):
    label: ClassVar[str] = "Pool"
    editor: ClassVar[str] = "pool"
    help: ClassVar[str] = "An ellipse of light, soft at its rim."
    kind: Literal["pool"] = "pool"
    x: float = position("Middle across", 0.5)
    y: float = position("Middle down", 0.5)
    rx: float = position("Half width", 0.3, 0.01, 2.0)
    ry: float = position("Half height", 0.3, 0.01, 2.0)
    angle: float = measure("Turned", 0.0, -180.0, 180.0, step=1, unit="°")
    softness: float = measure("Softness", 0.6, 0.02, 1.0, step=1, unit="%", shown=100)

    def alpha(self, found: Found) -> Alpha:
        u, v = grid(self.anchor, found)
        k = pixel_aspect(self.anchor, found)
        dx, dy = u - self.x, (v - self.y) / k
        turn, wide, high = math.radians(self.angle), self.rx, self.ry / k
        # NumPy's own numbers would make everything of double precision, in twice the time
        reach = dx * (math.cos(turn) / wide) + dy * (math.sin(turn) / wide)
        down = dy * (math.cos(turn) / high) - dx * (math.sin(turn) / high)
        reach = np.asarray(cv2.magnitude(reach, down), np.float32)
        return eased(reach, -1.0 / self.softness, 1.0 / self.softness)

"""Pool: an ellipse, full inside and softening to nothing at its rim."""

from typing import ClassVar, Literal

import numpy as np

from lenskeep.core.easing import ease
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
        turn = np.radians(self.angle)
        across = (dx * np.cos(turn) + dy * np.sin(turn)) / self.rx
        down = (dy * np.cos(turn) - dx * np.sin(turn)) / (self.ry / k)
        reach = np.sqrt(across * across + down * down)
        return ease(np.asarray((1.0 - reach) / self.softness, np.float32))

"""Ramp: full on one side of a line, nothing beyond another, eased between."""

from typing import ClassVar, Literal

import numpy as np

from lenskeep.core.easing import eased
from lenskeep.core.regions.anchor import AnchoredPart, grid, pixel_aspect
from lenskeep.core.regions.base import Found, position
from lenskeep.core.types import Alpha


class Ramp(AnchoredPart):
    """From (x1, y1), where alpha is 1, to (x2, y2), where it is 0; the lines stand across that way."""

    label: ClassVar[str] = "Ramp"
    editor: ClassVar[str] = "ramp"
    help: ClassVar[str] = "Fades along a line, full at its start and nothing at its end."
    kind: Literal["ramp"] = "ramp"
    x1: float = position("Start across", 0.5)
    y1: float = position("Start down", 0.0)
    x2: float = position("End across", 0.5)
    y2: float = position("End down", 0.5)

    def alpha(self, found: Found) -> Alpha:
        u, v = grid(self.anchor, found)
        k = pixel_aspect(self.anchor, found)
        dx, dy = self.x2 - self.x1, (self.y2 - self.y1) / k
        length2 = max(dx * dx + dy * dy, 1e-8)
        along = (u - self.x1) * (dx / length2) + (v - self.y1) * (dy / (k * length2))
        return eased(np.asarray(along, np.float32), -1.0, 1.0)

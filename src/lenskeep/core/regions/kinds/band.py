"""Band: full along a line, fading to nothing on both sides, each side on its own."""

from typing import ClassVar, Literal

import numpy as np

from lenskeep.core.easing import ease
from lenskeep.core.regions.anchor import AnchoredPart, grid, pixel_aspect
from lenskeep.core.regions.base import Found, measure, position
from lenskeep.core.types import Alpha


class Band(AnchoredPart):
    """Across the line through (x, y), ``angle`` degrees from level: full for ``full`` to either side, then fading out
    over ``fade_a`` above (before) and ``fade_b`` below (after) it. Widths are in the anchor's heights.
    """

    label: ClassVar[str] = "Band"
    editor: ClassVar[str] = "band"
    help: ClassVar[str] = "Full along a line, and fades out to both sides."
    kind: Literal["band"] = "band"
    x: float = position("Middle across", 0.5)
    y: float = position("Middle down", 0.5)
    angle: float = measure("Turned", 0.0, -180.0, 180.0, step=1, unit="°")
    full: float = position("Full to each side", 0.08, 0.0, 2.0)
    fade_a: float = position("Fade above", 0.2, 0.005, 2.0)
    fade_b: float = position("Fade below", 0.2, 0.005, 2.0)

    def alpha(self, found: Found) -> Alpha:
        u, v = grid(self.anchor, found)
        k = pixel_aspect(self.anchor, found)
        turn = np.radians(self.angle)
        across = (v - self.y) * np.cos(turn) - (u - self.x) * k * np.sin(turn)
        above, below = (-across - self.full) / self.fade_a, (across - self.full) / self.fade_b
        return ease(np.asarray(1.0 - np.maximum(above, below), np.float32))

"""Zone contrast: contrast within the shadows, the middle tones and the highlights, each about its own centre.

In OKLab lightness, each zone adds k (L - m) exp(-((L - m) / 0.16)²), its centre m at 0.27, 0.53 and 0.8.
"""

from typing import ClassVar, Literal

import numpy as np

from lenskeep.core.adjust.base import Adjustment, Below, amount
from lenskeep.core.adjust.shared.lightness import lightness_ops, without_reversals
from lenskeep.core.easing import ease
from lenskeep.core.engine.ops import Op, light_positions

CENTRES = (0.27, 0.53, 0.80)
WIDTH = 0.16
STRENGTH = 0.7


class ZoneContrast(Adjustment):
    label: ClassVar[str] = "Zone contrast"
    group: ClassVar[str] = "Light"
    help: ClassVar[str] = "Contrast for dark, middle and bright tones apart, each about its own middle."
    kind: Literal["zone_contrast"] = "zone_contrast"
    shadows: float = amount(-100, 100, label="In the shadows", unit="%")
    middle: float = amount(-100, 100, label="In the middle tones", unit="%")
    highlights: float = amount(-100, 100, label="In the highlights", unit="%")

    def operations(self, below: Below) -> list[Op]:
        light = light_positions()
        moved = light.astype(np.float64)
        for centre, value in zip(CENTRES, (self.shadows, self.middle, self.highlights), strict=True):
            d = light - centre
            moved += STRENGTH * value / 100.0 * d * np.exp(-((d / WIDTH) ** 2))
        moved = light + (moved - light) * ease(light / 0.08)
        return lightness_ops(without_reversals(np.asarray(moved, np.float32), light))

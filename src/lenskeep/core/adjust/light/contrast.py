"""Contrast about 18 % grey: log luminance is spread about log2(0.18), most in the middle and ever less outwards.

With s the distance from grey in EV, s' = s (1 + c exp(-(s/3)²)), c in -0.8…0.8. Its slope is at least 0.2, so no two
tones swap places.
"""

from typing import ClassVar, Literal

import numpy as np

from lenskeep.core.adjust.base import Adjustment, Below, amount
from lenskeep.core.engine.ops import Code, Op, tone_positions

GREY = float(np.log2(0.18))


class Contrast(Adjustment):
    label: ClassVar[str] = "Contrast"
    group: ClassVar[str] = "Light"
    help: ClassVar[str] = "Spreads tones about middle grey, or draws them together."
    kind: Literal["contrast"] = "contrast"
    contrast: float = amount(-100, 100, label="Contrast", unit="%")

    def operations(self, below: Below) -> list[Op]:
        s = tone_positions() - GREY
        gain = s * (self.contrast / 125.0) * np.exp(-((s / 3.0) ** 2))
        return [Op(Code.TONE, tables=(gain.astype(np.float32),))]

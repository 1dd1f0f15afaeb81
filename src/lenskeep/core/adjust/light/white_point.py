"""White point: up to 0.8 EV onto or off the brightest tones, growing from middle grey to white, pixel by pixel.

Its slope in log luminance stays over 0.5, so no two tones swap places.
"""

from typing import ClassVar, Literal

import numpy as np

from lenskeep.core.adjust.base import Adjustment, Below, amount
from lenskeep.core.adjust.light.contrast import GREY
from lenskeep.core.easing import ease
from lenskeep.core.engine.ops import Code, Op, tone_positions

MOST_EV = 0.8


class WhitePoint(Adjustment):
    label: ClassVar[str] = "White point"
    group: ClassVar[str] = "Light"
    help: ClassVar[str] = "Moves what counts as white: up for sparkle, down to keep a white dress from burning out."
    kind: Literal["white_point"] = "white_point"
    white: float = amount(-100, 100, label="White point", unit="%")

    def operations(self, below: Below) -> list[Op]:
        gain = self.white / 100.0 * MOST_EV * ease((tone_positions() - GREY) / -GREY)
        return [Op(Code.TONE, tables=(np.asarray(gain, np.float32),))]

"""Split toning: a hue laid into the shadows and another into the highlights, as offsets of OKLab a and b by lightness.

Black and white stay as they are. Balance moves where one goes over into the other.
"""

import math
from typing import ClassVar, Literal

import numpy as np

from lenskeep.core.adjust.base import Adjustment, Below, amount
from lenskeep.core.easing import ease
from lenskeep.core.engine.ops import Code, Op, in_lab, light_positions
from lenskeep.core.types import Float

MOST_CHROMA = 0.09


def ends_spared(light: Float) -> Float:
    """1 in the middle, fading to 0 at black and at white."""
    return ease(light / 0.3) * ease((1.0 - light) / 0.25)


class SplitToning(Adjustment):
    label: ClassVar[str] = "Split toning"
    group: ClassVar[str] = "Colour"
    help: ClassVar[str] = (
        "One hue for the shadows and one for the highlights; hues in degrees, 60 is amber, 240 is blue."
    )
    kind: Literal["split_toning"] = "split_toning"
    shadows: float = amount(0, 100, label="Shadows", unit="%")
    shadow_hue: float = amount(0, 360, label="Shadow hue", unit="°", neutral=240, scales=False)
    highlights: float = amount(0, 100, label="Highlights", unit="%")
    highlight_hue: float = amount(0, 360, label="Highlight hue", unit="°", neutral=70, scales=False)
    balance: float = amount(-100, 100, label="Balance", unit="%", scales=False)

    def operations(self, below: Below) -> list[Op]:
        light = light_positions()
        bright = ease((light - 0.25 + self.balance / 100.0 * 0.25) / 0.5)
        spared = ends_spared(light) * MOST_CHROMA
        tables = []
        for turn in (math.cos, math.sin):
            low = self.shadows / 100.0 * turn(math.radians(self.shadow_hue))
            high = self.highlights / 100.0 * turn(math.radians(self.highlight_hue))
            tables.append(np.asarray(spared * (low * (1.0 - bright) + high * bright), np.float32))
        return in_lab(Op(Code.TONED, tables=tuple(tables)))

"""Black point: OKLab lightness of the dark tones moved by up to 0.12, most at black, nothing from L = 0.5 up.

L' = L + k (1 - L / 0.5)²; the slope at black is at least 0.5 when lifting, and tones pressed under 0 become black.
"""

from typing import ClassVar, Literal

import numpy as np

from lenskeep.core.adjust.base import Adjustment, Below, amount
from lenskeep.core.adjust.shared.lightness import lightness_ops
from lenskeep.core.engine.ops import Op, light_positions

MOST, REACH = 0.12, 0.5


class BlackPoint(Adjustment):
    label: ClassVar[str] = "Black point"
    group: ClassVar[str] = "Light"
    help: ClassVar[str] = "Up for soft, faded blacks; down for deep ones."
    kind: Literal["black_point"] = "black_point"
    black: float = amount(-100, 100, label="Black point", unit="%")

    def operations(self, below: Below) -> list[Op]:
        light = light_positions()
        moved = light + self.black / 100.0 * MOST * np.clip(1.0 - light / REACH, 0.0, 1.0) ** 2
        return lightness_ops(np.maximum(moved, 0.0), most_chroma=1.0)

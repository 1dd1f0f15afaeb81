"""Hue turn: every OKLab hue turned by an angle, at constant lightness and chroma."""

import math
from typing import ClassVar, Literal

from lenskeep.core.adjust.base import Adjustment, Below, amount
from lenskeep.core.engine.ops import Op, affine_op, in_lab


class HueTurn(Adjustment):
    label: ClassVar[str] = "Hue turn"
    group: ClassVar[str] = "Colour"
    help: ClassVar[str] = "Turns every hue by the same angle; up goes from red towards yellow."
    kind: Literal["hue_turn"] = "hue_turn"
    degrees: float = amount(-180, 180, label="Hue turn", unit="°")

    def operations(self, below: Below) -> list[Op]:
        c, s = math.cos(math.radians(self.degrees)), math.sin(math.radians(self.degrees))
        return in_lab(affine_op((c, -s), (s, c)))

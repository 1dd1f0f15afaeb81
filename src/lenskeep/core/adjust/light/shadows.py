"""Shadows: up to 2 EV onto or off the dark parts, growing from middle grey downwards."""

from typing import ClassVar, Literal

from lenskeep.core.adjust.base import Adjustment, Below, amount
from lenskeep.core.adjust.light.contrast import GREY
from lenskeep.core.adjust.shared.tonebase import tone_gain
from lenskeep.core.engine.ops import Op


class Shadows(Adjustment):
    label: ClassVar[str] = "Shadows"
    group: ClassVar[str] = "Light"
    help: ClassVar[str] = "Opens or deepens the dark parts and leaves the detail in them."
    needs_picture: ClassVar[bool] = True
    per_pixel: ClassVar[bool] = False
    kind: Literal["shadows"] = "shadows"
    shadows: float = amount(-100, 100, label="Shadows", unit="%")

    def operations(self, below: Below) -> list[Op]:
        return tone_gain(below, GREY, GREY - 4.5, self.shadows / 100.0 * 2.0)

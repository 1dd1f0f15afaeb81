"""Saturation: OKLCh chroma scaled at constant lightness and hue (CSS Color 4)."""

from typing import ClassVar, Literal

from lenskeep.core.adjust.base import Adjustment, Below, amount
from lenskeep.core.engine.ops import Op, affine_op, in_lab


class Saturation(Adjustment):
    label: ClassVar[str] = "Saturation"
    group: ClassVar[str] = "Colour"
    help: ClassVar[str] = "Makes colours fuller or paler; -100 is grey."
    kind: Literal["saturation"] = "saturation"
    saturation: float = amount(-100, 100, label="Saturation", unit="%")

    def operations(self, below: Below) -> list[Op]:
        scale = 1.0 + self.saturation / 100.0
        return in_lab(affine_op((scale, 0.0), (0.0, scale)))

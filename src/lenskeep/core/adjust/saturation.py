"""Saturation: OKLCh chroma scaled at constant lightness and hue (CSS Color 4)."""

from typing import ClassVar, Literal

from lenskeep.core.adjust.base import Adjustment, Below, amount
from lenskeep.core.engine.ops import Code, Op


class Saturation(Adjustment):
    label: ClassVar[str] = "Saturation"
    group: ClassVar[str] = "Colour"
    help: ClassVar[str] = "Makes colours fuller or paler; -100 is grey."
    kind: Literal["saturation"] = "saturation"
    saturation: float = amount(-100, 100, label="Saturation", unit="%")

    def operations(self, below: Below) -> list[Op]:
        return [Op(Code.CHROMA, (1.0 + self.saturation / 100.0,))]

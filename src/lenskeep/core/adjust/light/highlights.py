"""Highlights: up to 1.5 EV off or onto the bright parts, growing from middle grey to white."""

from typing import ClassVar, Literal

from lenskeep.core.adjust.base import Adjustment, Below, amount
from lenskeep.core.adjust.light.contrast import GREY
from lenskeep.core.adjust.shared.tonebase import tone_gain
from lenskeep.core.engine.ops import Op


class Highlights(Adjustment):
    label: ClassVar[str] = "Highlights"
    group: ClassVar[str] = "Light"
    help: ClassVar[str] = "Calms or lifts the bright parts and leaves the detail in them."
    needs_picture: ClassVar[bool] = True
    per_pixel: ClassVar[bool] = False
    kind: Literal["highlights"] = "highlights"
    highlights: float = amount(-100, 100, label="Highlights", unit="%")

    def operations(self, below: Below) -> list[Op]:
        return tone_gain(below, GREY, 0.0, self.highlights / 100.0 * 1.5)

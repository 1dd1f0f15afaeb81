"""Fine detail: all that is finer than a base of 0.25 % of the long side; how it is found: ``bands``."""

from typing import ClassVar, Literal

from lenskeep.core.adjust.base import Below, amount
from lenskeep.core.adjust.shared.bands import FINE, DetailByTone, base, top_band_op
from lenskeep.core.engine.ops import Op


class FineDetail(DetailByTone):
    label: ClassVar[str] = "Fine detail"
    help: ClassVar[str] = "Crisps hair, lashes and grass, or smooths them below 0; it lifts grain too."
    kind: Literal["fine_detail"] = "fine_detail"
    detail: float = amount(-100, 200, label="Fine detail", unit="%")

    def operations(self, below: Below) -> list[Op]:
        return top_band_op(self.detail, base(below, FINE), weights=self.weights)

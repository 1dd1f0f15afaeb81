"""Broad detail: the band between 2 % and 7 % of the long side; how it is found: ``bands``."""

from typing import ClassVar, Literal

from lenskeep.core.adjust.base import Below, amount
from lenskeep.core.adjust.shared.bands import BROAD, BROADEST, DetailByTone, band_op, base
from lenskeep.core.engine.ops import Op


class BroadDetail(DetailByTone):
    label: ClassVar[str] = "Broad detail"
    help: ClassVar[str] = "Gives clouds, folds and hills more body, or flattens them below 0."
    kind: Literal["broad_detail"] = "broad_detail"
    detail: float = amount(-100, 200, label="Broad detail", unit="%")

    def operations(self, below: Below) -> list[Op]:
        return band_op(self.detail, base(below, BROAD), base(below, BROADEST), self.weights)

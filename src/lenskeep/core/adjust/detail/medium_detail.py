"""Medium detail: the band between 0.25 % and 2 % of the long side; how it is found: ``bands``."""

from typing import ClassVar, Literal

from lenskeep.core.adjust.base import Below, amount
from lenskeep.core.adjust.shared.bands import BROAD, FINE, DetailByTone, band_op, base
from lenskeep.core.engine.ops import Op


class MediumDetail(DetailByTone):
    label: ClassVar[str] = "Medium detail"
    help: ClassVar[str] = "Brings out texture such as fur, cloth and planks, or calms it below 0."
    kind: Literal["medium_detail"] = "medium_detail"
    detail: float = amount(-100, 200, label="Medium detail", unit="%")

    def operations(self, below: Below) -> list[Op]:
        return band_op(self.detail, base(below, FINE), base(below, BROAD), self.weights)

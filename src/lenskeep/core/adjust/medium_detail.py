"""Medium detail: the band of log luminance between two edge-preserving bases, 0.25 % and 2 % of the long side.

Multi-scale edge-preserving decomposition: Farbman et al. 2008, with guided filters. Large differences grow less than
small ones (d / (1 + |d|)), which keeps edges free of halos.
"""

from typing import ClassVar, Literal

from lenskeep.core.adjust.base import Adjustment, Below, amount
from lenskeep.core.engine.ops import Code, Op
from lenskeep.core.engine.planes import base_coefficients

FINE, BROAD = 0.0025, 0.02
FINE_EPS, BROAD_EPS = 0.02, 0.15
LIMIT_PER_EV = 1.0


class MediumDetail(Adjustment):
    label: ClassVar[str] = "Medium detail"
    group: ClassVar[str] = "Detail"
    help: ClassVar[str] = "Brings out texture such as fur, cloth and planks, or calms it below 0."
    needs_picture: ClassVar[bool] = True
    kind: Literal["medium_detail"] = "medium_detail"
    detail: float = amount(-100, 200, label="Medium detail", unit="%")

    def operations(self, below: Below) -> list[Op]:
        fine = base_coefficients(below.lg, FINE, FINE_EPS)
        broad = base_coefficients(below.lg, BROAD, BROAD_EPS)
        return [Op(Code.BAND, (self.detail / 100.0, LIMIT_PER_EV), planes=(*fine, *broad))]

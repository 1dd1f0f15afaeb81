"""Tint in thousandths of Duv, across the Planckian locus, CAT16 adaptation (Li et al. 2017)."""

from typing import ClassVar, Literal

from lenskeep.core.adjust.base import Adjustment, Below, amount
from lenskeep.core.colour.adapt import tint_matrix
from lenskeep.core.engine.ops import Op, matrix_op


class Tint(Adjustment):
    label: ClassVar[str] = "Tint"
    group: ClassVar[str] = "Colour"
    help: ClassVar[str] = "Below 0 towards green, above towards magenta, in thousandths of Duv."
    kind: Literal["tint"] = "tint"
    duv: float = amount(-30, 30, label="Tint", unit="mDuv", step=0.5)

    def operations(self, below: Below) -> list[Op]:
        return [matrix_op(tint_matrix(self.duv / 1000.0))]

"""Warmth in mired along the Planckian locus, CAT16 adaptation (Li et al. 2017)."""

from typing import ClassVar, Literal

from lenskeep.core.adjust.base import Adjustment, Below, amount
from lenskeep.core.colour.adapt import warmth_matrix
from lenskeep.core.engine.ops import Op, matrix_op


class Warmth(Adjustment):
    label: ClassVar[str] = "Warmth"
    group: ClassVar[str] = "Colour"
    help: ClassVar[str] = "Turns light from blue towards amber; 10 mired is a step one just sees."
    kind: Literal["warmth"] = "warmth"
    mired: float = amount(-100, 100, label="Warmth", unit="mired")

    def operations(self, below: Below) -> list[Op]:
        return [matrix_op(warmth_matrix(self.mired))]

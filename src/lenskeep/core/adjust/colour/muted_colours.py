"""Muted colours: OKLCh chroma scaled most where it is low, fading out by C = 0.22; skin's hues take a third of it."""

from typing import ClassVar, Literal

from lenskeep.core.adjust.base import Adjustment, Below, amount
from lenskeep.core.engine.ops import Code, Op, in_lab

FADED_BY, ON_SKIN = 0.22, 0.35


class MutedColours(Adjustment):
    label: ClassVar[str] = "Muted colours"
    group: ClassVar[str] = "Colour"
    help: ClassVar[str] = "Fuller where colours are pale, hardly where they are strong already, little on skin."
    kind: Literal["muted_colours"] = "muted_colours"
    muted: float = amount(-100, 100, label="Muted colours", unit="%")

    def operations(self, below: Below) -> list[Op]:
        return in_lab(Op(Code.MUTED, (self.muted / 100.0, FADED_BY, ON_SKIN)))

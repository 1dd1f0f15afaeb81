"""Colour wash: OKLab a and b drawn towards those of one colour, lightness kept, black and white spared."""

from typing import ClassVar, Literal

import numpy as np

from lenskeep.core.adjust.base import Adjustment, Below, Colour, amount, extra
from lenskeep.core.adjust.colour.split_toning import ends_spared
from lenskeep.core.adjust.shared.taken import AS_SET, TakenFrom, colour_there, masks_taken, taken_from
from lenskeep.core.engine.ops import Code, Op, affine_op, in_lab, light_positions


class ColourWash(Adjustment):
    label: ClassVar[str] = "Colour wash"
    group: ClassVar[str] = "Colour"
    help: ClassVar[str] = "Draws all colours towards one; pick it from the picture so that it belongs."
    later: ClassVar[tuple[str, ...]] = ("source",)
    kind: Literal["colour_wash"] = "colour_wash"
    wash: float = amount(0, 100, label="Colour wash", unit="%")
    colour: Colour = extra("#b08d57", "Colour", "colour")
    source: TakenFrom = taken_from()

    def operations(self, below: Below) -> list[Op]:
        share = self.wash / 100.0
        _, a, b = colour_there(below, self.source, self.colour)
        spared = ends_spared(light_positions()) * share
        tables = tuple(np.asarray(spared * v, np.float32) for v in (a, b))
        return in_lab(affine_op((1.0 - share, 0.0), (0.0, 1.0 - share)), Op(Code.TONED, tables=tables))

    def looks_around(self) -> bool:
        return bool(self.source != AS_SET)

    def uses(self) -> frozenset[str]:
        return masks_taken(self.source)

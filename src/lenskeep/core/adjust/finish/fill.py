"""Colour fill: a colour, or a gradient of two, in place of the picture; blend modes make it an overlay."""

import math
from typing import ClassVar, Literal

import numpy as np

from lenskeep.core.adjust.base import Adjustment, Below, Colour, amount, extra
from lenskeep.core.adjust.shared.taken import TakenFrom, colour_there, masks_taken, taken_from
from lenskeep.core.colour.named import lab_of
from lenskeep.core.colour.oklab import from_oklab
from lenskeep.core.engine.ops import TABLE_SIZE, Code, Op


class Fill(Adjustment):
    label: ClassVar[str] = "Colour fill"
    group: ClassVar[str] = "Finish"
    help: ClassVar[str] = "A flat colour or a gradient over the picture; choose how it blends at the step."
    later: ClassVar[tuple[str, ...]] = ("source",)
    per_pixel: ClassVar[bool] = False
    kind: Literal["fill"] = "fill"
    cover: float = amount(0, 100, label="Colour fill", unit="%")
    style: Literal["flat", "gradient"] = extra("flat", "Style", "choice")
    colour: Colour = extra("#c8a26a", "Colour", "colour")
    second: Colour = extra("#33414f", "Second colour", "colour")
    source: TakenFrom = taken_from()
    angle: float = amount(0, 360, label="Angle", unit="°", neutral=90, scales=False)

    def operations(self, below: Below) -> list[Op]:
        first = colour_there(below, self.source, self.colour)
        ends = np.array([first, lab_of(self.second) if self.style == "gradient" else first])
        t = np.linspace(0.0, 1.0, TABLE_SIZE)[:, None]
        # mixed in OKLab, where the way between two colours is even (CSS Color 4, section 12)
        colours = from_oklab(np.asarray(ends[0] + t * (ends[1] - ends[0]), np.float32))
        # along the angle, from one corner of the frame to the opposite one; 90° runs downwards
        ux, uy = math.cos(math.radians(self.angle)) * below.aspect, math.sin(math.radians(self.angle))
        span = abs(ux) + abs(uy)
        params = (ux / span, uy / span, 0.5 - (ux + uy) / (2.0 * span), self.cover / 100.0)
        tables = tuple(np.ascontiguousarray(colours[:, c]) for c in range(3))
        return [Op(Code.FILL, params, tables=tables)]

    def uses(self) -> frozenset[str]:
        return masks_taken(self.source)

"""Sharpen: an unsharp mask of log luminance with a Gaussian; large differences grow less, so that no rim appears.

Its radius is a share of the long side, so at screen size a fine one does little that can be seen; look at full size.
"""

from typing import ClassVar, Literal

from lenskeep.core.adjust.base import Adjustment, Below, amount
from lenskeep.core.engine.local.sharpen import SHARPEN
from lenskeep.core.engine.ops import Op

EDGE_EV = 0.25
"""With "edges only" at 100 %, places whose differences are half of this or less stay as they are."""


class Sharpen(Adjustment):
    label: ClassVar[str] = "Sharpen"
    group: ClassVar[str] = "Detail"
    help: ClassVar[str] = (
        "Sharpens edges at a radius in hundredths of a per cent of the long side; edges only spares grain."
    )
    per_pixel: ClassVar[bool] = False
    kind: Literal["sharpen"] = "sharpen"
    sharpen: float = amount(0, 200, label="Sharpen", unit="%")
    radius: float = amount(1, 40, label="Radius", unit="‱", neutral=3, scales=False, step=0.5)
    edges: float = amount(0, 100, label="Edges only", unit="%", neutral=20, scales=False)

    def operations(self, below: Below) -> list[Op]:
        sigma = self.radius / 10000.0
        return [SHARPEN.op(sigma, self.sharpen / 100.0, EDGE_EV * self.edges / 100.0)]

"""Fringes: purple and green along edges of high contrast taken out; how they are told: ``engine/local/fringes.py``."""

from typing import ClassVar, Literal

from lenskeep.core.adjust.base import Adjustment, Below, amount
from lenskeep.core.engine.local.fringes import FRINGES
from lenskeep.core.engine.ops import Op


class Fringes(Adjustment):
    label: ClassVar[str] = "Fringes"
    group: ClassVar[str] = "Colour"
    help: ClassVar[str] = "Takes purple and green seams out along branches, railings and other edges against the light."
    per_pixel: ClassVar[bool] = False
    kind: Literal["fringes"] = "fringes"
    purple: float = amount(0, 100, label="Purple", unit="%")
    green: float = amount(0, 100, label="Green", unit="%")
    width: float = amount(2, 20, label="Width", unit="‱", neutral=6, scales=False, step=0.5)
    edge: float = amount(0.5, 5, label="From edges of", unit="EV", neutral=1.5, scales=False, step=0.1)

    def operations(self, below: Below) -> list[Op]:
        return [FRINGES.op(self.width / 10_000.0, self.purple / 100.0, self.green / 100.0, self.edge)]

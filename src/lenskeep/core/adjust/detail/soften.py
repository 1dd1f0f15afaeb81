"""Soften: the picture mixed with itself blurred by a Gaussian, within the step's region only, so nothing bleeds in."""

from typing import ClassVar, Literal

from lenskeep.core.adjust.base import Adjustment, Below, amount
from lenskeep.core.adjust.shared.blurred import blurred
from lenskeep.core.engine.ops import Code, Op


class Soften(Adjustment):
    label: ClassVar[str] = "Soften"
    group: ClassVar[str] = "Detail"
    help: ClassVar[str] = "Blurs clouds, water and backgrounds by a radius in per cent of the long side."
    needs_picture: ClassVar[bool] = True
    per_pixel: ClassVar[bool] = False
    needs_region: ClassVar[bool] = True
    kind: Literal["soften"] = "soften"
    soften: float = amount(0, 100, label="Soften", unit="%")
    radius: float = amount(0.2, 4, label="Radius", unit="% of side", neutral=0.8, scales=False, step=0.1)

    def operations(self, below: Below) -> list[Op]:
        share = self.soften / 100.0
        planes = blurred(below.picture, self.radius / 100.0, below.region())
        return [Op(Code.LIGHT, (1.0 - share, share, 1.0, 1.0, 1.0), planes=tuple(planes))]

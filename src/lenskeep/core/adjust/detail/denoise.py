"""Denoise: grain taken out of lightness and of colour, by guided filters (He, Sun & Tang 2013) that keep edges.

Lightness goes towards a narrow edge-preserving base of log luminance, whose coefficients are found where grain is
averaged already. Colour, OKLab a and b, goes towards a wide average guided by lightness.
"""

from typing import ClassVar, Literal

from lenskeep.core.adjust.base import Adjustment, Below, amount
from lenskeep.core.adjust.shared.bands import top_band_op
from lenskeep.core.colour.oklab import to_oklab
from lenskeep.core.engine.ops import Code, Op, in_lab
from lenskeep.core.engine.planes import base_coefficients, guided_coefficients

LIGHT_RADIUS, LIGHT_EPS = 0.003, 0.006
COLOUR_RADIUS, COLOUR_EPS = 0.008, 2e-3


class Denoise(Adjustment):
    label: ClassVar[str] = "Denoise"
    group: ClassVar[str] = "Detail"
    help: ClassVar[str] = "Takes out grain and coloured specks, and leaves edges; start with colour."
    needs_picture: ClassVar[bool] = True
    per_pixel: ClassVar[bool] = False
    kind: Literal["denoise"] = "denoise"
    lightness: float = amount(0, 100, label="In lightness", unit="%")
    colour: float = amount(0, 100, label="In colour", unit="%")

    def operations(self, below: Below) -> list[Op]:
        out: list[Op] = []
        if self.lightness:
            out += top_band_op(-self.lightness, base_coefficients(below.lg, LIGHT_RADIUS, LIGHT_EPS), limit=0.0)
        if self.colour:
            lab = to_oklab(below.picture)
            light, a, b = (lab[..., k].copy() for k in range(3))
            planes = [p for c in (a, b) for p in guided_coefficients(light, c, COLOUR_RADIUS, COLOUR_EPS)]
            out += in_lab(Op(Code.SMOOTH, (self.colour / 100.0,), planes=tuple(planes)))
        return out

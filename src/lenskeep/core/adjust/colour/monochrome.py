"""Monochrome: grey from shares of red, green and blue in linear Rec. 2020, which are brought to add up to one."""

from typing import ClassVar, Literal

import numpy as np

from lenskeep.core.adjust.base import Adjustment, Below, amount
from lenskeep.core.engine.ops import Op, matrix_op


class Monochrome(Adjustment):
    label: ClassVar[str] = "Monochrome"
    group: ClassVar[str] = "Colour"
    help: ClassVar[str] = "Black and white; more red lightens skin, less blue darkens the sky."
    kind: Literal["monochrome"] = "monochrome"
    grey: float = amount(0, 100, label="Monochrome", unit="%")
    red: float = amount(-50, 150, label="From red", unit="%", neutral=30, scales=False)
    green: float = amount(-50, 150, label="From green", unit="%", neutral=60, scales=False)
    blue: float = amount(-50, 150, label="From blue", unit="%", neutral=10, scales=False)

    def operations(self, below: Below) -> list[Op]:
        shares = np.array([self.red, self.green, self.blue], np.float64) / 100.0
        shares = shares / max(float(shares.sum()), 0.2)
        k = self.grey / 100.0
        return [matrix_op((1.0 - k) * np.eye(3) + k * np.tile(shares, (3, 1)))]

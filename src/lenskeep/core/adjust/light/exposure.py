"""Exposure in EV: a gain of 2^EV in linear light."""

from typing import ClassVar, Literal

import numpy as np

from lenskeep.core.adjust.base import Adjustment, Below, amount
from lenskeep.core.engine.ops import Op, matrix_op


class Exposure(Adjustment):
    label: ClassVar[str] = "Exposure"
    group: ClassVar[str] = "Light"
    help: ClassVar[str] = "Brightens or darkens in stops, as a longer or shorter exposure would."
    kind: Literal["exposure"] = "exposure"
    ev: float = amount(-4, 4, label="Exposure", unit="EV", step=0.05)

    def operations(self, below: Below) -> list[Op]:
        return [matrix_op(np.eye(3) * 2.0**self.ev)]

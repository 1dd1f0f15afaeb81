"""Posterise: lightness in a few even steps with slightly soft borders, hue and chroma with it."""

from typing import ClassVar, Literal

import numpy as np

from lenskeep.core.adjust.base import Adjustment, Below, amount
from lenskeep.core.adjust.shared.lightness import lightness_ops
from lenskeep.core.easing import ease
from lenskeep.core.engine.ops import Op, light_positions

SOFT = 0.18
"""Share of a step in which one goes over into the next."""


class Posterise(Adjustment):
    label: ClassVar[str] = "Posterise"
    group: ClassVar[str] = "Finish"
    help: ClassVar[str] = "Brings tones down to a few steps, as in a printed poster."
    kind: Literal["posterise"] = "posterise"
    posterise: float = amount(0, 100, label="Posterise", unit="%")
    steps: float = amount(2, 16, label="Steps", neutral=5, scales=False)

    def operations(self, below: Below) -> list[Op]:
        light = light_positions()
        count = max(2, round(self.steps))
        at = np.clip(light, 0.0, 1.0) * (count - 1) + 0.5
        whole = np.floor(at)
        stairs = (whole + ease((at - whole - (1.0 - SOFT)) / SOFT)) / (count - 1) - 0.0
        stairs = np.minimum(stairs, 1.0) + np.maximum(light - 1.0, 0.0)
        return lightness_ops(light + self.posterise / 100.0 * (stairs - light))

"""Channel mix: each channel made of all three in linear Rec. 2020. With greys kept, every row adds up to one."""

from typing import ClassVar, Literal

import numpy as np

from lenskeep.core.adjust.base import Adjustment, Below, amount, extra
from lenskeep.core.engine.ops import Op, matrix_op

CHANNELS = ("red", "green", "blue")


class ChannelMix(Adjustment):
    label: ClassVar[str] = "Channel mix"
    group: ClassVar[str] = "Colour"
    leads: ClassVar[str] = "red_from_green"
    help: ClassVar[str] = (
        "Makes each channel from shares of all three. With greys kept no cast comes in: shares then count against each "
        "other, and a channel's own alone changes nothing."
    )
    kind: Literal["channel_mix"] = "channel_mix"
    red_from_red: float = amount(50, 150, label="Red from red", unit="%", neutral=100)
    red_from_green: float = amount(-50, 50, label="Red from green", unit="%")
    red_from_blue: float = amount(-50, 50, label="Red from blue", unit="%")
    green_from_red: float = amount(-50, 50, label="Green from red", unit="%")
    green_from_green: float = amount(50, 150, label="Green from green", unit="%", neutral=100)
    green_from_blue: float = amount(-50, 50, label="Green from blue", unit="%")
    blue_from_red: float = amount(-50, 50, label="Blue from red", unit="%")
    blue_from_green: float = amount(-50, 50, label="Blue from green", unit="%")
    blue_from_blue: float = amount(50, 150, label="Blue from blue", unit="%", neutral=100)
    keep_greys: bool = extra(True, "Keep greys", "tick")

    def operations(self, below: Below) -> list[Op]:
        numbers = [[getattr(self, f"{to}_from_{of}") / 100.0 for of in CHANNELS] for to in CHANNELS]
        rows = np.array(numbers, np.float64)
        if self.keep_greys:
            sums = rows.sum(1, keepdims=True)
            rows = rows / np.where(np.abs(sums) < 0.1, 0.1, sums)
        return [matrix_op(rows)]

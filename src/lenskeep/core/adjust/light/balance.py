"""Balance: light and cast brought to a measure that is taken anew on every frame, within limits."""

from collections.abc import Callable
from typing import ClassVar, Literal

from lenskeep.core.adjust.base import Adjustment, Below, amount, extra
from lenskeep.core.colour.adapt import balance_matrix
from lenskeep.core.engine.ops import Op, matrix_op
from lenskeep.core.measure.needs import Needs, needs
from lenskeep.core.types import Alpha, LinearRGB

DUV_PER_MIRED = 0.25
"""The limit of the tint, in thousandths of Duv, goes with that of the warmth."""
IDLE_EV, IDLE_MIRED = 0.15, 4.0
"""Held to a frame, differences as small as these are the frames' contents, not their light."""
MEASURED = {"the subject": "subject", "skin": "skin"}


class Balance(Adjustment):
    """``held_ev``, ``held_mired`` and ``held_duv`` are the needs of the frame that others are held to."""

    label: ClassVar[str] = "Balance"
    group: ClassVar[str] = "Light"
    help: ClassVar[str] = "Measures each frame anew and brings its light and its cast to a middle, or to one frame’s."
    needs_picture: ClassVar[bool] = True
    per_pixel: ClassVar[bool] = False
    kind: Literal["balance"] = "balance"
    balance: float = amount(0, 100, label="Balance", unit="%")
    most_ev: float = amount(0, 2, label="Light by at most", unit="EV", neutral=1, scales=False, step=0.05)
    most_mired: float = amount(0, 60, label="Warmth by at most", unit="mired", neutral=20, scales=False)
    source: Literal["the whole frame", "the subject", "skin"] = extra("the whole frame", "Light measured in", "choice")
    to: Literal["its own middle", "a frame it is held to"] = extra("its own middle", "Brought to", "held")
    held_ev: float = amount(-6, 6, label="That frame’s middle", unit="EV", scales=False, step=0.01)
    held_mired: float = amount(-100, 100, label="That frame’s warmth", unit="mired", scales=False, step=0.1)
    held_duv: float = amount(-30, 30, label="That frame’s tint", unit="mDuv", scales=False, step=0.1)

    def looks_around(self) -> bool:
        return True

    def uses(self) -> frozenset[str]:
        return frozenset({MEASURED[self.source]} if self.source in MEASURED else ())

    def needs_of(self, picture: LinearRGB, mask: Callable[[str], Alpha]) -> Needs:
        """A picture's needs, its light where it is to be measured; in the whole where that is not there."""
        name = MEASURED.get(self.source)
        where = mask(name) if name else None
        return needs(picture, where if where is not None and float(where.max(initial=0.0)) >= 0.5 else None)

    def change(self, found: Needs) -> tuple[float, float, float]:
        """(EV, mired, thousandths of Duv) for a frame with these needs."""
        if self.to == "its own middle":
            asked = (found.ev * found.sure_light, found.mired * found.sure_cast, found.duv * found.sure_cast)
        else:
            asked = (
                _beyond(self.held_ev - found.middle, IDLE_EV),
                _beyond(found.mired - self.held_mired, IDLE_MIRED),
                _beyond(found.duv - self.held_duv, IDLE_MIRED * DUV_PER_MIRED),
            )
        limits = (self.most_ev, self.most_mired, self.most_mired * DUV_PER_MIRED)
        ev, mired, duv = (
            min(max(v, -most), most) * self.balance / 100.0 for v, most in zip(asked, limits, strict=True)
        )
        return ev, mired, duv

    def operations(self, below: Below) -> list[Op]:
        name = MEASURED.get(self.source)
        if name and float(below.mask(name).max(initial=0.0)) < 0.5:
            below.missed(name)
        ev, mired, duv = self.change(self.needs_of(below.picture, below.mask))
        return [matrix_op(balance_matrix(ev, mired, duv))]

    def words(self) -> str:
        return f"{super().words()} to {self.to}"


def _beyond(value: float, idle: float) -> float:
    """A value less what is idle, towards nought."""
    return max(abs(value) - idle, 0.0) * (1.0 if value > 0 else -1.0)

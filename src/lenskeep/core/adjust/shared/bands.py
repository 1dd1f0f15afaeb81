"""Shared by the three detail adjustments: a band of log luminance between two edge-preserving bases, amplified.

Multi-scale edge-preserving decomposition: Farbman et al. 2008, with guided filters. Large differences grow less than
small ones (d / (1 + |d|)), which keeps edges free of halos. Radii are fractions of the long side.
"""

from typing import Any, ClassVar

import numpy as np

from lenskeep.core.adjust.base import Adjustment, Below, amount
from lenskeep.core.easing import ease
from lenskeep.core.engine.ops import Code, Op, tone_positions
from lenskeep.core.engine.planes import base_coefficients
from lenskeep.core.types import Float

FINEST, FINE, BROAD, BROADEST = (0.001, 0.006), (0.0025, 0.02), (0.02, 0.15), (0.07, 0.35)
"""(radius, eps in EV²) of the bases."""
LIMIT_PER_EV = 1.0


def base(below: Below, which: tuple[float, float]) -> tuple[Float, Float]:
    """Coefficients of one of the bases above."""
    return base_coefficients(below.lg, *which)


def band_op(
    percent: float, upper: tuple[Float, Float], lower: tuple[Float, Float], weights: tuple[Float, ...] = ()
) -> list[Op]:
    """The band between two bases, ``percent`` of itself added; ``weights`` hold a table by tone."""
    return [Op(Code.BAND, (percent / 100.0, LIMIT_PER_EV), planes=(*upper, *lower), tables=weights)]


def top_band_op(
    percent: float, lower: tuple[Float, Float], limit: float = LIMIT_PER_EV, weights: tuple[Float, ...] = ()
) -> list[Op]:
    """All that is finer than a base, ``percent`` of itself added; ``weights`` hold a table by tone."""
    return [Op(Code.TOP_BAND, (percent / 100.0, limit), planes=lower, tables=weights)]


def by_tone(dark: float, middle: float, bright: float) -> Float:
    """A tone table of weights from shares in per cent for dark, middle and bright tones, told apart by lightness (the
    cube root of luminance) with soft passages about .38 and .68.
    """
    light = np.exp2(tone_positions() / 3.0)
    low, high = 1.0 - ease((light - 0.28) / 0.2), ease((light - 0.58) / 0.2)
    return np.asarray((dark * low + bright * high + middle * (1.0 - low - high)) / 100.0, np.float32)


def _share(label: str) -> Any:
    return amount(0, 200, label=label, unit="%", neutral=100, scales=False)


class DetailByTone(Adjustment):
    """What the three bands of detail have in common: how much, and how much of that in each range of tones."""

    group: ClassVar[str] = "Detail"
    needs_picture: ClassVar[bool] = True
    per_pixel: ClassVar[bool] = False
    dark: float = _share("In dark tones")
    middle: float = _share("In middle tones")
    bright: float = _share("In bright tones")
    later: ClassVar[tuple[str, ...]] = ("dark", "middle", "bright")
    leads: ClassVar[str] = "detail"

    @property
    def weights(self) -> tuple[Float, ...]:
        """A table by tone, where tones differ."""
        shares = (self.dark, self.middle, self.bright)
        return () if shares == (100.0, 100.0, 100.0) else (by_tone(*shares),)

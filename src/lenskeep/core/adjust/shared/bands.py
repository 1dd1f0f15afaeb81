"""Shared by the three detail adjustments: a band of log luminance between two edge-preserving bases, amplified.

Multi-scale edge-preserving decomposition: Farbman et al. 2008, with guided filters. Large differences grow less than
small ones (d / (1 + |d|)), which keeps edges free of halos. Radii are fractions of the long side.
"""

from lenskeep.core.adjust.base import Below
from lenskeep.core.engine.ops import Code, Op
from lenskeep.core.engine.planes import base_coefficients
from lenskeep.core.types import Float

FINEST, FINE, BROAD, BROADEST = (0.001, 0.006), (0.0025, 0.02), (0.02, 0.15), (0.07, 0.35)
"""(radius, eps in EV²) of the bases."""
LIMIT_PER_EV = 1.0


def base(below: Below, which: tuple[float, float]) -> tuple[Float, Float]:
    """Coefficients of one of the bases above."""
    return base_coefficients(below.lg, *which)


def band_op(percent: float, upper: tuple[Float, Float], lower: tuple[Float, Float]) -> list[Op]:
    """The band between two bases, ``percent`` of itself added."""
    return [Op(Code.BAND, (percent / 100.0, LIMIT_PER_EV), planes=(*upper, *lower))]


def top_band_op(percent: float, lower: tuple[Float, Float], limit: float = LIMIT_PER_EV) -> list[Op]:
    """All that is finer than a base, ``percent`` of itself added."""
    return [Op(Code.TOP_BAND, (percent / 100.0, limit), planes=lower)]

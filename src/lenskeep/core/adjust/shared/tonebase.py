"""Shared by highlights and shadows: a gain chosen by an edge-preserving base, so that detail inside a tone stays.

Base and detail: Durand & Dorsey 2002, with the guided filter (He, Sun & Tang 2013) as the edge-preserving filter.
"""

import numpy as np

from lenskeep.core.adjust.base import Below
from lenskeep.core.easing import ease
from lenskeep.core.engine.ops import Code, Op, tone_positions
from lenskeep.core.engine.planes import base_coefficients

RADIUS = 0.02
EDGE_EV2 = 0.25


def tone_gain(below: Below, start_ev: float, full_ev: float, ev: float) -> list[Op]:
    """``ev`` where the base is beyond ``full_ev`` (log2 luminance), nothing before ``start_ev``, eased between."""
    weight = ease((tone_positions() - start_ev) / (full_ev - start_ev))
    table = (ev * weight).astype(np.float32)
    return [Op(Code.BASE_TONE, planes=base_coefficients(below.lg, RADIUS, EDGE_EV2), tables=(table,))]

"""Shared by adjustments of lightness: a table over OKLab L, made monotone, with chroma following."""

import numpy as np

from lenskeep.core.engine.ops import Code, Op, in_lab
from lenskeep.core.types import Float

LEAST_SLOPE = 0.04
MOST_CHROMA = 1.25


def lightness_ops(table: Float, most_chroma: float = MOST_CHROMA) -> list[Op]:
    """L through ``table`` (over ``light_positions``); chroma is scaled with L, growing by at most ``most_chroma``."""
    return in_lab(Op(Code.LIGHTNESS, (1.0, most_chroma), tables=(np.asarray(table, np.float32),)))


def without_reversals(table: Float, positions: Float) -> Float:
    """The table with every slope at least ``LEAST_SLOPE``: tones may draw together and never swap places."""
    step = float(positions[1] - positions[0])
    slopes = np.maximum(np.diff(table), LEAST_SLOPE * step)
    return np.concatenate([table[:1], table[0] + np.cumsum(slopes)]).astype(np.float32)

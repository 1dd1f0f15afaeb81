"""The skyline: a straight line through the sky's lower border, robust against trees, masts and subjects in front."""

import numpy as np

from lenskeep.core.facts import Skyline
from lenskeep.core.types import Alpha

LEAST_COLUMNS = 0.15
STEEPEST = 0.7
"""In heights of the frame over its width: a hillside, not a wall."""
HIDDEN = 0.62
"""Quantile of the borders that the line lies at: trees and masts hide sky above it, nothing shows any below it."""
BELOW = 0.004
"""How far under the border it is looked for the subject, as a share of the height."""


def find_skyline(sky: Alpha, subject: Alpha) -> Skyline | None:
    """A line through the lowest sky in each column: its slope the median of those between columns half of the usable
    ones apart (Theil–Sen with far pairs alone, which crowns and masts tilt least), its height a little under the middle
    of what is left. None with too little sky.

    Columns in which the subject covers the border are left out; sky that reaches the frame's foot has no skyline.
    """
    h, w = sky.shape
    x = np.flatnonzero((sky >= 0.5).any(axis=0))
    lowest = h - 1 - np.argmax(sky[::-1, x] >= 0.5, axis=0)
    below = np.minimum(lowest + BELOW * h, h - 1).astype(int)
    usable = (lowest < h - 3) & (subject[below, x] < 0.5)
    if usable.sum() < LEAST_COLUMNS * w:
        return None
    x, y = x[usable] / w, (lowest[usable] + 1.0) / h
    half = len(x) // 2
    slopes = (y[half:][:half] - y[:half]) / (x[half:][:half] - x[:half])
    slope = float(np.clip(np.median(slopes), -STEEPEST, STEEPEST))
    level = float(np.quantile(y - slope * x, HIDDEN))
    return Skyline(left=level, right=level + slope)

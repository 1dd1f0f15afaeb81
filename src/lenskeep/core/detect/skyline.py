"""The skyline: a straight line through the sky's lower border, robust against trees, masts and subjects in front."""

import numpy as np

from lenskeep.core.facts import Skyline
from lenskeep.core.types import Alpha

LEAST_COLUMNS = 0.15
STEEPEST = 0.35


def find_skyline(sky: Alpha, subject: Alpha) -> Skyline | None:
    """Theil–Sen line (median of pairwise slopes) through the lowest sky in each column; None with too little sky.

    Columns in which the subject covers the border are left out; sky that reaches the frame's foot has no skyline.
    """
    h, w = sky.shape
    inside = sky > 0.5
    rows = np.arange(h)[:, None]
    lowest = np.where(inside, rows, -1).max(axis=0)
    below = np.clip(lowest + 2, 0, h - 1)
    covered = subject[below, np.arange(w)] > 0.3
    usable = (lowest >= 0) & (lowest < h - 2) & ~covered
    if usable.sum() < LEAST_COLUMNS * w:
        return None
    x = (np.nonzero(usable)[0] + 0.5) / w
    y = (lowest[usable] + 1.0) / h
    if len(x) > 200:
        pick = np.linspace(0, len(x) - 1, 200).astype(int)
        x, y = x[pick], y[pick]
    i, j = np.triu_indices(len(x), 1)
    apart = x[j] - x[i] > 0.05
    slope = float(np.median((y[j] - y[i])[apart] / (x[j] - x[i])[apart])) if apart.any() else 0.0
    slope = min(max(slope, -STEEPEST), STEEPEST)
    level = float(np.median(y - slope * x))
    return Skyline(left=level, right=level + slope)

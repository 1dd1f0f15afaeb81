"""One quantile of few numbers, without what NumPy's own asks of every array before it begins."""

import numpy as np

from lenskeep.core.types import Float


def quantile(values: Float, share: float) -> float:
    """The value under which a ``share`` (0…1) of one or more numbers (n,) lies, linear between two of them."""
    place = share * (len(values) - 1)
    low = int(place)
    high = min(low + 1, len(values) - 1)
    sorted_there = np.partition(values, (low, high))
    below, above = float(sorted_there[low]), float(sorted_there[high])
    return below + (above - below) * (place - low)

"""The one transition that everything soft uses, from nothing to all."""

from typing import Any

import numpy as np

from lenskeep.core.types import Float


def ease(x: Any) -> Float:
    """Smooth step of any array, 3x² - 2x³ between 0 and 1, float32; 0 below, 1 above."""
    x = np.clip(x, 0.0, 1.0)
    return np.asarray(x * x * (3.0 - 2.0 * x), np.float32)

"""The one transition that everything soft uses, from nothing to all."""

from typing import Any

import numpy as np

from lenskeep.core.engine.kernel.pictures import ease_here
from lenskeep.core.types import Float


def ease(x: Any) -> Float:
    """Smooth step of any array, 3x² - 2x³ between 0 and 1, float32; 0 below, 1 above."""
    x = np.clip(x, 0.0, 1.0)
    rest = x * -2.0
    rest += 3.0
    x *= x
    x *= rest
    return np.asarray(x, np.float32)


def eased(plane: Float, times: float, plus: float) -> Float:
    """``ease`` of ``plus`` + ``times`` · plane, (h, w), in the plane's own place."""
    ease_here(plane, np.float32(times), np.float32(plus))
    return plane

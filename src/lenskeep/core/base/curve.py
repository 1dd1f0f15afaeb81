"""An estimate of the curve that a camera laid over the light it measured, and the way back under it.

A camera's JPEG is light bent by a curve with a toe and a shoulder, so a gain on the file is not what a longer exposure
would have given: shadows would have grown more, and what nears white less. The curve is a rational one in a power of
light, as Naka & Rushton 1966 found of eyes and Reinhard & Devlin 2005 use for pictures. Its two numbers were chosen for
what cameras commonly do, middle grey lying some three and a third stops under white; no camera's own is known here.
"""

import numpy as np

from lenskeep.core.engine.ops import LIGHT_TO, light_positions
from lenskeep.core.types import Float

POWER, HALF = 1.35, 0.13
"""Of the light, white being 1: its power, and where half of what could be is reached, in that power."""


def bent(light: Float) -> Float:
    """What a camera makes of light, linear, 1 being what it draws white; more is white as well."""
    powered = np.minimum(np.asarray(light, np.float64), 1.0) ** POWER
    return np.asarray(powered * (1.0 + HALF) / (powered + HALF), np.float32)


def unbent(drawn: Float) -> Float:
    """The light that a camera draws like this; over white it goes on evenly."""
    y = np.asarray(drawn, np.float64)
    inside = np.minimum(y, 1.0)
    powered = inside * HALF / (1.0 + HALF - inside)
    steep = (1.0 + HALF) / HALF / POWER
    return np.asarray(powered ** (1.0 / POWER) + np.maximum(y - 1.0, 0.0) * steep, np.float32)


def _table(values: Float) -> Float:
    return np.asarray(np.cbrt(np.minimum(values, LIGHT_TO**3)), np.float32)


def unbending(gain: float) -> Float:
    """A table of a channel's cube root, from what is drawn to ``gain`` times its light; far over white it is held."""
    return _table(unbent(light_positions() ** 3) * gain)


def bending() -> Float:
    """A table that goes from light to what is drawn."""
    return _table(bent(light_positions() ** 3))


def through(gain: float) -> Float:
    """A table that multiplies the light by ``gain`` and goes back, in one."""
    return _table(bent(unbent(light_positions() ** 3) * gain))

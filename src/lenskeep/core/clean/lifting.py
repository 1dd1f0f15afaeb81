"""A speck of dust taken off what lies under it: its shadow is the same all round, so what is under it can be had back.

A shadow takes one share of the light within its radius and none outside, with a soft edge. The share is the median,
over all directions from the speck's middle, of how much darker it is inside than outside: an edge that runs through the
place lies in few of them. Where the surroundings are calm, filling it anew is as good, and leaves no rest of a rim.
"""

import cv2
import numpy as np

from lenskeep.core.easing import ease
from lenskeep.core.types import Alpha, Float

DARK = 0.02
CALM, BUSY = 0.012, 0.035
"""Noise of the ring, in the picture's numbers: up to the first a speck is filled anew, from the second on lifted."""
INSIDE, OUTSIDE = (0.1, 0.7), (1.35, 1.8)
"""Shares of the radius between which light is averaged, in each direction."""
DIRECTIONS, STEPS = 48, 6
SOFT = 0.1
MOST = 0.9


def lifted(seen: Float, middle: tuple[float, float], radius: float) -> Float:
    """(h, w, 3) with the shadow of a speck at ``middle`` (x, y) taken off; ``radius`` in pixels."""
    light = np.log(np.maximum(seen, 0.0) + np.float32(DARK))
    turns = np.linspace(0.0, 2.0 * np.pi, DIRECTIONS, endpoint=False)[:, None]

    def averaged(between: tuple[float, float]) -> Float:
        far = np.linspace(*between, STEPS)[None, :] * radius
        x, y = (middle[k] + trig(turns) * far for k, trig in enumerate((np.cos, np.sin)))
        read = cv2.remap(light, x.astype(np.float32), y.astype(np.float32), cv2.INTER_LINEAR, None, cv2.BORDER_REFLECT)
        return np.asarray(read.mean(1), np.float32)

    taken = float(np.clip(np.median((averaged(OUTSIDE) - averaged(INSIDE)).mean(-1)), 0.0, MOST))
    yy, xx = np.mgrid[: seen.shape[0], : seen.shape[1]]
    away = np.hypot(xx - middle[0], yy - middle[1]) / max(radius, 0.5)
    shadow = taken / (1.0 + np.exp(np.clip((away - 1.0) / SOFT, -30.0, 30.0)))
    return np.asarray(np.exp(light + shadow[..., None]) - DARK, np.float32)


def busyness(seen: Float, ring: Alpha) -> float:
    """0…1: how far the surroundings are too busy to be made up."""
    fine = seen - cv2.GaussianBlur(seen, (0, 0), 6.0)
    noise = float(np.sqrt((fine[ring > 0] ** 2).mean())) if (ring > 0).any() else 0.0
    return float(ease((noise - CALM) / (BUSY - CALM)))

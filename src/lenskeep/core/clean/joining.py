"""What is laid into a hole joined with its surroundings in light.

The difference along the border spreads through the inside as a membrane does (Pérez, Gangnet & Blake 2003, *Poisson
image editing*), so that what is copied keeps its texture.

The border's difference is smoothed first: grain of two places differs, and would be drawn into the hole as streaks.
"""

import cv2
import numpy as np
from numpy.typing import NDArray

from lenskeep.core.jit import njit
from lenskeep.core.types import Alpha, Float

SIDE = 64
"""The membrane is smooth: it is solved on so many cells a side at most."""
ROUNDS, OVER = 200, 1.9


def joined(own: Float, copied: Float, hole: Alpha, ring: Alpha) -> Float:
    """(h, w, 3) ``copied`` brought to the light of ``own`` around the hole; right where the hole is."""
    return np.asarray(copied + membrane(own - copied, hole, ring), np.float32)


def membrane(away: Float, hole: Alpha, ring: Alpha) -> Float:
    """(h, w, 3) that is ``away`` on the ring, smoothed, and harmonic inside the hole."""
    h, w = hole.shape
    step = max(1.0, max(h, w) / SIDE)
    size = (max(2, round(w / step)), max(2, round(h / step)))
    weight = _fit(ring, size)
    sums = _fit(away * ring[..., None], size)
    sigma = 1.2
    weights = cv2.GaussianBlur(weight, (0, 0), sigma)
    known = cv2.GaussianBlur(sums, (0, 0), sigma) / np.maximum(weights, 1e-4)[..., None]
    inside = (_fit((hole > 0).astype(np.float32), size) > 0.5) | (weights < 0.02)
    mean = known[~inside].mean(0) if (~inside).any() else np.zeros(3)
    field = np.where(inside[..., None], mean, known).astype(np.float64)
    _relax(field, inside, ROUNDS, OVER)
    return np.asarray(cv2.resize(np.asarray(field, np.float32), (w, h), interpolation=cv2.INTER_LINEAR), np.float32)


def _fit(plane: Float, size: tuple[int, int]) -> Float:
    return np.asarray(cv2.resize(np.asarray(plane, np.float32), size, interpolation=cv2.INTER_AREA), np.float32)


@njit(cache=True)
def _relax(out: NDArray[np.float64], free: NDArray[np.bool_], rounds: int, over: float) -> None:
    """Laplace's equation where ``free``, held elsewhere; by successive over-relaxation, in place."""
    h, w = free.shape
    for _ in range(rounds):
        for y in range(h):
            for x in range(w):
                if free[y, x]:
                    for c in range(3):
                        up, low = out[max(y - 1, 0), x, c], out[min(y + 1, h - 1), x, c]
                        side = out[y, max(x - 1, 0), c] + out[y, min(x + 1, w - 1), c]
                        out[y, x, c] += over * (0.25 * (up + low + side) - out[y, x, c])

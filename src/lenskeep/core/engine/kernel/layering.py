"""Colours and opacity of a layer that brings what lies below to what it should be, pixel by pixel."""

import numpy as np
from numpy.typing import NDArray

from lenskeep.core.engine.kernel.rowmath import F
from lenskeep.core.jit import JIT, njit

STEPS = 256.0
"""Of one code in what lies below: it is kept in sixteen bits, finer than a reader's own numbers."""


@njit(**JIT)
def solve_layer(
    below: NDArray[np.uint16], wanted: NDArray[np.uint8], mask: NDArray[np.uint8], rgba: NDArray[np.uint8], gap: float
) -> None:
    """``rgba`` (h, w, 4) so that ``below`` (h, w, 3; codes × 256) becomes ``wanted`` where the layer is laid over it in
    codes, and ``below`` what a reader has then. It is as opaque as ``mask`` (h, w; with no rows: all of it), and more
    only where its colours would not reach; clear where less than ``gap`` codes are wanted.
    """
    steps, whole = F(STEPS), F(255.0)
    for y in range(wanted.shape[0]):
        for x in range(wanted.shape[1]):
            most, needed = F(0.0), F(0.0)
            for c in range(3):
                was = F(below[y, x, c]) / steps
                away = F(wanted[y, x, c]) - was
                room = whole - was if away > F(0.0) else was
                most = max(most, abs(away))
                needed = max(needed, abs(away) / max(room, F(1e-3)))
            if most <= F(gap):
                rgba[y, x, 0], rgba[y, x, 1], rgba[y, x, 2], rgba[y, x, 3] = 0, 0, 0, 0
                continue
            share = whole if mask.shape[0] == 0 else F(mask[y, x])
            code = min(max(np.ceil(max(share, needed * whole) - F(1e-3)), F(1.0)), whole)
            share = code / whole
            rgba[y, x, 3] = np.uint8(code)
            for c in range(3):
                was = F(below[y, x, c]) / steps
                colour = np.floor(min(max(was + (F(wanted[y, x, c]) - was) / share, F(0.0)), whole) + F(0.5))
                rgba[y, x, c] = np.uint8(colour)
                below[y, x, c] = np.uint16((was + share * (colour - was)) * steps + F(0.5))

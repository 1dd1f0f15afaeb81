"""Surface: paper, canvas or grain, as a gain of light that is the same at every output size.

The patterns are made once from a fixed seed: noise in octaves, each half as wide as the one before and weaker (Perlin
1985, "An Image Synthesizer"), for canvas with threads.
"""

from functools import lru_cache
from typing import ClassVar, Literal

import cv2
import numpy as np

from lenskeep.core.adjust.base import Adjustment, Below, amount, extra
from lenskeep.core.adjust.shared.sheets import LEAST_TILE, halved
from lenskeep.core.engine.ops import Code, Op, Sheet
from lenskeep.core.types import Float

SIDE = 1024
Pattern = Literal["paper", "canvas", "grain"]
MOST_EV = 0.6


def _octaves(first: int, last: int) -> Float:
    """Wrapped noise of mean 0 and deviation 1; ``first`` … ``last`` are widths in pixels, halved each time."""
    random = np.random.default_rng(20)
    total = np.zeros((SIDE, SIDE), np.float32)
    width, weight = first, 1.0
    while width >= last:
        noise: Float = random.standard_normal((SIDE, SIDE)).astype(np.float32)
        if width > 1:
            padded = np.pad(noise, 4 * width, mode="wrap")
            inner = slice(4 * width, -4 * width)
            noise = np.asarray(cv2.GaussianBlur(padded, (0, 0), width)[inner, inner], np.float32)
        total += weight * noise / noise.std()
        width, weight = width // 2, weight * 0.6
    return np.asarray((total - total.mean()) / total.std(), np.float32)


@lru_cache(maxsize=3)
def pattern(name: Pattern) -> Float:
    """A tile (SIDE, SIDE) of mean 0, about -2…2, that joins itself."""
    if name == "grain":
        return _octaves(2, 1)
    if name == "paper":
        return _octaves(16, 1)
    y, x = np.mgrid[0:SIDE, 0:SIDE].astype(np.float32) * np.float32(2.0 * np.pi * 128 / SIDE)
    threads = np.where(np.sin(x / 2) * np.sin(y / 2) > 0, np.cos(x), np.cos(y))
    out = threads + 0.6 * _octaves(8, 1)
    return np.asarray((out - out.mean()) / out.std(), np.float32)


@lru_cache(maxsize=3)
def levels(name: Pattern) -> tuple[Float, ...]:
    """The pattern as sheets, each half the size of the one before, in each of their four channels."""
    return halved(np.repeat(pattern(name)[..., None], 4, axis=2), LEAST_TILE)


class Surface(Adjustment):
    label: ClassVar[str] = "Surface"
    group: ClassVar[str] = "Finish"
    help: ClassVar[str] = (
        "A texture of paper, canvas or film-like grain over the picture; size in per cent of the long side."
    )
    per_pixel: ClassVar[bool] = False
    kind: Literal["surface"] = "surface"
    surface: float = amount(0, 100, label="Surface", unit="%")
    pattern: Pattern = extra("paper", "Texture", "choice")
    size: float = amount(20, 200, label="Size", unit="%", neutral=60, scales=False)

    def operations(self, below: Below) -> list[Op]:
        side = self.size / 100.0  # of the long side; a tile is square in pixels
        long_in_width = max(1.0, 1.0 / below.aspect)
        place = (0.0, 0.0, side * long_in_width, side * long_in_width * below.aspect)
        sheet = Sheet(levels(self.pattern), place, tiled=True)
        return [Op(Code.TEXTURE, (self.surface / 100.0 * MOST_EV / 2.0,), sheet=sheet)]

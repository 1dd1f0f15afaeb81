"""Names for arrays that say what their numbers mean.

They are aliases, not checks: a function that takes ``LinearRGB`` expects shape (h, w, 3), float32, linear light,
Rec. 2020 primaries with a D65 white, 1.0 = diffuse white; values over 1 are allowed.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Protocol, TypeAlias

import numpy as np
from numpy.typing import NDArray

Float: TypeAlias = NDArray[np.float32]
LinearRGB: TypeAlias = NDArray[np.float32]
"""(h, w, 3) float32, linear light, Rec. 2020 primaries, D65."""
OKLab: TypeAlias = NDArray[np.float32]
"""(..., 3) float32: L 0…1, a and b about -0.4…0.4."""
Alpha: TypeAlias = NDArray[np.float32]
"""(h, w) float32 in 0…1."""
SRGB8: TypeAlias = NDArray[np.uint8]
"""(h, w, 3) uint8, sRGB encoded."""
Mask8: TypeAlias = NDArray[np.uint8]
"""(h, w) uint8, 255 inside."""
Matrix: TypeAlias = NDArray[np.float64]


class GraphNetwork(Protocol):
    """A network that takes float32 arrays by name and gives its outputs in order; safe for threads as below."""

    def run(self, fed: Mapping[str, Float]) -> list[Float]: ...


@dataclass(frozen=True)
class Window:
    """Where a block of pixels lies on its frame: its first row and column, and the frame's height and width."""

    top: int
    left: int
    height: int
    width: int

    @property
    def long_side(self) -> int:
        return max(self.height, self.width)


class AlphaAtSize(Protocol):
    """Draws alpha at the size rendered: so many rows and columns of a frame, as (rows, columns) 0…1.

    ``guides`` (rows, columns) is what masks follow there; it may be empty unless ``heeds_edges``.
    """

    @property
    def heeds_edges(self) -> bool: ...

    def __call__(self, window: Window, rows: int, columns: int, guides: Float) -> Alpha: ...

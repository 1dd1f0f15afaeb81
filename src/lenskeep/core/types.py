"""Names for arrays that say what their numbers mean.

They are aliases, not checks: a function that takes ``LinearRGB`` expects shape (h, w, 3), float32, linear light,
Rec. 2020 primaries with a D65 white, 1.0 = diffuse white; values over 1 are allowed.
"""

from collections.abc import Mapping
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


class TensorNetwork(Protocol):
    """A network that takes one float32 array and gives its outputs; whoever loads it makes it safe for threads."""

    def run(self, fed: Float) -> list[Float]: ...


class AlphaAtSize(Protocol):
    """Draws alpha at the size rendered: rows from ``first`` of a frame (height, width), as (rows, width) 0…1.

    ``guides`` (rows, width) is what masks follow there; it may be empty unless ``heeds_edges``.
    """

    @property
    def heeds_edges(self) -> bool: ...

    def __call__(self, first: int, rows: int, width: int, height: int, guides: Float) -> Alpha: ...

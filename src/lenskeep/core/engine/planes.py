"""Wide filters as coefficients on a proxy of the frame.

Guided filter: He, Sun & Tang 2013; evaluated as in the fast guided filter, He & Sun 2015: the linear coefficients are
found on a small picture and applied to the large one. Radii are fractions of the frame's long side.
"""

from dataclasses import dataclass
from typing import Any, TypeVar

import cv2
import numpy as np
from numpy.typing import NDArray

from lenskeep.core.colour.spaces import LUMINANCE
from lenskeep.core.engine.kernel.windows import solve_windows
from lenskeep.core.types import Float, LinearRGB

_N = TypeVar("_N", np.float32, np.uint8)
Channels = NDArray[Any]
"""(h, w, 3) of any numbers."""
PROXY_SIDE = 1024
"""Long side of the picture on which wide filters and masks are computed, whatever the output size."""
FLOOR = np.float32(2.0**-20)


def proxy_size(height: int, width: int, side: int = PROXY_SIDE) -> tuple[int, int]:
    """(height, width) of the proxy: long side at most ``side``, never enlarged, at least 1."""
    scale = min(1.0, side / max(height, width))
    return max(1, round(height * scale)), max(1, round(width * scale))


def smaller(picture: NDArray[_N], side: int) -> NDArray[_N]:
    """A picture, linear or of 8 bits, with a long side of at most ``side``, averaged."""
    h, w = proxy_size(picture.shape[0], picture.shape[1], side)
    if (h, w) == picture.shape[:2]:
        return picture
    return np.asarray(cv2.resize(picture, (w, h), interpolation=cv2.INTER_AREA), picture.dtype)


def least_channel(rgb: Channels) -> Channels:
    """The smallest of the three channels of every pixel; a reduction over so short an axis takes many times as long."""
    return np.minimum(np.minimum(rgb[..., 0], rgb[..., 1]), rgb[..., 2])


def most_channel(rgb: Channels) -> Channels:
    """The largest of the three channels of every pixel."""
    return np.maximum(np.maximum(rgb[..., 0], rgb[..., 1]), rgb[..., 2])


def luminance(rgb: LinearRGB) -> Float:
    """Y of linear Rec. 2020, (h, w)."""
    return np.asarray(rgb @ LUMINANCE.astype(np.float32), np.float32)


def log_luminance(rgb: LinearRGB) -> Float:
    """log2 of Y, held to at least -20, (h, w)."""
    return np.asarray(np.log2(np.maximum(luminance(rgb), FLOOR)), np.float32)


def mask_guide(rgb: LinearRGB) -> Float:
    """What masks follow when they are brought to a larger size: the cube root of Y, near to lightness, (h, w)."""
    return np.asarray(np.cbrt(luminance(rgb)), np.float32)


def radius_in_pixels(fraction: float, shape: tuple[int, ...]) -> int:
    """A fraction of the long side in whole pixels of an array of this shape, at least 1."""
    return max(1, round(fraction * max(shape[0], shape[1])))


def box(image: Float, radius: int) -> Float:
    """Mean over (2·radius + 1)², edges reflected."""
    size = 2 * radius + 1
    return np.asarray(cv2.boxFilter(image, cv2.CV_32F, (size, size), borderType=cv2.BORDER_REFLECT), np.float32)


@dataclass(frozen=True)
class Guide:
    """A picture (h, w) that others are made to follow within windows of one size, and what its own windows hold: their
    means, and those of its squares. ``small`` is it at the size that it is worked on.

    Wide windows are computed on a picture that is smaller still (He & Sun 2015), which smooth coefficients allow.
    """

    shape: tuple[int, ...]
    small: Float
    radius: int
    mean: Float
    squares: Float

    def coefficients(self, target: Float, eps: float) -> tuple[Float, Float]:
        """(a, b), each (h, w), so that a·guide + b follows ``target`` within a window and keeps the guide's edges.

        ``eps`` is the guide's variance under which the window counts as flat.
        """
        h, w = self.small.shape
        follows = target if self.small.shape == self.shape else _resized(target, (w, h), cv2.INTER_AREA)
        return self._solved(box(follows, self.radius), box(self.small * follows, self.radius), eps)

    def own(self, eps: float) -> tuple[Float, Float]:
        """The coefficients with which it follows itself, but for what is finer than its edges."""
        return self._solved(self.mean, self.squares, eps)

    def _solved(self, mean: Float, products: Float, eps: float) -> tuple[Float, Float]:
        """From the windows' means of a target and of its products with the guide, at the size they are worked on."""
        a, b = np.empty_like(mean), np.empty_like(mean)
        solve_windows(self.mean, self.squares, mean, products, np.float32(eps), a, b)
        a, b = box(a, self.radius), box(b, self.radius)
        if self.small.shape == self.shape:
            return a, b
        size = (self.shape[1], self.shape[0])
        return _resized(a, size, cv2.INTER_LINEAR), _resized(b, size, cv2.INTER_LINEAR)


def guide_of(picture: Float, fraction: float) -> Guide:
    """A guide with windows of a ``fraction`` of the long side, (h, w)."""
    radius = radius_in_pixels(fraction, picture.shape)
    small, step = picture, min(4, radius // 4)
    if step >= 2:
        h, w = picture.shape
        small = _resized(picture, (max(1, round(w / step)), max(1, round(h / step))), cv2.INTER_AREA)
        radius = max(1, round(radius / step))
    return Guide(picture.shape, small, radius, box(small, radius), box(small * small, radius))


def guided_coefficients(guide: Float, target: Float, fraction: float, eps: float) -> tuple[Float, Float]:
    """``Guide.coefficients`` of a guide that is used once."""
    return guide_of(guide, fraction).coefficients(target, eps)


def _resized(plane: Float, size: tuple[int, int], how: int) -> Float:
    return np.asarray(cv2.resize(plane, size, interpolation=how), np.float32)


def base_coefficients(lg: Float, fraction: float, eps: float) -> tuple[Float, Float]:
    """Coefficients of the edge-preserving base of log luminance at a radius; edges over √eps EV stay."""
    return guide_of(lg, fraction).own(eps)

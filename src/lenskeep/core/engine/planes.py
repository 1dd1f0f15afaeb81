"""Wide filters as coefficients on a proxy of the frame.

Guided filter: He, Sun & Tang 2013; evaluated as in the fast guided filter, He & Sun 2015: the linear coefficients are
found on a small picture and applied to the large one. Radii are fractions of the frame's long side.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, TypeVar

import cv2
import numpy as np
from numpy.typing import NDArray

from lenskeep.core.engine.kernel.areas import averaged_colours, averaged_plane
from lenskeep.core.engine.kernel.pictures import least_of, light_of, log_light_of
from lenskeep.core.engine.kernel.rows import guide_rows
from lenskeep.core.engine.kernel.windows import follow_own_windows, follow_windows, window_means
from lenskeep.core.types import Float, LinearRGB

_N = TypeVar("_N", np.float32, np.uint8)
Channels = NDArray[Any]
"""(h, w, 3) of any numbers."""
PROXY_SIDE = 1024
"""Long side of the picture on which wide filters and masks are computed, whatever the output size."""


def proxy_size(height: int, width: int, side: int = PROXY_SIDE) -> tuple[int, int]:
    """(height, width) of the proxy: long side at most ``side``, never enlarged, at least 1."""
    scale = min(1.0, side / max(height, width))
    return max(1, round(height * scale)), max(1, round(width * scale))


def smaller(picture: NDArray[_N], side: int) -> NDArray[_N]:
    """A picture, linear or of 8 bits, with a long side of at most ``side``, averaged."""
    return area_mean(picture, proxy_size(picture.shape[0], picture.shape[1], side))


def area_mean(picture: NDArray[_N], size: tuple[int, int]) -> NDArray[_N]:
    """A picture (H, W, 3) or a plane (H, W), of float32 or of 8 bits, at a (height, width) no larger than it: each
    pixel the mean of the area that it stands for. The same array where the size is.
    """
    if size == picture.shape[:2]:
        return picture
    out = np.empty((*size, *picture.shape[2:]), np.float32)
    own = np.require(picture, requirements=["C", "W"])
    if picture.ndim == 2:
        averaged_plane(own, out)
    else:
        averaged_colours(own, out)
    if picture.dtype == np.uint8:
        np.rint(out, out=out)
    return out.astype(picture.dtype, copy=False)


def _plain(rgb: LinearRGB) -> LinearRGB:
    """As the kernels were made for: others would have them compiled once more."""
    return np.require(rgb, np.float32, ["C", "W"])


def least_channel(rgb: LinearRGB, factors: Sequence[float] = (1.0, 1.0, 1.0)) -> Float:
    """The smallest of the three channels of every pixel, each times its factor, (h, w)."""
    out = np.empty(rgb.shape[:2], np.float32)
    least_of(_plain(rgb), *(np.float32(f) for f in factors), out)
    return out


def most_channel(rgb: Channels) -> Channels:
    """The largest of the three channels of every pixel."""
    return np.maximum(np.maximum(rgb[..., 0], rgb[..., 1]), rgb[..., 2])


def luminance(rgb: LinearRGB) -> Float:
    """Y of linear Rec. 2020, (h, w)."""
    out = np.empty(rgb.shape[:2], np.float32)
    light_of(_plain(rgb), out)
    return out


def log_luminance(rgb: LinearRGB) -> Float:
    """log2 of Y, held to at least -20, (h, w)."""
    out = np.empty(rgb.shape[:2], np.float32)
    log_light_of(_plain(rgb), out)
    return out


def mask_guide(rgb: LinearRGB) -> Float:
    """What masks follow when they are brought to a larger size: the cube root of Y, near to lightness, (h, w)."""
    out = np.empty(rgb.shape[:2], np.float32)
    guide_rows(_plain(rgb), out)
    return out


def radius_in_pixels(fraction: float, shape: tuple[int, ...]) -> int:
    """A fraction of the long side in whole pixels of an array of this shape, at least 1."""
    return max(1, round(fraction * max(shape[0], shape[1])))


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
        small = self.small.shape == self.shape
        follows = np.ascontiguousarray(target, np.float32) if small else _resized(target, (w, h), cv2.INTER_AREA)
        a, b = np.empty_like(self.mean), np.empty_like(self.mean)
        follow_windows(self.small, self.mean, self.squares, follows, self.radius, np.float32(eps), a, b)
        return self._large(a), self._large(b)

    def own(self, eps: float) -> tuple[Float, Float]:
        """The coefficients with which it follows itself, but for what is finer than its edges."""
        a, b = np.empty_like(self.mean), np.empty_like(self.mean)
        follow_own_windows(self.mean, self.squares, self.radius, np.float32(eps), a, b)
        return self._large(a), self._large(b)

    def _large(self, plane: Float) -> Float:
        """A plane at the size it is worked on, brought to the guide's."""
        if self.small.shape == self.shape:
            return plane
        return _resized(plane, (self.shape[1], self.shape[0]), cv2.INTER_LINEAR)


def guide_of(picture: Float, fraction: float) -> Guide:
    """A guide with windows of a ``fraction`` of the long side, (h, w)."""
    radius = radius_in_pixels(fraction, picture.shape)
    small, step = np.ascontiguousarray(picture, np.float32), min(4, radius // 4)
    if step >= 2:
        h, w = picture.shape
        small = _resized(picture, (max(1, round(w / step)), max(1, round(h / step))), cv2.INTER_AREA)
        radius = max(1, round(radius / step))
    mean, squares = np.empty_like(small), np.empty_like(small)
    window_means(small, radius, mean, squares)
    return Guide(picture.shape, small, radius, mean, squares)


def guided_coefficients(guide: Float, target: Float, fraction: float, eps: float) -> tuple[Float, Float]:
    """``Guide.coefficients`` of a guide that is used once."""
    return guide_of(guide, fraction).coefficients(target, eps)


def _resized(plane: Float, size: tuple[int, int], how: int) -> Float:
    return np.asarray(cv2.resize(plane, size, interpolation=how), np.float32)


def base_coefficients(lg: Float, fraction: float, eps: float) -> tuple[Float, Float]:
    """Coefficients of the edge-preserving base of log luminance at a radius; edges over √eps EV stay."""
    return guide_of(lg, fraction).own(eps)

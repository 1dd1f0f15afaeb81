"""Wide filters as coefficients on a proxy of the frame.

Guided filter: He, Sun & Tang 2013; evaluated as in the fast guided filter, He & Sun 2015: the linear coefficients are
found on a small picture and applied to the large one. Radii are fractions of the frame's long side.
"""

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from lenskeep.core.colour.spaces import LUMINANCE
from lenskeep.core.types import Float, LinearRGB

Channels = NDArray[Any]
"""(h, w, 3) of any numbers."""
PROXY_SIDE = 1024
"""Long side of the picture on which wide filters and masks are computed, whatever the output size."""
FLOOR = np.float32(2.0**-20)


def proxy_size(height: int, width: int, side: int = PROXY_SIDE) -> tuple[int, int]:
    """(height, width) of the proxy: long side at most ``side``, never enlarged, at least 1."""
    scale = min(1.0, side / max(height, width))
    return max(1, round(height * scale)), max(1, round(width * scale))


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


def guided_coefficients(guide: Float, target: Float, fraction: float, eps: float) -> tuple[Float, Float]:
    """(a, b), each (h, w), so that a·guide + b follows ``target`` within a window and keeps the guide's edges.

    ``eps`` is the guide's variance under which the window counts as flat. Wide windows are computed on a picture that
    is smaller still (He & Sun 2015), which the smooth coefficients allow.
    """
    radius = radius_in_pixels(fraction, guide.shape)
    step = min(4, radius // 4)
    if step < 2:
        return _coefficients(guide, target, radius, eps)
    h, w = guide.shape
    size = (max(1, round(w / step)), max(1, round(h / step)))
    small_guide, small_target = (_resized(x, size, cv2.INTER_AREA) for x in (guide, target))
    a, b = _coefficients(small_guide, small_target, max(1, round(radius / step)), eps)
    return _resized(a, (w, h), cv2.INTER_LINEAR), _resized(b, (w, h), cv2.INTER_LINEAR)


def _resized(plane: Float, size: tuple[int, int], how: int) -> Float:
    return np.asarray(cv2.resize(plane, size, interpolation=how), np.float32)


def _coefficients(guide: Float, target: Float, radius: int, eps: float) -> tuple[Float, Float]:
    mean_g, mean_t = box(guide, radius), box(target, radius)
    variance = box(guide * guide, radius) - mean_g * mean_g
    covariance = box(guide * target, radius) - mean_g * mean_t
    a = np.asarray(covariance / (np.maximum(variance, 0.0) + np.float32(eps)), np.float32)
    b = np.asarray(mean_t - a * mean_g, np.float32)
    return box(a, radius), box(b, radius)


def base_coefficients(lg: Float, fraction: float, eps: float) -> tuple[Float, Float]:
    """Coefficients of the edge-preserving base of log luminance at a radius; edges over √eps EV stay."""
    return guided_coefficients(lg, lg, fraction, eps)

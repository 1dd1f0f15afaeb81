"""Pictures in and out of the networks."""

import cv2
import numpy as np

from lenskeep.core.types import SRGB8, Float

_MEAN = np.array([0.485, 0.456, 0.406], np.float32)
_DEVIATION = np.array([0.229, 0.224, 0.225], np.float32)


def resized(image: SRGB8, height: int, width: int) -> SRGB8:
    """The picture at another size, averaged when made smaller."""
    smaller = height * width < image.shape[0] * image.shape[1]
    how = cv2.INTER_AREA if smaller else cv2.INTER_LINEAR
    return np.asarray(cv2.resize(image, (width, height), interpolation=how), np.uint8)


def saliency_input(image: SRGB8, side: int) -> Float:
    """(1, 3, side, side) for U²-Net: RGB over its maximum, then ImageNet mean and deviation (Qin et al. 2020)."""
    x = resized(image, side, side).astype(np.float32)
    x = (x / max(float(x.max()), 1.0) - _MEAN) / _DEVIATION
    return np.ascontiguousarray(x.transpose(2, 0, 1)[None])


def backbone_input(image: SRGB8, long_side: int) -> Float:
    """(1, 3, h, w) for the EfficientNet-Lite backbone: (RGB - 127) / 128, sides multiples of 32."""
    scale = long_side / max(image.shape[:2])
    h = max(32, round(image.shape[0] * scale / 32) * 32)
    w = max(32, round(image.shape[1] * scale / 32) * 32)
    x = (resized(image, h, w).astype(np.float32) - 127.0) / 128.0
    return np.ascontiguousarray(x.transpose(2, 0, 1)[None])


def numbers_and_scores(outputs: list[Float], width: int) -> tuple[Float, Float]:
    """A finder's two outputs, told apart by their width: (n, width) numbers of its anchors' boxes and marks, and their
    scores (n,) 0…1.
    """
    numbers = next(o for o in outputs if o.shape[-1] == width).reshape(-1, width)
    odds = next(o for o in outputs if o.shape[-1] == 1).reshape(-1)
    return numbers, np.asarray(1.0 / (1.0 + np.exp(-np.clip(odds, -60, 60))), np.float32)

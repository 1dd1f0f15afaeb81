"""Pictures that are dark, flat or full of grain, made readable for the networks, which learnt from clean ones."""

import cv2
import numpy as np

from lenskeep.core.types import SRGB8, Float

LEAST_RANGE, LEAST_WHITE = 105.0, 120.0
"""A picture is stretched where its tones span less than the first, or none reaches the second, of 255."""
LOW, HIGH = 5.0, 245.0
"""Where its darkest and brightest tones go."""
BLOCK, QUIET = 16, 15
"""Grain is that of blocks of so many pixels, at this percentile: where the picture itself is even."""
TOLERATED, SMOOTHED = 2.5, 6.5
"""Grain in levels of 255, of the stretched picture, that is left alone, and that is averaged by one pixel (sigma)."""
_IMMERKAER = np.array([[1, -2, 1], [-2, 4, -2], [1, -2, 1]], np.float32)


def laplacian(gray: Float) -> Float:
    """|second difference both ways|, which lets no straight edge through; (h, w)."""
    return np.abs(cv2.filter2D(gray, cv2.CV_32F, _IMMERKAER)).astype(np.float32)


def deviation(mean_laplacian: float) -> float:
    """Standard deviation of white noise of which that is the mean ``laplacian`` (Immerkær 1996)."""
    return mean_laplacian * float(np.sqrt(np.pi / 2)) / 6.0


def reduced(image: SRGB8) -> SRGB8:
    """(h, w, 3) at a width of 256, averaged: what the whole looks like, without single specks."""
    size = (256, max(1, round(256 * image.shape[0] / image.shape[1])))
    return np.asarray(cv2.resize(image, size, interpolation=cv2.INTER_AREA), np.uint8)


def tones(image: SRGB8) -> tuple[float, float]:
    """The darkest and the brightest grey of (h, w, 3) without single specks, 0…255."""
    low, high = np.percentile(cv2.cvtColor(reduced(image), cv2.COLOR_RGB2GRAY), [0.5, 99.5])
    return float(low), float(high)


def grain(image: SRGB8) -> float:
    """Standard deviation of the grain of (h, w, 3), 0…255: that of its evenest blocks, neither black nor burnt."""
    gray = cv2.cvtColor(image, cv2.COLOR_RGB2GRAY).astype(np.float32)
    h, w = gray.shape
    size = (max(1, w // BLOCK), max(1, h // BLOCK))
    rough = cv2.resize(laplacian(gray), size, interpolation=cv2.INTER_AREA)
    mean = cv2.resize(gray, size, interpolation=cv2.INTER_AREA)
    lit = (mean > 8) & (mean < 247)
    return deviation(float(np.percentile(rough[lit] if lit.sum() > 20 else rough, QUIET)))


def opened(image: SRGB8) -> SRGB8:
    """(h, w, 3) as the finders read it: itself, but where its range is narrow, it is dark, or grain covers it."""
    low, high = tones(image)
    narrow = high - low < LEAST_RANGE or high < LEAST_WHITE
    gain = (HIGH - LOW) / max(high - low, 8.0) if narrow else 1.0
    noise = grain(image) * gain
    if noise > TOLERATED:
        image = np.asarray(cv2.GaussianBlur(image, (0, 0), noise / SMOOTHED), np.uint8)
    if not narrow:
        return image
    stretched = (np.arange(256, dtype=np.float32) - low) * gain + LOW
    return np.asarray(cv2.LUT(image, np.rint(np.clip(stretched, 0, 255)).astype(np.uint8)), np.uint8)

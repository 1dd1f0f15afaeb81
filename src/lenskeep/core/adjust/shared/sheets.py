"""Shared by what is laid over the picture: levels of a sheet, each half the size of the one before."""

import cv2
import numpy as np
from numpy.typing import NDArray

from lenskeep.core.colour.spaces import SRGB_TO_REC2020
from lenskeep.core.colour.transfer import DECODE8
from lenskeep.core.types import Alpha, Float

LEAST_TILE = 64
"""Side in pixels of the smallest level of a tile that repeats."""


def levels_of(colour: Float, cover: Alpha, least: int = 24) -> tuple[Float, ...]:
    """Premultiplied levels of ``colour`` (h, w, 3) or (3,), linear Rec. 2020, and ``cover`` (h, w) 0…1."""
    full = np.empty((*cover.shape, 4), np.float32)
    full[..., :3] = colour * cover[..., None]
    full[..., 3] = cover
    return halved(full, least)


def light_and_cover(pixels: NDArray[np.uint8]) -> tuple[Float, Alpha]:
    """(linear Rec. 2020 (h, w, 3), cover (h, w) 0…1) of sRGB and coverage, (h, w, 4)."""
    linear = DECODE8[pixels[..., :3]] @ SRGB_TO_REC2020.T.astype(np.float32)
    return np.asarray(linear, np.float32), pixels[..., 3].astype(np.float32) / np.float32(255.0)


def halved(full: Float, least: int) -> tuple[Float, ...]:
    """``full`` (h, w, channels) and ever smaller ones, as long as none has a side under ``least``."""
    out = [full]
    while min(out[-1].shape[:2]) >= 2 * least:
        h, w = out[-1].shape[:2]
        smaller = cv2.resize(out[-1], (max(1, w // 2), max(1, h // 2)), interpolation=cv2.INTER_AREA)
        out.append(np.asarray(smaller, np.float32))
    return tuple(out)

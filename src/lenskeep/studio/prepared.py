"""Frames made ready for the renderer, from their masks and facts on disk."""

from pathlib import Path

import cv2
import numpy as np

from lenskeep.core.engine.planes import PROXY_SIDE, proxy_size
from lenskeep.core.facts import Facts
from lenskeep.core.regions import Found
from lenskeep.core.render import Frame
from lenskeep.core.types import Alpha, LinearRGB
from lenskeep.files.masks import read_mask
from lenskeep.studio.library import Computed


def read_found(computed: Computed, facts: Facts, height: int, width: int) -> Found:
    """Masks of a frame as the renderer wants them: (height, width), 0…1."""
    return Found(_alpha(computed.subject, height, width), _alpha(computed.sky, height, width), facts)


def _alpha(path: Path, height: int, width: int) -> Alpha:
    mask = read_mask(path)
    if mask.shape != (height, width):
        mask = np.asarray(cv2.resize(mask, (width, height), interpolation=cv2.INTER_AREA), np.uint8)
    return mask.astype(np.float32) / np.float32(255.0)


def smaller(picture: LinearRGB, side: int) -> LinearRGB:
    """A linear picture with a long side of at most ``side``, averaged."""
    h, w = proxy_size(picture.shape[0], picture.shape[1], side)
    if (h, w) == picture.shape[:2]:
        return picture
    return np.asarray(cv2.resize(picture, (w, h), interpolation=cv2.INTER_AREA), np.float32)


def ready_frame(proxy: LinearRGB, computed: Computed, facts: Facts) -> Frame:
    """A frame for ``compile_plan``; ``proxy`` is at most ``PROXY_SIDE`` long."""
    if max(proxy.shape[:2]) > PROXY_SIDE:
        raise ValueError("the proxy is too large")
    found = read_found(computed, facts, proxy.shape[0], proxy.shape[1])
    return Frame(proxy, found, facts.height, facts.width)

"""Frames made ready for the renderer, from their masks and facts on disk."""

from collections.abc import Iterator, Mapping

import cv2
import numpy as np

from lenskeep.core.detect.find import Findings
from lenskeep.core.engine.planes import PROXY_SIDE, proxy_size
from lenskeep.core.facts import Facts
from lenskeep.core.regions import Found
from lenskeep.core.regions.contours import contour_paths
from lenskeep.core.render import Frame
from lenskeep.core.types import Alpha, LinearRGB, Mask8
from lenskeep.files.lettering import letters
from lenskeep.files.masks import read_mask, write_mask
from lenskeep.studio.library import Computed


class MasksOnDisk(Mapping[str, Alpha]):
    """A frame's masks at one size, each read when it is first asked for."""

    def __init__(self, computed: Computed, facts: Facts, height: int, width: int) -> None:
        self._computed, self._size = computed, (height, width)
        self._names = ("subject", "sky", *facts.areas)
        self._read: dict[str, Alpha] = {}

    def __getitem__(self, name: str) -> Alpha:
        if name not in self._names:
            raise KeyError(name)
        if name not in self._read:
            mask = fitted(read_mask(self._computed.mask(name)), *self._size)
            self._read[name] = mask.astype(np.float32) / np.float32(255.0)
        return self._read[name]

    def __iter__(self) -> Iterator[str]:
        return iter(self._names)

    def __len__(self) -> int:
        return len(self._names)


def fitted(mask: Mask8, height: int, width: int) -> Mask8:
    """A mask at another size, averaged."""
    if mask.shape == (height, width):
        return mask
    return np.asarray(cv2.resize(mask, (width, height), interpolation=cv2.INTER_AREA), np.uint8)


def mask_outline(computed: Computed, name: str) -> dict[str, str]:
    """SVG path data of a mask's contours by level. Raises PhotoProblem when it is not there."""
    return contour_paths(read_mask(computed.mask(name)).astype(np.float32) / np.float32(255.0))


def write_found(computed: Computed, found: Findings) -> None:
    """Write a frame's masks and its map of pieces, as ``read_found`` reads them."""
    for name, mask in found.masks.items():
        write_mask(computed.mask(name), mask)
    write_mask(computed.mask("pieces"), found.pieces)


def read_found(computed: Computed, facts: Facts, picture: LinearRGB) -> Found:
    """A frame as parts see it, at the size of ``picture``; the original's hash is its key."""
    h, w = picture.shape[:2]
    pieces = read_mask(computed.mask("pieces"))
    if pieces.shape != (h, w):
        pieces = np.asarray(cv2.resize(pieces, (w, h), interpolation=cv2.INTER_NEAREST), np.uint8)
    return Found(picture, MasksOnDisk(computed, facts, h, w), facts, pieces, computed.folder.name)


def smaller(picture: LinearRGB, side: int) -> LinearRGB:
    """A linear picture with a long side of at most ``side``, averaged."""
    h, w = proxy_size(picture.shape[0], picture.shape[1], side)
    if (h, w) == picture.shape[:2]:
        return picture
    return np.asarray(cv2.resize(picture, (w, h), interpolation=cv2.INTER_AREA), np.float32)


def framed(proxy: LinearRGB, found: Findings, height: int, width: int, key: str) -> Frame:
    """A frame for ``compile_plan`` out of what was just found on its proxy; ``key`` names the photograph."""
    masks = {name: m.astype(np.float32) / np.float32(255.0) for name, m in found.masks.items()}
    return Frame(proxy, Found(proxy, masks, found.facts, found.pieces, key), height, width, letters)


def ready_frame(proxy: LinearRGB, computed: Computed, facts: Facts) -> Frame:
    """A frame for ``compile_plan``; ``proxy`` is at most ``PROXY_SIDE`` long."""
    if max(proxy.shape[:2]) > PROXY_SIDE:
        raise RuntimeError("the proxy is too large")
    return Frame(proxy, read_found(computed, facts, proxy), facts.height, facts.width, letters)

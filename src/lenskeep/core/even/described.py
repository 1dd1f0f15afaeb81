"""What is kept of a frame to hold it against others of its scene: light and colour by part, texture and place."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property

import cv2
import numpy as np
from numpy.typing import NDArray

from lenskeep.core.base.curve import Curve, light_under
from lenskeep.core.engine.planes import proxy_size
from lenskeep.core.even.cones import params_of
from lenskeep.core.facts import COVERS, SUBJECT_KINDS
from lenskeep.core.types import Alpha, Float, LinearRGB

SIDE, CELL = 512, 6
"""Pixels of the long side that is looked at, and of the cells that texture is judged in."""
PARTS = ("sky", *COVERS, "skin", *SUBJECT_KINDS)
REST = "rest"
INSIDE, CLEARLY = 0.6, 0.8
"""Alpha from which a pixel counts as a part's own, and a cell."""
LEAST_PIXELS, LEAST_FINE, LEAST_CELLS = 150, 100, 12
WHITE, BLACK, DIM = 0.95, 0.0024, 0.0027
"""Linear channels at which a pixel is burnt out, dark, or too dim for its colour to be believed."""
MUCH_BURNT = 0.15
RANKS = np.linspace(0.04, 0.96, 24)
TEXTURES = (-3.8, -2.4)
"""log2 of the spread of log2 light within a cell, between smooth, middling and rough."""
BINS, WIDTH = (64, 64, 32), (0.15, 5.0, 2.5)
"""Of the joint histogram of EV, mired and thousandths of Duv, which wraps round."""
SOFT = 0.8
KEYPOINTS = 700

Mask = NDArray[np.bool_]
Spectrum = NDArray[np.complex64]
Quantiles = NDArray[np.float64]


@dataclass
class Described:
    """Pixels as EV, mired, thousandths of Duv (h, w, 3); what of them can't be read; and summaries by part.

    ``quantiles``: part -> (share of the frame, (3, ranks) values, share of its pixels that are burnt or dark).
    ``cells``: (part, texture) -> (share, (n, 3) means of its cells). ``points``: SIFT's places and descriptors.
    """

    params: Float
    burnt: Mask
    dark: Mask
    quantiles: dict[str, tuple[float, Quantiles, float]] = field(default_factory=dict)
    cells: dict[tuple[str, int], tuple[float, Float]] = field(default_factory=dict)
    places: Float = field(default_factory=lambda: np.zeros((0, 2), np.float32))
    descriptors: Float = field(default_factory=lambda: np.zeros((0, 128), np.float32))

    @cached_property
    def spectra(self) -> dict[tuple[str, int], tuple[float, Spectrum]]:
        """(part, texture) -> (share, spectrum of its joint histogram)."""
        return {key: (share, _spectrum(means)) for key, (share, means) in self.cells.items()}

    @cached_property
    def soft(self) -> Float:
        """``params`` without grain, to be held against another frame pixel by pixel."""
        return np.asarray(cv2.GaussianBlur(self.params, (0, 0), 1.5), np.float32)

    @cached_property
    def readable(self) -> Float:
        """1 where neither a pixel nor those around it are burnt or dark, else 0."""
        good = (~(self.burnt | self.dark)).astype(np.uint8)
        return np.asarray(cv2.erode(good, np.ones((5, 5), np.uint8)), np.float32)

    @property
    def burnt_share(self) -> float:
        return float(self.burnt.mean())


def described(picture: LinearRGB, masks: Mapping[str, Alpha], curve: Curve | None = None) -> Described:
    """Of a frame's untouched picture, linear Rec. 2020 (h, w, 3), and its masks by name (h', w'), 0…1. Where a camera
    laid its ``curve`` over it, light is told from under that, as a frame's base changes it.
    """
    size = proxy_size(picture.shape[0], picture.shape[1], SIDE)[::-1]
    hot = _small((picture.max(-1) >= WHITE).astype(np.float32), size)
    small = _small(picture, size)
    parts = {name: _small(mask, size) for name, mask in masks.items() if name in PARTS}
    covered = sum(parts.values()) if parts else np.zeros(size[::-1], np.float32)
    parts[REST] = (np.asarray(covered) < 0.4).astype(np.float32)
    peak, least = small.max(-1), small.min(-1)
    light = small if curve is None else light_under(small, curve)
    frame = Described(params_of(light), (peak >= WHITE) | (hot > MUCH_BURNT), peak <= BLACK)
    dim = least <= DIM
    for name, mask in parts.items():
        _add_quantiles(frame, name, mask, dim)
    _add_cells(frame, parts, dim)
    _add_places(frame)
    return frame


def _small(plane: Float, size: tuple[int, int]) -> Float:
    return np.asarray(cv2.resize(plane, size, interpolation=cv2.INTER_AREA), np.float32)


def _add_quantiles(frame: Described, name: str, mask: Alpha, dim: Mask) -> None:
    """Burnt and dark pixels keep their rank, but are not read."""
    inside = cv2.erode((mask >= INSIDE).astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    fine = inside & ~(frame.burnt | frame.dark | dim)
    if int(inside.sum()) < LEAST_PIXELS or int(fine.sum()) < LEAST_FINE:
        return
    hot, dark = float(frame.burnt[inside].mean()), float(frame.dark[inside].mean())
    light = np.quantile(frame.params[..., 0][inside], RANKS)
    light[(0.98 - hot < RANKS) | (dark + 0.02 > RANKS)] = np.nan
    colour = [np.quantile(frame.params[..., axis][fine], RANKS) for axis in (1, 2)]
    frame.quantiles[name] = (float(inside.mean()), np.array([light, *colour]), hot + dark)


def _add_cells(frame: Described, parts: Mapping[str, Alpha], dim: Mask) -> None:
    h, w = (n // CELL for n in frame.dark.shape)
    if h < 2 or w < 2:
        return

    def cells(plane: NDArray[np.generic]) -> Float:
        cut = np.ascontiguousarray(plane[: h * CELL, : w * CELL], np.float32)
        return np.asarray(cv2.resize(cut, (w, h), interpolation=cv2.INTER_AREA), np.float32)

    means = cells(frame.params)
    spread = np.sqrt(np.maximum(cells(frame.params[..., 0] ** 2) - means[..., 0] ** 2, 0.0))
    texture = np.digitize(np.log2(spread + 0.02), TEXTURES)
    usable = (cells(frame.burnt) < 0.02) & (cells(dim) < 0.3)
    for name, mask in parts.items():
        own = (cells(mask) > CLEARLY) & usable
        for kind in range(len(TEXTURES) + 1):
            here = own & (texture == kind)
            if int(here.sum()) >= LEAST_CELLS:
                frame.cells[name, kind] = (float(here.mean()), np.ascontiguousarray(means[here]))


def _spectrum(values: Float) -> Spectrum:
    """Of the smoothed joint histogram, of length one."""
    counts = np.zeros(BINS, np.float32)
    np.add.at(counts, tuple((np.rint(values / WIDTH).astype(int) % BINS).T), 1.0)
    transformed = np.fft.rfftn(counts)
    for axis, n in enumerate(BINS):
        steps = np.fft.rfftfreq(n) if axis == 2 else np.fft.fftfreq(n)
        shape = [1, 1, 1]
        shape[axis] = len(steps)
        transformed = transformed * np.exp(-2.0 * (np.pi * SOFT * steps) ** 2).reshape(shape)
    smooth = np.fft.irfftn(transformed, BINS, axes=(0, 1, 2))
    return np.asarray(transformed / max(float(np.linalg.norm(smooth)), 1e-9), np.complex64)


def _add_places(frame: Described) -> None:
    """SIFT (Lowe 2004) on light made even, so that the same place is known again at another exposure."""
    light = frame.params[..., 0] - cv2.GaussianBlur(frame.params[..., 0], (0, 0), 12)
    flat = light / np.sqrt(cv2.GaussianBlur(light**2, (0, 0), 12) + 0.05**2)
    grey = np.asarray(np.clip(128.0 + 45.0 * flat, 0, 255), np.uint8)
    points, found = cv2.SIFT_create(KEYPOINTS, contrastThreshold=0.015).detectAndCompute(grey, None)  # type: ignore[attr-defined]
    if found is not None and len(points):
        frame.places = np.array([p.pt for p in points], np.float32)
        frame.descriptors = np.asarray(found, np.float32)

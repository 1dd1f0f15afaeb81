"""Smooth random fields, the same for the same seed on every machine."""

from functools import cache

import numpy as np
from scipy import ndimage

CELLS = 48
FLAT = 0.37


def spectral(height, width, slope=2.2, seed=0):
    """A periodic field (height, width), mean 0, deviation 1, whose power falls with frequency to the ``slope``."""
    random = np.random.default_rng(seed)
    fy = np.fft.fftfreq(height)[:, None] * height
    fx = np.fft.rfftfreq(width)[None] * width
    frequency = np.hypot(fx, fy)
    frequency[0, 0] = 1
    spectrum = (random.normal(size=frequency.shape) + 1j * random.normal(size=frequency.shape)) / frequency ** (
        slope / 2
    )
    spectrum[0, 0] = 0
    field = np.fft.irfft2(spectrum, (height, width))
    return (field - field.mean()) / field.std()


@cache
def _lattice(seed):
    return np.random.default_rng(seed).normal(size=(CELLS, CELLS, CELLS)).astype(np.float32)


def noise3(points, scale, seed=0):
    """Value noise at points (..., 3), about normally distributed, one bump every ``scale`` metres; (...)."""
    points = np.asarray(points)
    return ndimage.map_coordinates(_lattice(seed), np.moveaxis(points / scale, -1, 0), order=1, mode="grid-wrap")


def noise2(x, y, scale, seed=0):
    """Value noise over a plane; the shape of ``x``."""
    return noise3(np.stack([x, y, np.full_like(x, FLAT * scale)], -1), scale, seed)

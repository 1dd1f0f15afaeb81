"""Histograms of a finished picture: lightness and the three channels, over the frame or a region."""

import numpy as np

from lenskeep.core.types import SRGB8, Alpha

BINS = 64


def histograms(pixels: SRGB8, weight: Alpha | None = None) -> dict[str, list[float]]:
    """{"light", "red", "green", "blue"}: shares of 64 bins of the encoded value, each adding up to 1 (or all 0).

    ``weight`` (h, w) 0…1 says how much each pixel counts.
    """
    codes = pixels.reshape(-1, 3) >> 2
    w = None if weight is None else weight.ravel().astype(np.float64)
    luma = (pixels.reshape(-1, 3) @ np.array([0.2126, 0.7152, 0.0722])).astype(np.uint8) >> 2
    out = {}
    for name, values in (("light", luma), ("red", codes[:, 0]), ("green", codes[:, 1]), ("blue", codes[:, 2])):
        counts = np.bincount(values, w, BINS)
        total = float(counts.sum())
        out[name] = [round(float(c) / total, 5) if total > 0 else 0.0 for c in counts]
    return out

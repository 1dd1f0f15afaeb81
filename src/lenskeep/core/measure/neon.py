"""Neon: chroma raised above what the untouched frame's own colours reach, where lightness did not follow.

A colour that grows as a dye does gets darker with it; one that grows alone looks lit from within. What a frame's own
colours reach is told hue by hue, so that a red dress excuses no grass.
"""

import cv2
import numpy as np

from lenskeep.core.types import Alpha, Float

HUES = 24
LEAST_REACH = 0.10
"""Chroma (OKLCh) that no picture looks neon at."""
RICHEST = 99.0
"""Percentile of the chroma of a hue that counts as what the frame reaches."""
LEAST_PIXELS, COLOURED = 0.0005, 0.02
LEVELS, MOST_CHROMA = 1024, 0.64
"""Chroma is counted in so many steps up to one that no colour has."""
SLACK, FULL = 0.02, 0.08
FOLLOWS = 0.5
"""How much lightness must fall for a unit of chroma gained."""


def neon(before: Float, after: Float) -> Alpha:
    """Where (h, w), 0…1, ``after`` is neon beside ``before``; both OKLab (h, w, 3)."""
    old, new = _chroma(before), _chroma(after)
    gained = new - old
    out = np.zeros_like(new)
    there = gained > SLACK
    there &= (after[..., 0] - before[..., 0]) > -FOLLOWS * gained
    if not there.any():
        return out
    beyond = new[there] - _reach(before, old)[_hue_bins(after)[there]]
    out[there] = np.clip((beyond - SLACK) / FULL, 0.0, 1.0)
    return out


def _chroma(lab: Float) -> Float:
    return np.asarray(cv2.magnitude(np.ascontiguousarray(lab[..., 1]), np.ascontiguousarray(lab[..., 2])), np.float32)


def _hue_bins(lab: Float) -> np.ndarray:
    hue = cv2.phase(np.ascontiguousarray(lab[..., 1]), np.ascontiguousarray(lab[..., 2]))  # 0…2π
    return np.minimum((hue * np.float32(HUES / (2.0 * np.pi))).astype(np.int32), HUES - 1)


def _reach(lab: Float, chroma: Float) -> Float:
    """The chroma (HUES,) that the frame's own colours reach, hue by hue; neighbouring hues count as well."""
    levels = np.minimum((chroma * np.float32(LEVELS / MOST_CHROMA)).astype(np.int32), LEVELS - 1)
    # whole planes are quicker to reckon than the coloured pixels are to pick
    cells = np.bincount((_hue_bins(lab) * LEVELS + levels)[chroma > COLOURED], minlength=HUES * LEVELS)
    upto = np.cumsum(cells.reshape(HUES, LEVELS), axis=1)
    out = np.zeros(HUES, np.float32)
    for hue in np.flatnonzero(upto[:, -1] >= max(LEAST_PIXELS * chroma.size, 1.0)):
        rank = RICHEST / 100.0 * upto[hue, -1]
        at = int(np.searchsorted(upto[hue], rank))
        before = upto[hue, at - 1] if at else 0
        out[hue] = (at + (rank - before) / (upto[hue, at] - before)) * (MOST_CHROMA / LEVELS)
    around = np.maximum(out, np.maximum(np.roll(out, 1), np.roll(out, -1)))
    return np.maximum(around, np.float32(LEAST_REACH))

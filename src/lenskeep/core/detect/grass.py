"""Blades of grass and leaves before a person or an animal: what is green, and commoner around them than on them."""

import cv2
import numpy as np

from lenskeep.core.detect.edges import extent
from lenskeep.core.types import SRGB8, Alpha, Float

AROUND, APART, CORE = 0.06, 3, 9
"""How far around the subject its surroundings are looked at (share of the long side), what is left out between, and how
much of its rim is not taken for its own colours; the last two in pixels of the proxy."""
LEAST = 500
BINS, REACH, LIGHTS = 24, 60.0, 8
BLUR, FLOOR = 0.8, 5e-5
GREEN, YELLOW = -10.0, 6.0
"""CIE a* under which and b* over which a pixel is green enough to be a plant."""
COMMONER = 1.2


def without_grass(image: SRGB8, mask: Alpha) -> Alpha:
    """The mask (h, w) 0…1 without plants before it. The subject's own greens stay where they are as common on it as
    around it.
    """
    inside = (mask > 0.5).astype(np.uint8)
    reach = max(3, round(AROUND * max(mask.shape)))
    box = extent(inside, reach)
    if box is None:
        return mask
    part, inside = np.ascontiguousarray(image[box]), inside[box]
    lab = cv2.cvtColor(part.astype(np.float32) / np.float32(255), cv2.COLOR_RGB2LAB)
    green = (lab[..., 1] < GREEN) & (lab[..., 2] > YELLOW)
    if (green & (inside > 0)).sum() < LEAST / 10:
        return mask
    away = cv2.distanceTransform(1 - inside, cv2.DIST_L2, 3)
    around = (away > APART) & (away <= reach)
    own = cv2.erode(inside, np.ones((CORE, CORE), np.uint8)) > 0
    if own.sum() < LEAST or around.sum() < LEAST:
        return mask
    place = np.clip((lab[..., 1:] + REACH) / (2 * REACH) * BINS, 0, BINS - 1).astype(np.int32)
    light = np.clip(lab[..., 0] / 100 * LIGHTS, 0, LIGHTS - 1).astype(np.int32)
    place = (light * BINS + place[..., 0]) * BINS + place[..., 1]
    commoner = (_common(place[around]) + FLOOR) / (_common(place[own]) + FLOOR) > COMMONER
    grass = (green & commoner[place]).astype(np.float32)
    out = mask.copy()
    out[box] *= 1.0 - cv2.GaussianBlur(grass, (0, 0), 0.7)
    return out


def _common(places: np.ndarray) -> Float:
    """The share of each bin of colour, a little smoothed, flat."""
    counts = np.bincount(places, minlength=LIGHTS * BINS * BINS).reshape(LIGHTS, BINS, BINS).astype(np.float32)
    smooth = np.stack([cv2.GaussianBlur(level, (0, 0), BLUR) for level in counts])
    smooth[1:-1] = 0.5 * smooth[1:-1] + 0.25 * (smooth[:-2] + smooth[2:])
    return np.asarray(smooth.ravel() / max(float(smooth.sum()), 1e-9), np.float32)

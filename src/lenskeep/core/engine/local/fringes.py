"""Fringes: purple and green along edges of high contrast brought to the colour beside the edge; light stays.

Lateral and axial colour errors of lenses leave chroma beside steps of light where neither side has it (Kang 2007,
*Automatic removal of chromatic aberration from a single image*). Params are the width as a fraction of the long side,
the amounts for purple and for green, and the EV of an edge.
"""

import math

import cv2
import numpy as np

from lenskeep.core.colour.oklab import from_oklab, to_oklab
from lenskeep.core.engine.local.base import LocalOperation, Params, gaussian
from lenskeep.core.engine.planes import log_luminance
from lenskeep.core.types import Float, LinearRGB

LEAST_PIXELS = 0.5
PURPLE, GREEN = math.radians(318.0), math.radians(148.0)
"""Middles of the hues in OKLab that fringes have; each reaches 60° to either side."""
HALF = math.radians(60.0)
BESIDE = 3.0
"""So many widths away the colour beside an edge is looked for."""
SOFT = 0.5
"""EV over which an edge begins to count."""


def _edges(rgb: LinearRGB, pixels: float, least: float) -> Float:
    """(h, w) 0…1: whether light differs by more than ``least`` EV within a width around."""
    light = log_luminance(np.maximum(rgb, np.float32(1e-4)))
    size = 2 * max(1, round(pixels)) + 1
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (size, size))
    step = cv2.dilate(light, disc) - cv2.erode(light, disc)
    return np.asarray(np.clip((step - least) / SOFT, 0.0, 1.0), np.float32)


def _hues(a: Float, b: Float, middle: float) -> Float:
    """(h, w) 0…1: how much a colour is of a hue."""
    off = np.abs(np.arctan2(b, a) - middle)
    off = np.minimum(off % (2.0 * math.pi), 2.0 * math.pi - off % (2.0 * math.pi))
    return np.asarray(np.clip(1.5 - off / HALF * 1.5, 0.0, 1.0), np.float32)


def _defringed(rgb: LinearRGB, long_side: int, params: Params) -> LinearRGB:
    width, purple, green, least = params
    pixels = width * long_side
    if pixels < LEAST_PIXELS:
        return rgb
    lab = to_oklab(np.ascontiguousarray(rgb, np.float32))
    light, a, b = lab[..., 0], lab[..., 1], lab[..., 2]
    edge = _edges(rgb, pixels, least)
    calm = np.float32(1.0) - edge + np.float32(1e-3)
    weight = gaussian(calm, BESIDE * pixels)
    beside = [gaussian(calm * plane, BESIDE * pixels) / weight for plane in (a, b)]
    fringe = np.maximum(purple * _hues(a, b, PURPLE), green * _hues(a, b, GREEN)) * edge
    more = np.hypot(a, b) > np.hypot(beside[0], beside[1])  # never towards more colour
    share = np.where(more, fringe, np.float32(0.0)).astype(np.float32)
    out = np.stack([light, a + share * (beside[0] - a), b + share * (beside[1] - b)], -1)
    made = from_oklab(np.asarray(out, np.float32))
    return np.ascontiguousarray(np.where(share[..., None] > 0, np.maximum(made, 0.0), rgb), np.float32)


FRINGES = LocalOperation("fringes", lambda params: (3.0 * BESIDE + 1.0) * params[0] + 1e-3, _defringed)

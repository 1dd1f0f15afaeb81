"""Sky seen through gaps in something dark, out of focus or finely cut up, where the decoder is undecided: how much of
each pixel is sky follows from its light alone.

Light adds up: a pixel of which a share is sky holds that share of the sky's light and the rest of what is dark beside
it (the compositing equation; Smith and Blinn 1996 on solving it with two known colours). Both are known near every
place from what is surely sky and surely none.
"""

import cv2
import numpy as np
from numpy.typing import NDArray

from lenskeep.core.detect.skycolour import SURE, SURELY_NONE, around, highlights_opened
from lenskeep.core.engine.planes import Channels, most_channel
from lenskeep.core.types import Alpha, Float

WHITE = 0.15
"""Where a tone curve compresses highlights (Reinhard et al. 2002, inverted): less than where soft borders are corrected
afterwards, as the share is taken from light outright."""
SMALLER = 4
"""Light is gathered at this share of the size."""
SKY_REACH, DARK_REACH = 0.06, 0.04
"""How far around either is gathered, as fractions of the long side."""
RULED_OUT = (0.005, 0.015)
"""Probabilities up to which the decoder rules a pixel out, and from which it does not, within ``NEAR`` pixels."""
NEAR = 9
CONTRAST = (4.0, 7.0)
"""How many times brighter than what is dark the sky is where its share is told by light not at all, and in full."""
BURNT_FROM, BURNT, BURNT_FILLS = 0.95, 0.95, 1.2
"""A channel from which sky is burnt out; the share of it so from which a pixel is filled sooner than by its share, as
its light is more than can be seen; and how much sooner."""
CORE = 0.02
"""So far within what is surely sky, as a fraction of the long side, it stays whole, whatever its clouds."""


def through_gaps(linear: Float, probability: Alpha, share: Alpha, otherwise: Alpha) -> tuple[Alpha, Alpha]:
    """The sky's mask (h, w) 0…1 by light, and ``otherwise`` where the contrast is too little for that; and how far
    light told it, (h, w) 0…1.

    ``linear`` is the picture (h, w, 3), ``probability`` what the decoder says, ``share`` what colour makes of it.
    """
    h, w = share.shape
    light, reach = highlights_opened(linear, WHITE), max(h, w) // SMALLER
    small = np.dstack((_small(light), _small((most_channel(linear) > BURNT_FROM).astype(np.float32))))
    is_sky = (_small((share > SURE).astype(np.float32)) > SURE).astype(np.float32)
    is_dark = (_small(share) < SURELY_NONE).astype(np.float32)
    bright = cv2.resize(around(small, is_sky, SKY_REACH * reach)[0], (w, h))
    dark = cv2.resize(around(small, is_dark, DARK_REACH * reach)[0], (w, h))
    way = bright[..., :3] - dark[..., :3]
    along = _sum((light - dark[..., :3]) * way) / np.maximum(_sum(way * way), np.float32(1e-6))
    least, full = RULED_OUT
    near = cv2.dilate(probability, np.ones((NEAR, NEAR), np.uint8))
    alpha = np.clip(along, 0.0, 1.0) * np.clip((near - least) / (full - least), 0.0, 1.0)
    fills = 1.0 + BURNT_FILLS * np.clip((bright[..., 3] - BURNT) / (1.0 - BURNT), 0.0, 1.0)
    alpha = alpha / (alpha + fills * (1.0 - alpha) + 1e-6)
    alpha = np.maximum(alpha, _within(share > SURE, CORE))
    times = _sum(bright) / np.maximum(_sum(dark), np.float32(1e-4))
    by_light = np.clip((times - CONTRAST[0]) / (CONTRAST[1] - CONTRAST[0]), 0.0, 1.0)
    mask = by_light * alpha + (1.0 - by_light) * otherwise
    return np.asarray(mask, np.float32), np.asarray(by_light, np.float32)


def _sum(colours: Channels) -> Float:
    """The sum of the first three channels; a reduction over so short an axis takes many times as long."""
    return np.asarray(colours[..., 0] + colours[..., 1] + colours[..., 2], np.float32)


def _small(plane: Float) -> Float:
    h, w = plane.shape[:2]
    return np.asarray(cv2.resize(plane, (max(1, w // SMALLER), max(1, h // SMALLER)), interpolation=cv2.INTER_AREA))


def _within(inside: NDArray[np.bool_], reach: float) -> Float:
    """1 where everything within ``reach`` is inside, else 0."""
    size = 2 * max(1, round(reach * max(inside.shape))) + 1
    return np.asarray(cv2.erode(inside.astype(np.float32), np.ones((size, size), np.uint8)), np.float32)

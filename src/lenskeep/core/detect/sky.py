"""The sky: a decoder over a classification network's stages, at two scales, then the picture's own edges."""

import cv2
import numpy as np

from lenskeep.core.colour.transfer import DECODE8
from lenskeep.core.detect.edges import colour_guided, without_specks
from lenskeep.core.detect.tensors import backbone_input
from lenskeep.core.types import SRGB8, Alpha, Float, Session

LONG_SIDES = (640, 896)
"""The smaller sees what the whole is, the larger finds gaps and thin things; their mean does better than either."""

DECODED_STAGES = (1, 2, 3, 4, 5, 6)
"""Of the backbone's outputs; in place of the first, at half size, the decoder sees the picture."""

EDGE_RADIUS, EDGE_EPS = 0.016, 1e-3
LEAST_AREA, LEAST_CERTAINTY = 0.0015, 0.7
LEAST_TOTAL = 0.004


def sky_probability(image: SRGB8, backbone: Session, decoder: Session) -> Alpha:
    """The decoder's share of sky, (h, w) 0…1, at the detail of a picture of half the larger long side."""
    h, w = image.shape[:2]
    total = np.zeros((h, w), np.float32)
    for side in LONG_SIDES:
        share = np.asarray(decoder.run(None, decoder_inputs(image, side, backbone))[0][0, 0], np.float32)
        total += np.clip(cv2.resize(share, (w, h), interpolation=cv2.INTER_CUBIC), 0, 1)
    return total / np.float32(len(LONG_SIDES))


def decoder_inputs(image: SRGB8, long_side: int, backbone: Session) -> dict[str, Float]:
    """What the decoder is fed, here as in training: ``picture`` (1, 3, h, w) at half the network's input size and the
    backbone's stages ``s1`` … ``s6``.
    """
    x = backbone_input(image, long_side)
    stages = backbone.run(None, {"x": x})
    half = (x.shape[3] // 2, x.shape[2] // 2)
    picture = cv2.resize(np.ascontiguousarray(x[0].transpose(1, 2, 0)), half, interpolation=cv2.INTER_AREA)
    named = {f"s{k}": stages[k] for k in DECODED_STAGES}
    return {"picture": np.ascontiguousarray(picture.transpose(2, 0, 1)[None], np.float32), **named}


def find_sky(image: SRGB8, backbone: Session, decoder: Session) -> tuple[Alpha, Alpha]:
    """(mask, probability), each (h, w) 0…1; the mask is empty where no sky is found.

    Edges follow the picture in linear light, where a soft edge is a mixture of what lies on its two sides.
    """
    probability = sky_probability(image, backbone, decoder)
    nothing = np.zeros_like(probability)
    if float((probability > 0.5).mean()) < LEAST_TOTAL:
        return nothing, probability
    radius = max(2, round(EDGE_RADIUS * max(image.shape)))
    mask = colour_guided(DECODE8[image], probability, radius, EDGE_EPS)
    mask = without_specks(mask, probability, LEAST_AREA, LEAST_CERTAINTY)
    return (mask if float((mask > 0.5).mean()) >= LEAST_TOTAL else nothing), probability

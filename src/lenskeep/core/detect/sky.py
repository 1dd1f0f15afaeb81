"""The sky: a decoder over a classification network's stages, then the picture's own edges."""

import cv2
import numpy as np

from lenskeep.core.detect.edges import colour_guided, grab, without_specks
from lenskeep.core.detect.tensors import backbone_input
from lenskeep.core.types import SRGB8, Alpha, Session

LONG_SIDE = 640
DECODED_STAGES = (1, 2, 3, 4, 5, 6)
"""Of the backbone's outputs; in place of the first, at half size, the decoder sees the picture."""

LEAST_AREA = 0.0015
LEAST_CERTAINTY = 0.62
LEAST_TOTAL = 0.004


def sky_probability(image: SRGB8, backbone: Session, decoder: Session) -> Alpha:
    """The decoder's share of sky, (h, w) 0…1, at the detail of a 320 px picture."""
    h, w = image.shape[:2]
    x = backbone_input(image, LONG_SIDE)
    stages = backbone.run(None, {"x": x})
    picture = x[0].transpose(1, 2, 0)
    half = (picture.shape[1] // 2, picture.shape[0] // 2)
    picture = cv2.resize(np.ascontiguousarray(picture), half, interpolation=cv2.INTER_AREA).transpose(2, 0, 1)[None]
    inputs = {"picture": np.ascontiguousarray(picture)} | {f"s{k}": stages[k] for k in DECODED_STAGES}
    share = decoder.run(None, inputs)[0][0, 0]
    return np.asarray(np.clip(cv2.resize(share, (w, h), interpolation=cv2.INTER_CUBIC), 0, 1), np.float32)


def find_sky(image: SRGB8, backbone: Session, decoder: Session) -> tuple[Alpha, Alpha]:
    """(mask, probability), each (h, w) 0…1; the mask is empty where no sky is found."""
    probability = sky_probability(image, backbone, decoder)
    if float((probability > 0.5).mean()) < LEAST_TOTAL:
        return np.zeros_like(probability), probability
    hard = grab(image, probability, sure_in=0.9, sure_out=0.04)
    hard = without_specks(hard, probability, LEAST_AREA, LEAST_CERTAINTY)
    if float(hard.mean()) < LEAST_TOTAL:
        return np.zeros_like(probability), probability
    return colour_guided(image, hard, radius=4, eps=1e-4), probability

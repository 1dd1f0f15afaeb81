"""The sky: a linear head over a classification network's stages, then the picture's own edges."""

import cv2
import numpy as np

from lenskeep.core.detect.edges import colour_guided, grab, without_specks
from lenskeep.core.detect.scene_features import scene_features
from lenskeep.core.types import SRGB8, Alpha, Float, Session

LEAST_AREA = 0.0015
LEAST_CERTAINTY = 0.62
LEAST_TOTAL = 0.004


def sky_probability(image: SRGB8, backbone: Session, head: tuple[Float, float]) -> Alpha:
    """The head's probability of sky, (h, w), smooth at the scale of 1/64 of the frame; mean over the mirror image."""
    h, w = image.shape[:2]
    weights, bias = head
    straight = scene_features(image, backbone) @ weights
    mirrored = scene_features(np.ascontiguousarray(image[:, ::-1]), backbone) @ weights
    logit = 0.5 * (straight + mirrored[:, ::-1]) + bias
    p = 1.0 / (1.0 + np.exp(-np.clip(logit, -30, 30)))
    return np.asarray(np.clip(cv2.resize(p, (w, h), interpolation=cv2.INTER_CUBIC), 0, 1), np.float32)


def find_sky(image: SRGB8, backbone: Session, head: tuple[Float, float]) -> tuple[Alpha, Alpha]:
    """(mask, probability), each (h, w) 0…1; the mask is empty where no sky is found."""
    probability = sky_probability(image, backbone, head)
    if float((probability > 0.5).mean()) < LEAST_TOTAL:
        return np.zeros_like(probability), probability
    hard = grab(image, probability, sure_in=0.9, sure_out=0.04)
    hard = without_specks(hard, probability, LEAST_AREA, LEAST_CERTAINTY)
    if float(hard.mean()) < LEAST_TOTAL:
        return np.zeros_like(probability), probability
    return colour_guided(image, hard, radius=4, eps=1e-4), probability

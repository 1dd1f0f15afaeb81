"""Skin and faces. Skin is what has the colour of the found faces on the people they belong to.

Where people were found without a face, a wide range of hue that skin of every tone keeps to is used instead: skin
differs far more in lightness than in hue (after Phung, Bouzerdoum & Chai 2005).
"""

import cv2
import numpy as np

from lenskeep.core.colour.oklab import to_oklab
from lenskeep.core.colour.spaces import SRGB_TO_REC2020
from lenskeep.core.colour.transfer import DECODE8
from lenskeep.core.detect.edges import colour_guided
from lenskeep.core.easing import ease
from lenskeep.core.facts import Face
from lenskeep.core.types import SRGB8, Alpha, Float

HUE, HUE_SPREAD = 0.98, 0.22
"""Of skin in OKLab, radians: orange-red, the same for light and dark skin within the spread."""
CHROMA = (0.015, 0.03, 0.13, 0.17)
FACE_COLOUR_SPREAD, FACE_LIGHT_SPREAD = 0.02, 0.16
INNER = 0.32
"""Share of a face's box, about its middle, whose colour is taken for skin."""


def face_mask(shape: tuple[int, int], faces: list[Face], people: Alpha) -> Alpha:
    """Soft ellipses from forehead to chin, kept to the people, (h, w) 0…1."""
    h, w = shape
    total = np.zeros(shape, np.float32)
    if not faces:
        return total
    y, x = np.mgrid[:h, :w].astype(np.float32)
    for face in faces:
        cx, cy = face.box.middle[0] * w, (face.box.middle[1] - 0.08 * face.box.height) * h
        rx, ry = max(0.56 * face.box.width * w, 1), max(0.74 * face.box.height * h, 1)
        reach = np.sqrt(((x - cx) / rx) ** 2 + ((y - cy) / ry) ** 2)
        total = np.maximum(total, ease((1.0 - reach) / 0.25))
    near = cv2.dilate(people, np.ones((3, 3), np.uint8))
    return np.asarray(total * np.clip(near, 0, 1), np.float32)


def skin_mask(image: SRGB8, faces: list[Face], people: Alpha) -> Alpha:
    """Skin of the people found, (h, w) 0…1; empty without people."""
    h, w = people.shape
    if float((people > 0.5).mean()) <= 0.0:
        return np.zeros((h, w), np.float32)
    calm = cv2.GaussianBlur(image, (0, 0), max(0.0015 * max(h, w), 0.4))
    lab = to_oklab(DECODE8[calm] @ SRGB_TO_REC2020.T.astype(np.float32))
    likeness = _general(lab)
    for face in faces:
        likeness = np.maximum(likeness * np.float32(0.9), _like_face(lab, face, likeness))
    raw = np.asarray(likeness * people, np.float32)
    fine = colour_guided(image, raw, max(2, round(0.004 * max(h, w))), 4e-4)
    return np.asarray(np.clip(1.4 * fine - 0.2, 0, 1) * people, np.float32)


def _general(lab: Float) -> Float:
    chroma = np.hypot(lab[..., 1], lab[..., 2])
    hue = np.arctan2(lab[..., 2], lab[..., 1])
    rise = np.clip((chroma - CHROMA[0]) / (CHROMA[1] - CHROMA[0]), 0, 1)
    fall = np.clip((CHROMA[3] - chroma) / (CHROMA[3] - CHROMA[2]), 0, 1)
    light = np.clip((lab[..., 0] - 0.18) / 0.1, 0, 1) * np.clip((0.97 - lab[..., 0]) / 0.04, 0, 1)
    return np.asarray(np.exp(-(((hue - HUE) / HUE_SPREAD) ** 2) / 2) ** 0.7 * rise * fall * light, np.float32)


def _like_face(lab: Float, face: Face, general: Float) -> Float:
    """Likeness to the face's own skin: its middle colour, found among pixels that could be skin at all."""
    h, w = general.shape
    cx, cy = face.box.middle
    rx, ry = INNER * face.box.width, INNER * face.box.height
    y0, y1 = max(0, int((cy - ry) * h)), min(h, int((cy + ry) * h) + 1)
    x0, x1 = max(0, int((cx - rx) * w)), min(w, int((cx + rx) * w) + 1)
    inner, could = lab[y0:y1, x0:x1].reshape(-1, 3), general[y0:y1, x0:x1].reshape(-1)
    if inner.shape[0] < 4:
        return general
    weight = could > 0.2
    middle = np.median(inner[weight] if weight.sum() > 0.2 * len(weight) else inner, axis=0)
    colour = ((lab[..., 1] - middle[1]) ** 2 + (lab[..., 2] - middle[2]) ** 2) / FACE_COLOUR_SPREAD**2
    light = ((lab[..., 0] - middle[0]) / FACE_LIGHT_SPREAD) ** 2
    return np.asarray(np.exp(-0.5 * (colour * 0.6 + light * 0.6)), np.float32)

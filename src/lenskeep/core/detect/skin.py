"""Skin and faces. Skin is what has the colour of the found faces on the people they belong to.

A face teaches its skin as a and b over L in OKLab, which light and shade leave as they are (all three grow with the
cube root of light). Shine is the lamp's colour added to the skin's (Shafer 1985, "Using color to separate reflection
components"), so near the face that line counts too: a white collar lies on it as well, but no shine is as pale as cloth
away from the face. Lips are redder than their face, hair is darker or yellower. Where people were found without a face,
a wide range of hue that skin of every tone keeps to is used instead: skin differs far more in lightness than in hue
(after Phung, Bouzerdoum & Chai 2005).
"""

from dataclasses import dataclass

import cv2
import numpy as np

from lenskeep.core.colour.oklab import measured_oklab
from lenskeep.core.colour.spaces import SRGB_TO_REC2020, through
from lenskeep.core.colour.transfer import DECODE8
from lenskeep.core.detect.edges import colour_guided
from lenskeep.core.easing import ease
from lenskeep.core.facts import Face
from lenskeep.core.types import SRGB8, Alpha, Float

HUE, HUE_SPREAD = 0.98, 0.22
"""Of skin in OKLab, radians: orange-red, the same for light and dark skin within the spread."""
CHROMA = (0.015, 0.03, 0.13, 0.17)
INNER = 0.30
"""Share of a face's box, about its middle, whose colour is taken for skin."""
LEAST_SPREAD, MOST_SPREAD = 0.014, 0.035
"""Of a/L and b/L within one face: less is grain, more is a beard or a hand before it."""
SHINE, SHINE_AWAY = 0.35, 0.75
"""The least share of the skin's own colour left where it shines, on the face and away from it."""
DARK = (0.50, 0.68)
"""Lightness over the face's: darker than the first is hair or a hollow, lighter than the second may be skin."""
REACH = 1.4
"""How many halves of a face's box its shine is looked for in; grey hair beyond is like shine."""
FAR = 5
"""A face's colours count for those whose people lie within so many of its boxes' heights."""


@dataclass(frozen=True)
class Complexion:
    """A face's skin: the middle of (a/L, b/L), their spread, and its middle lightness."""

    ratio: Float
    spread: Float
    light: float


def _ellipse(shape: tuple[int, int], middle: tuple[float, float], rx: float, ry: float) -> Float:
    """Distance from a middle in half axes, all in shares of the frame; (h, w)."""
    h, w = shape
    y, x = np.mgrid[:h, :w].astype(np.float32)
    across, down = (x - middle[0] * w) / max(rx * w, 1), (y - middle[1] * h) / max(ry * h, 1)
    return np.asarray(np.sqrt(across**2 + down**2), np.float32)


def face_mask(shape: tuple[int, int], faces: list[Face], people: Alpha) -> Alpha:
    """Soft ellipses from forehead to chin, kept to the people, (h, w) 0…1."""
    total = np.zeros(shape, np.float32)
    if not faces:
        return total
    for face in faces:
        middle = (face.box.middle[0], face.box.middle[1] - 0.08 * face.box.height)
        reach = _ellipse(shape, middle, 0.56 * face.box.width, 0.74 * face.box.height)
        total = np.maximum(total, ease((1.0 - reach) / 0.25))
    near = cv2.dilate(people, np.ones((3, 3), np.uint8))
    return np.asarray(total * np.clip(near, 0, 1), np.float32)


def skin_mask(image: SRGB8, faces: list[Face], people: Alpha) -> Alpha:
    """Skin of the people found, (h, w) 0…1; empty without people."""
    h, w = people.shape
    if float((people > 0.5).mean()) <= 0.0:
        return np.zeros((h, w), np.float32)
    calm = cv2.GaussianBlur(image, (0, 0), max(0.0015 * max(h, w), 0.4))
    lab = measured_oklab(through(DECODE8[calm], SRGB_TO_REC2020))
    likeness = skin_hue(lab)
    learnt = [(face, own) for face in faces if (own := complexion(lab, face, likeness)) is not None]
    if learnt:
        likeness = _of_faces(lab, learnt, likeness)
    raw = np.asarray(likeness * people, np.float32)
    fine = colour_guided(image, raw, max(2, round(0.004 * max(h, w))), 4e-4)
    return np.asarray(np.clip(1.4 * fine - 0.2, 0, 1) * people, np.float32)


def skin_hue(lab: Float) -> Float:
    """How far OKLab colours (h, w, 3) are of a hue, chroma and lightness that skin of any tone has, (h, w) 0…1."""
    chroma = np.hypot(lab[..., 1], lab[..., 2])
    hue = np.arctan2(lab[..., 2], lab[..., 1])
    rise = np.clip((chroma - CHROMA[0]) / (CHROMA[1] - CHROMA[0]), 0, 1)
    fall = np.clip((CHROMA[3] - chroma) / (CHROMA[3] - CHROMA[2]), 0, 1)
    light = np.clip((lab[..., 0] - 0.18) / 0.1, 0, 1) * np.clip((0.97 - lab[..., 0]) / 0.04, 0, 1)
    return np.asarray(np.exp(-(((hue - HUE) / HUE_SPREAD) ** 2) / 2) ** 0.7 * rise * fall * light, np.float32)


def _of_faces(lab: Float, learnt: list[tuple[Face, Complexion]], general: Float) -> Float:
    """Likeness to the nearest faces' own skin, and to skin at large where no face is near."""
    shape = general.shape
    best, near = np.zeros(shape, np.float32), np.zeros(shape, np.float32)
    for face, own in learnt:
        away = _ellipse(shape, face.box.middle, FAR * face.box.height * shape[0] / shape[1], FAR * face.box.height)
        counts = ease((1.4 - away) / 0.4)
        best, near = np.maximum(best, counts * like_face(lab, face, own)), np.maximum(near, counts)
    return np.asarray(best + (1.0 - near) * general, np.float32)


def complexion(lab: Float, face: Face, general: Float) -> Complexion | None:
    """What a face's own skin is like, by those of its pixels that could be skin at all; None where they are too few."""
    h, w = general.shape
    cx, cy = face.box.middle
    rx, ry = INNER * face.box.width, INNER * face.box.height
    y0, y1 = max(0, int((cy - ry) * h)), min(h, int((cy + ry) * h) + 1)
    x0, x1 = max(0, int((cx - rx) * w)), min(w, int((cx + rx) * w) + 1)
    inner, could = lab[y0:y1, x0:x1].reshape(-1, 3), general[y0:y1, x0:x1].reshape(-1)
    chosen = inner[could > 0.2] if (could > 0.2).sum() > 0.2 * len(could) else inner
    chosen = chosen[chosen[:, 0] > 0.05]
    if len(chosen) < 4:
        return None
    light = float(np.median(chosen[:, 0]))
    # the lit half of a face shows its colour; eyes, nostrils and beards lie in the other one
    lit = chosen[chosen[:, 0] > 0.85 * light]
    ratio = lit[:, 1:] / lit[:, :1]
    middle = np.median(ratio, axis=0)
    spread = np.clip(1.4826 * np.median(np.abs(ratio - middle), axis=0), LEAST_SPREAD, MOST_SPREAD)
    return Complexion(np.asarray(middle, np.float32), np.asarray(spread, np.float32), light)


def like_face(lab: Float, face: Face, own: Complexion) -> Float:
    """(h, w) 0…1: how much each pixel is like this face's skin, lips and hair apart."""
    shape = lab.shape[0], lab.shape[1]
    light = np.maximum(lab[..., 0], np.float32(0.02))
    ratio = np.asarray(lab[..., 1:] / light[..., None], np.float32)
    length = float(own.ratio @ own.ratio) or 1.0
    close = ease((REACH - _ellipse(shape, face.box.middle, 0.5 * face.box.width, 0.5 * face.box.height)) / 0.4)
    least = SHINE_AWAY + (SHINE - SHINE_AWAY) * close
    along = np.clip(ratio @ own.ratio / length, least, 1.0)
    shines = ease((light - own.light) / 0.12)
    expected = own.ratio * (1.0 - shines * (1.0 - along))[..., None]
    far = (((ratio - expected) / (2.0 * own.spread)) ** 2).sum(-1)
    like = np.exp(-0.5 * far * far)  # flat in the middle, so that skin is even, and steep at its ends
    dark = ease((light / own.light - DARK[0]) / (DARK[1] - DARK[0]))
    return np.asarray(like * dark * (1.0 - _lips(ratio, face, own)), np.float32)


def _lips(ratio: Float, face: Face, own: Complexion) -> Float:
    """(h, w) 0…1: what is redder than the skin about the mouth."""
    shape = ratio.shape[0], ratio.shape[1]
    if face.mouth is None:
        return np.zeros(shape, np.float32)
    around = ease((1.0 - _ellipse(shape, face.mouth, 0.30 * face.box.width, 0.17 * face.box.height)) / 0.3)
    redder = ease(((ratio[..., 0] - own.ratio[0]) / own.spread[0] - 0.6) / 1.2)
    return np.asarray(around * redder, np.float32)

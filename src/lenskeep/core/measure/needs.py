"""What a picture lacks to stand in a middle light without a cast, by its own measure, and how sure that is.

Cast: shades of grey (Finlayson & Trezzi 2004) and grey-edge (van de Weijer, Gevers & Gijsenij 2007), each at two norms;
where the four agree the cast is sure, where they differ the scene's own colours speak. Light: the middle against 18 %
grey, as far as there is room below white, and less the more the picture is meant to be dark or bright.
"""

from dataclasses import dataclass

import cv2
import numpy as np

from lenskeep.core.colour.adapt import balance_matrix
from lenskeep.core.colour.oklab import to_oklab
from lenskeep.core.easing import ease
from lenskeep.core.engine.planes import log_luminance, proxy_size
from lenskeep.core.types import Alpha, Float, LinearRGB, Matrix

SIDE = 256
NORMS = (1.0, 6.0)
LIT, BURNT = 0.003, 0.95
"""Pixels outside of these say nothing about the light's colour."""
SPREAD = 0.11
"""Spread of the four estimates (in natural logarithms of channel ratios) at which the cast is half sure."""
MIDDLE = float(np.log2(0.18))
ROOM = -0.15
"""log2 luminance that the brightest hundredth may be raised to."""
NIGHT, DIM = -5.0, -3.5
"""Medians of log2 luminance: a picture as dark as the first is meant to be dark, from the second on it is not."""
WASHED, DEEP = -2.0, -3.5
"""The darkest tenth (log2 luminance): at the first or above, a bright picture is too bright; at the second it has its
darks, and is meant to be bright."""
BRIGHT = -1.7
MUCH_CLIPPED = 0.25
"""Share of the frame at which white that says nothing any more speaks for too much light; fog is bright without it."""
MOST_MIRED, MOST_DUV, MOST_EV = 100.0, 30.0, 4.0
LEAST_PIXELS = 60


@dataclass(frozen=True)
class Needs:
    """What would bring the picture to its measure: EV, mired, thousandths of Duv; and how sure each of light and cast
    is, 0…1. ``middle`` is the median log2 luminance.
    """

    ev: float = 0.0
    mired: float = 0.0
    duv: float = 0.0
    sure_light: float = 0.0
    sure_cast: float = 0.0
    middle: float = MIDDLE


def needs(picture: LinearRGB, where: Alpha | None = None) -> Needs:
    """Of linear Rec. 2020 (h, w, 3); ``where`` (h, w) weighs what the light is measured in, the cast is the whole's."""
    size = proxy_size(picture.shape[0], picture.shape[1], SIDE)[::-1]
    small = np.asarray(cv2.resize(picture, size, interpolation=cv2.INTER_AREA), np.float32)
    inside = None
    if where is not None:
        inside = cv2.resize(where, size, interpolation=cv2.INTER_AREA) >= 0.5
    ev, sure_light, middle = _light(small, inside)
    mired, duv, sure_cast = _cast(small)
    return Needs(ev, mired, duv, sure_light, sure_cast, middle)


def neutralising(colour: tuple[float, float, float]) -> tuple[float, float]:
    """(mired, thousandths of Duv) that make a linear Rec. 2020 colour neutral in OKLab, by Newton's method, held to
    what warmth and tint can be set to. Nothing for black.
    """
    rgb = np.maximum(np.asarray(colour, np.float64), 1e-6)
    rgb = rgb / float(rgb.max()) * 0.5
    if max(colour) <= 1e-5:
        return 0.0, 0.0

    def off(at: Matrix) -> Matrix:
        turned = balance_matrix(0.0, float(at[0]), float(at[1])) @ rgb
        lab = to_oklab(np.asarray(turned, np.float32)[None, None])
        return np.asarray(lab[0, 0, 1:], np.float64)

    at = np.zeros(2)
    most = np.array([MOST_MIRED, MOST_DUV])
    for _ in range(14):
        here = off(at)
        slopes = np.stack([off(at + step) - here for step in np.eye(2)], 1)
        at = np.clip(at - np.linalg.lstsq(slopes, here, rcond=None)[0], -most, most)
    return float(at[0]), float(at[1])


def _light(small: LinearRGB, inside: np.ndarray | None) -> tuple[float, float, float]:
    """(EV needed, how sure, median log2 luminance)."""
    lg = log_luminance(small)
    low, top = (float(v) for v in np.percentile(lg, (10, 99)))
    own = lg if inside is None or int(inside.sum()) < LEAST_PIXELS else lg[inside]
    middle = float(np.median(own))
    if middle < MIDDLE:
        wanted = max(0.0, min(MIDDLE - middle, ROOM - top))
        sure = float(ease((middle - NIGHT) / (DIM - NIGHT)))
    else:
        wanted = min(0.0, BRIGHT - middle)
        clipped = float(np.mean(small.max(-1) > BURNT))
        sure = float(ease((low - DEEP) / (WASHED - DEEP)) * ease(clipped / MUCH_CLIPPED))
    return min(max(wanted, -MOST_EV), MOST_EV), sure, middle


def _cast(small: LinearRGB) -> tuple[float, float, float]:
    """(mired, thousandths of Duv, how sure) that would cast the colour of the light out."""
    strongest = small.max(-1)
    told = (strongest > LIT) & (strongest < BURNT)
    within = cv2.erode(told.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    if int(within.sum()) < LEAST_PIXELS:
        return 0.0, 0.0, 0.0
    soft = cv2.GaussianBlur(np.minimum(small, 2.0), (0, 0), 1.0)
    edges = np.hypot(cv2.Sobel(soft, -1, 1, 0), cv2.Sobel(soft, -1, 0, 1))
    found = [_norm(small[told], p) for p in NORMS] + [_norm(edges[within], p) for p in NORMS]
    logs = np.log(np.maximum(np.array(found), 1e-6))
    ratios = np.stack([logs[:, 0] - logs[:, 1], logs[:, 2] - logs[:, 1]], 1)
    mean = ratios.mean(0)
    spread = float(np.sqrt(((ratios - mean) ** 2).sum(1).mean()))
    mired, duv = neutralising((float(np.exp(mean[0])), 1.0, float(np.exp(mean[1]))))
    return mired, duv, 1.0 / (1.0 + (spread / SPREAD) ** 2)


def _norm(values: Float, p: float) -> Float:
    """The Minkowski norm of each channel of (n, 3), over its mean count."""
    return np.asarray(np.mean(np.asarray(values, np.float64) ** p, axis=0) ** (1.0 / p))

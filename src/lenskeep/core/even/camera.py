"""A camera's curve, estimated from places that a shoot shows twice at exposures that are known (EXIF).

Under the right curve every tone of such a place differs by the same ratio of light, and that ratio is the exposures'
own (comparametric: Mann & Picard 1995; Mitsunaga & Nayar 1999 for ratios that are known roughly).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations

import cv2
import numpy as np

from lenskeep.core.base.curve import USUAL, Curve, unbent
from lenskeep.core.colour.spaces import REC2020_TO_SRGB
from lenskeep.core.even.described import described
from lenskeep.core.even.witnesses import same_place
from lenskeep.core.types import Float, LinearRGB

LEAST_EV, MOST_EV = 0.25, 2.5
"""How far exposures differ that tell something, and no longer."""
LEAST_PAIRS, LEAST_SAMPLES, MOST_SAMPLES = 3, 250, 600
DARKEST, BRIGHTEST = 0.004, 0.9
POWERS = np.arange(1.0, 2.3, 0.05)
HALVES = np.geomspace(0.01, 1.2, 26)
AGREE = 0.1
"""EV that tones of a place may differ by, however they were bent; where they differ more, it is not the same place."""
WORST, BETTER = 0.15, 0.85
"""EV that pairs may differ by on average under the curve that is believed; and by how much it must be better."""


@dataclass(frozen=True)
class Exposed:
    """A frame's untouched picture, small, and its exposure in stops (log2 of time × ISO / aperture²)."""

    picture: LinearRGB
    stops: float


@dataclass(frozen=True)
class _Pair:
    more: Float
    less: Float
    stops: float


def estimated(frames: Sequence[Exposed]) -> Curve | None:
    """The curve that explains what frames of one camera show; None where too little is shown twice, or no curve of this
    kind explains it clearly better than the usual one.
    """
    pairs = list(_pairs(frames))
    if len(pairs) < LEAST_PAIRS:
        return None
    curves = [Curve(power=round(float(p), 3), half=round(float(h), 4)) for p in POWERS for h in HALVES]
    costs = [_cost(curve, pairs) for curve in curves]
    best = int(np.argmin(costs))
    if costs[best] > WORST or costs[best] > BETTER * _cost(USUAL, pairs):
        return None
    return curves[best]


def _pairs(frames: Sequence[Exposed]) -> list[_Pair]:
    looked = [described(f.picture, {}) for f in frames]
    out = []
    for i, j in combinations(range(len(frames)), 2):
        stops = frames[i].stops - frames[j].stops
        if not LEAST_EV <= abs(stops) <= MOST_EV:
            continue
        move = same_place(looked[i], looked[j])
        if move is None:
            continue
        h, w = looked[i].dark.shape
        here = cv2.GaussianBlur(_green(frames[i].picture, (w, h)), (0, 0), 1.5)
        there = cv2.warpAffine(cv2.GaussianBlur(_green(frames[j].picture, (w, h)), (0, 0), 1.5), move, (w, h))
        good = (here > DARKEST) & (here < BRIGHTEST) & (there > DARKEST) & (there < BRIGHTEST)
        if int(good.sum()) < LEAST_SAMPLES:
            continue
        step = max(1, int(good.sum()) // MOST_SAMPLES)
        more, less = (np.asarray(one[good][::step], np.float32) for one in (here, there))
        pair = _Pair(more, less, stops)
        if _said(USUAL, pair)[1] <= AGREE:
            out.append(pair)
    return out


def _green(picture: LinearRGB, size: tuple[int, int]) -> Float:
    """The channel that a white balance leaves as it is."""
    small = np.asarray(cv2.resize(picture, size, interpolation=cv2.INTER_AREA), np.float32)
    return np.ascontiguousarray(small @ REC2020_TO_SRGB[1].astype(np.float32), np.float32)


def _cost(curve: Curve, pairs: Sequence[_Pair]) -> float:
    """Mean over pairs of how far the ratio of light is from the exposures', and of how unlike tones say it."""
    total = 0.0
    for pair in pairs:
        middle, spread = _said(curve, pair)
        total += min(abs(middle - pair.stops), 0.6) + min(spread, 0.6)
    return total / len(pairs)


def _said(curve: Curve, pair: _Pair) -> tuple[float, float]:
    """The ratio of light that a pair shows under a curve, in stops, and how far its tones are from it."""
    apart = np.log2(np.maximum(unbent(pair.more, curve), 1e-9) / np.maximum(unbent(pair.less, curve), 1e-9))
    middle = float(np.median(apart))
    return middle, float(np.median(np.abs(apart - middle)))

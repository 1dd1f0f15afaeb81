"""What two frames of a scene tell of how far they are apart: by histograms of like parts, by their quantiles, by place.

Each witness gives an offset (EV, mired, thousandths of Duv: what the first has more of) and its uncertainty. None uses
a subject's own brightness as if it were the same thing in both: a bride alone is not too bright beside a couple.
"""

from collections.abc import Iterator
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from lenskeep.core.even.described import BINS, WIDTH, Described
from lenskeep.core.facts import SUBJECT_KINDS
from lenskeep.core.types import Float, Matrix

LIMITS = (3.2, 90.0, 32.0)
"""Offsets between two frames beyond these are not believed."""
OWN = {
    "sky": (0.25, 10.0, 4.0), "greenery": (0.35, 10.0, 4.0), "water": (0.35, 10.0, 5.0), "skin": (0.25, 10.0, 5.0),
    "people": (0.7, 20.0, 8.0), "animals": (0.8, 25.0, 8.0), "things": (0.8, 25.0, 8.0),
}  # fmt: skip
OTHER = (0.3, 10.0, 4.0)
"""How far such a part differs between frames that are right."""
SUBJECTS_COUNT = 0.35
LEAST_RANKS, LEAST_MATCHES, LEAST_SHARED = 5, 14, 0.05
NEAREST = 0.78
"""Lowe's ratio: the best match must be this much nearer than the second."""
EVERY = 4
"""Of a place seen twice every so many pixels are looked at: neighbours say the same."""
ALIKE, AGREE = 0.45, 0.3
"""Of a place seen twice at least so many pixels agree within so many EV."""

_SHIFTS = np.meshgrid(*(np.fft.fftfreq(n, 1.0 / n) * w for n, w in zip(BINS, WIDTH, strict=True)), indexing="ij")
_BELIEVED: Float = np.exp(-sum((np.abs(s) / most) ** 6 for s, most in zip(_SHIFTS, LIMITS, strict=True))).astype(
    np.float32
)


@dataclass(frozen=True)
class Offset:
    """What the first frame has more of than the second, (3,), and how uncertain that is, (3,)."""

    value: Matrix
    sigma: Matrix


def by_histograms(a: Described, b: Described) -> Offset | None:
    """The shift that brings the joint histograms of like parts and textures together best."""
    total = np.zeros((*BINS[:2], BINS[2] // 2 + 1), np.complex64)
    weight = 0.0
    for key in sorted(a.spectra.keys() & b.spectra.keys()):
        own = float(np.sqrt(min(a.spectra[key][0], b.spectra[key][0])))
        own *= SUBJECTS_COUNT if key[0] in SUBJECT_KINDS else 1.0
        total += np.complex64(own) * a.spectra[key][1] * np.conj(b.spectra[key][1])
        weight += own
    if weight <= 0.0:
        return None
    likeness = np.fft.irfftn(total, BINS, axes=(0, 1, 2)) * _BELIEVED
    top = np.unravel_index(int(np.argmax(likeness)), BINS)
    value = np.array(
        [(int(t) + n // 2) % n - n // 2 + m for t, n, m in zip(top, BINS, _middle(likeness, top), strict=True)]
    ) * np.array(WIDTH)
    sure = max(float(likeness[top]) / weight, 0.03) * np.sqrt(min(weight, 1.5) / 1.5)
    return Offset(value, np.array((0.08, 2.5, 1.1)) / sure)


def _middle(likeness: NDArray[np.floating], top: tuple[np.intp, ...]) -> list[float]:
    """Where within the bins around the top the middle of the peak lies."""
    steps = np.arange(-2, 3)
    near = likeness[np.ix_(*((steps + int(t)) % n for t, n in zip(top, BINS, strict=True)))]
    near = np.maximum(near - 0.6 * near.max(), 0.0)
    total = max(float(near.sum()), 1e-12)
    axes = ((1, 2), (0, 2), (0, 1))
    return [float(near.sum(axis=others) @ steps / total) for others in axes]


def by_quantiles(a: Described, b: Described) -> Iterator[Offset]:
    """For each part seen on both: the median of the differences of its quantiles, burnt ones left out."""
    for name in sorted(a.quantiles.keys() & b.quantiles.keys()):
        (area_a, q_a, bad_a), (area_b, q_b, bad_b) = a.quantiles[name], b.quantiles[name]
        apart = q_a - q_b
        if int(np.isfinite(apart[0]).sum()) < LEAST_RANKS:
            continue
        value = np.nanmedian(apart, axis=1)
        unlike = 1.5 * np.nanmedian(np.abs(apart - value[:, None]), axis=1)
        trust = min(1.0, float(np.sqrt(min(area_a, area_b) / 0.15))) / (1.0 + 2.0 * (bad_a + bad_b))
        yield Offset(value, np.sqrt((np.array(OWN.get(name, OTHER)) ** 2 + unlike**2) / trust))


def by_place(a: Described, b: Described) -> Offset | None:
    """Where both show the same place (SIFT, a similarity by RANSAC): the median offset, pixel by pixel."""
    move = same_place(a, b)
    if move is None:
        return None
    h, w = a.dark.shape
    both = (_warped(b.readable, move, (w, h)) > 0.99) & (a.readable > 0.0)
    if float(both.mean()) < LEAST_SHARED:
        return None
    apart = (a.soft - _warped(b.soft, move, (w, h)))[both][::EVERY]
    value = np.median(apart, axis=0)
    if (np.abs(value) > LIMITS).any():
        return None
    if float((np.abs(apart[:, 0] - value[0]) < AGREE).mean()) < ALIKE:
        return None
    sigma = np.maximum(0.22 * np.median(np.abs(apart - value), axis=0), (0.015, 0.75, 0.35))
    return Offset(np.asarray(value, np.float64), np.asarray(sigma, np.float64))


def same_place(a: Described, b: Described) -> Matrix | None:
    """The similarity (2, 3) that lays b on a; None where they show different places."""
    if min(len(a.places), len(b.places)) < 20:
        return None
    pairs = [
        p for p, q in cv2.BFMatcher().knnMatch(a.descriptors, b.descriptors, k=2) if p.distance < NEAREST * q.distance
    ]
    if len(pairs) < LEAST_MATCHES:
        return None
    there = np.array([b.places[p.trainIdx] for p in pairs], np.float32)
    here = np.array([a.places[p.queryIdx] for p in pairs], np.float32)
    move, kept = cv2.estimateAffinePartial2D(there, here, ransacReprojThreshold=3)
    if move is None or int(kept.sum()) < max(LEAST_MATCHES, 0.25 * len(pairs)):
        return None
    return np.asarray(move, np.float64) if 0.4 < float(np.hypot(move[0, 0], move[0, 1])) < 2.5 else None


def _warped(plane: Float, move: Matrix, size: tuple[int, int]) -> Float:
    return np.asarray(cv2.warpAffine(plane, move, size), np.float32)

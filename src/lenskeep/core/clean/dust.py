"""Dust on a sensor: small round shadows at one place through a shoot, whatever is in front of the camera.

On each picture a disc is held against the ring around it in log2 light, at four sizes (a centre-surround difference, as
in Lindeberg 1998, *Feature detection with automatic scale selection*); where the ring is busy the difference weighs
little. Over a shoot evidence at one place of the sensor adds up as weighted means do: what belongs to a scene is
elsewhere on the next frame. Frames that are almost the same picture count as one.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np

from lenskeep.core.types import Float, LinearRGB

SIDE = 800
"""Pixels of the long side that dust is looked for at."""
RADII = (0.0022, 0.0034, 0.005, 0.0075)
"""Of specks, as shares of the long side."""
FLOOR_NOISE = 0.012
MOST_DEPTH = 0.25
CALM = 0.05
"""log2 of light: up to so much noise around it, a speck would be seen."""
LEAST_DEPTH, OVER_NOISE, KNOWN_OVER_NOISE = 0.02, 1.2, 0.7
"""A speck is seen that is so much darker than its ring, and than its noise; where it is known to be, less tells."""
LEAST_EVIDENCE, LEAST_SHARE, LEAST_SEEN = 7.0, 0.6, 2.5
ALIKE = 0.97
MOST_SPECKS = 200
_LUMA = np.array([0.2627, 0.678, 0.0593], np.float32)


@dataclass(frozen=True)
class Speck:
    """``x`` and ``y`` are shares of the sensor's width and height, ``radius`` one of its long side.

    ``evidence``: by how many standard errors it is darker than its surroundings over all frames. Of ``calm`` frames it
    is seen on ``seen``, each counted by how unlike it is to others. ``shows``: where it shows most, by places in the
    list.
    """

    x: float
    y: float
    radius: float
    evidence: float
    seen: float
    calm: float
    shows: tuple[int, ...]


def log_light(picture: LinearRGB) -> Float:
    """(h, w) log2 of a linear picture's luminance, held above black."""
    return np.asarray(np.log2(np.maximum(picture @ _LUMA, 0.0) + 0.01), np.float32)


def response(light: Float, radius: float) -> tuple[Float, Float]:
    """(how much darker each disc is than its ring, the ring's noise), both in log2 of light; radius in pixels."""
    reach = int(np.ceil(2.6 * radius))
    y, x = np.mgrid[-reach : reach + 1, -reach : reach + 1]
    away = np.hypot(x, y)
    disc = np.clip(0.8 * radius + 0.5 - away, 0.0, 1.0)
    ring = np.clip(2.5 * radius + 0.5 - away, 0.0, 1.0) * np.clip(away - 1.6 * radius + 0.5, 0.0, 1.0)
    fine = light - cv2.GaussianBlur(light, (0, 0), 3.0 * radius)

    def averaged(plane: Float, kernel: Float) -> Float:
        return np.asarray(cv2.filter2D(plane, -1, kernel, borderType=cv2.BORDER_REFLECT), np.float32)

    ring, disc = (np.asarray(k / k.sum(), np.float32) for k in (ring, disc))
    mean = averaged(fine, ring)
    noise = np.sqrt(np.maximum(averaged(fine * fine, ring) - mean * mean, 0.0))
    return np.asarray(mean - averaged(fine, disc), np.float32), np.asarray(noise, np.float32)


def seen_at(light: Float, place: tuple[float, float], radius: float, known: bool = False) -> tuple[float, bool, bool]:
    """(depth, whether its surroundings are calm, whether the speck is seen) at a place of one picture, by shares;
    ``known``: it is there, and the question is whether it would be noticed.
    """
    h, w = light.shape
    r = radius * max(h, w)
    reach = int(np.ceil(9.0 * r)) + 2
    cx, cy = int(place[0] * w), int(place[1] * h)
    top, left = max(0, cy - reach), max(0, cx - reach)
    part = light[top : cy + reach + 1, left : cx + reach + 1]
    if min(part.shape) < 5 or not (0 <= cx < w and 0 <= cy < h):
        return 0.0, False, False
    depth, noise = response(np.ascontiguousarray(part), r)
    d, n = float(depth[cy - top, cx - left]), float(noise[cy - top, cx - left])
    if known:
        return d, n < CALM, d > max(LEAST_DEPTH, KNOWN_OVER_NOISE * n)
    return d, n < CALM, n < CALM and d > max(LEAST_DEPTH, OVER_NOISE * n)


def specks(pictures: Sequence[Float]) -> list[Speck]:
    """Dust of a shoot, the surest first; ``pictures`` (``log_light``) are of one size, as the sensor saw them."""
    if not pictures:
        return []
    share = _shares(pictures)
    h, w = pictures[0].shape
    sums = np.zeros((len(RADII), h, w), np.float32)
    weights = np.zeros_like(sums)
    for light, own in zip(pictures, share, strict=True):
        for k, radius in enumerate(RADII):
            depth, noise = response(light, radius * max(h, w))
            weight = np.float32(own) / (noise * noise + np.float32(FLOOR_NOISE**2))
            sums[k] += weight * np.clip(depth, -MOST_DEPTH, MOST_DEPTH)
            weights[k] += weight
    evidence = sums / np.sqrt(np.maximum(weights, 1e-9))
    best, scale = evidence.max(0), evidence.argmax(0)
    out: list[Speck] = []
    apart = max(3, round(2.0 * RADII[-1] * max(h, w)))
    while len(out) < MOST_SPECKS:
        y, x = divmod(int(best.argmax()), w)
        if best[y, x] < LEAST_EVIDENCE:
            break
        found, middle = float(best[y, x]), _middle(best, y, x)
        best[max(0, y - apart) : y + apart + 1, max(0, x - apart) : x + apart + 1] = 0.0
        place, radius = (middle[0] / w, middle[1] / h), RADII[int(scale[y, x])]
        at = [seen_at(light, place, radius) for light in pictures]
        calm = sum(own for own, (_, c, _) in zip(share, at, strict=True) if c)
        seen = sum(own for own, (_, _, s) in zip(share, at, strict=True) if s)
        if seen < min(LEAST_SEEN, 0.8 * len(pictures)) or seen < LEAST_SHARE * calm:
            continue
        shows = sorted((n for n, (_, _, s) in enumerate(at) if s), key=lambda n: -at[n][0])
        out.append(
            Speck(*place, radius, round(found, 1), round(float(seen), 1), round(float(calm), 1), tuple(shows[:6]))
        )
    return out


def _middle(best: Float, y: int, x: int) -> tuple[float, float]:
    """(x, y) of a peak, between the pixels: the middle of what is over two thirds of it."""
    top, left = max(0, y - 3), max(0, x - 3)
    part = np.maximum(best[top : y + 4, left : x + 4] - 0.66 * best[y, x], 0.0)
    ys, xs = np.mgrid[: part.shape[0], : part.shape[1]]
    total = float(part.sum())
    return float((part * xs).sum()) / total + left + 0.5, float((part * ys).sum()) / total + top + 0.5


def _shares(pictures: Sequence[Float]) -> list[float]:
    """How much each picture counts: several that are almost the same share one voice."""
    small = [cv2.resize(p, (48, 32), interpolation=cv2.INTER_AREA).ravel() for p in pictures]
    even = np.stack([(s - s.mean()) / (s.std() + 1e-6) for s in small])
    alike = even @ even.T / even.shape[1]
    return [1.0 / max(1, int((row > ALIKE).sum())) for row in alike]

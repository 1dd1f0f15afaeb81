"""Guards: what can go wrong in a picture, as maps and figures.

Clipped, crushed, out of gamut, neon, skin drift, edge glow and visible seam: all compare the finished picture with the
untouched one, at screen size. A map is 0…1 where the fault lies; a figure says how much, in the unit of its guard;
over its limit the guard warns.
"""

import math
from collections.abc import Collection
from dataclasses import dataclass, field
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from lenskeep.core.colour.oklab import measured_oklab
from lenskeep.core.detect.edges import extent
from lenskeep.core.measure.neon import neon
from lenskeep.core.measure.pixelwise import PIXELWISE, pixel_faults
from lenskeep.core.measure.quantile import quantile
from lenskeep.core.types import Alpha, Float, LinearRGB, OKLab


@dataclass(frozen=True)
class Guard:
    """A guard as the interface shows it."""

    label: str
    help: str
    unit: str
    limit: float


GuardName = Literal["clipped", "crushed", "gamut", "neon", "skin", "glow", "seam"]
GUARDS: dict[GuardName, Guard] = {
    "clipped": Guard(
        "Clipped", "Highlights that lost detail in two channels or all, as a share of the frame.", "%", 1.0
    ),
    "crushed": Guard("Crushed", "Shadows that lost all detail, as a share of the frame.", "%", 1.0),
    "gamut": Guard("Out of gamut", "Colours stronger than the output can hold; they are paled.", "%", 1.0),
    "neon": Guard(
        "Neon", "Colours stronger than the frame's own, and no darker for it, as a share of the frame.", "%", 1.0
    ),
    "skin": Guard(
        "Skin drift", "How far skin moved in colour, lighter or darker as it may be, as ΔE(OK) times 100.", "ΔE", 3.5
    ),
    "glow": Guard("Edge glow", "Light or dark rims along a region's border, in lightness.", "L", 2.5),
    "seam": Guard("Seam", "A border in the adjustment where the picture has none, in lightness.", "L", 4.0),
}
GLOW_NEAR, GLOW_FAR = 0.006, 0.025
SEAM_SPAN = 0.004
EDGE_SHARE = 1.0
"""How much change of the adjustment an edge of the picture excuses, per change of lightness and colour there."""
LEAST_BORDER = 20
MASKED = 0.5
"""How much of a rim is hidden by the ground beside it, per standard deviation of its fine texture: fur and grass hide
what a wall shows."""
LEAST_LIGHTNESS = 0.02
"""Below it nobody sees what colour skin has."""
MONOCHROME = 0.02
"""How far apart colours may be in a picture that has none, in OKLab: about what an eye tells apart."""
ALIKE = 0.02
"""Alpha up to which two regions count as one."""


Labs = tuple[OKLab | None, OKLab | None]
NO_LABS: Labs = (None, None)


@dataclass(frozen=True)
class Faults:
    """Figures and maps (h, w) 0…1 by guard; of those that look along borders also what each border alone would say."""

    figures: dict[str, float]
    maps: dict[str, Alpha]
    along: dict[str, list[tuple[Alpha, float]]] = field(default_factory=dict)

    def of_region(self, guard: GuardName, region: Alpha) -> float:
        """What "glow" or "seam" says of the border of one of the regions: which one a fault lies along."""
        return next(figure for other, figure in self.along[guard] if same_border(region, other))


def faults(
    before: LinearRGB,
    after: LinearRGB,
    skin: Alpha,
    regions: list[Alpha],
    only: Collection[str] = tuple(GUARDS),
    labs: Labs = NO_LABS,
) -> Faults:
    """What is wrong with ``after`` (h, w, 3), made of ``before``; ``skin`` and ``regions`` of steps are (h, w) 0…1.

    ``only`` names the guards that are asked for; ``labs`` holds OKLab of both, as far as it was worked out before.
    """
    maps: dict[str, Alpha] = {}
    figures: dict[str, float] = {}
    if not set(only).isdisjoint(PIXELWISE):
        maps |= {name: where for name, where in pixel_faults(after).items() if name in only}
        figures |= {name: 100.0 * float(where.mean()) for name, where in maps.items()}
    if set(only) <= set(PIXELWISE):
        return _rounded(figures, maps)
    old, new = _in_lab(before, after, labs)
    if "neon" in only:
        maps["neon"] = neon(old, new)
        figures["neon"] = 100.0 * float(maps["neon"].mean())
    if "skin" in only:
        own = skin > 0.5
        drift = np.zeros(skin.shape, np.float32)
        drift[own] = 100.0 * _drifted(old[own], new[own])
        if own.sum() < 30 or (drift[own].mean() > GUARDS["skin"].limit and _made_grey(old, new)):
            drift[:] = 0.0
        figures["skin"] = float(drift[own].mean()) if own.any() else 0.0
        maps["skin"] = np.clip(drift / (2.0 * GUARDS["skin"].limit), 0.0, 1.0)
    if {"glow", "seam"}.isdisjoint(only):
        return _rounded(figures, maps)
    moved = np.asarray(100.0 * (new[..., 0] - old[..., 0]), np.float32)
    light = np.asarray(100.0 * old[..., 0], np.float32)
    along: dict[str, list[tuple[Alpha, float]]] = {}
    regions = borders(regions)
    if "glow" in only:
        figures["glow"], maps["glow"], each = _glow(moved, light, regions)
        along["glow"] = list(zip(regions, each, strict=True))
    if "seam" in only:
        figures["seam"], maps["seam"], each = _seam(moved, old, regions)
        along["seam"] = list(zip(regions, each, strict=True))
    return _rounded(figures, maps, along)


def _drifted(old: OKLab, new: OKLab) -> Float:
    """How far colours (n, 3) moved, (n,), beside what more or less light makes of them: that multiplies all of OKLab by
    one number. Lifting somebody is what a look is for; orange is what nobody asked for.
    """
    light = new[:, :1] / np.maximum(old[:, :1], LEAST_LIGHTNESS)
    a, b = (new[:, 1:] - light * old[:, 1:]).T
    return np.asarray(np.hypot(a, b), np.float32)


def _made_grey(old: OKLab, new: OKLab) -> bool:
    """Whether a look made a picture (h, w, 3) black and white, toned or not: skin has the colour of all the rest."""
    return _spread(new) < MONOCHROME < _spread(old)


def _spread(lab: OKLab) -> float:
    """How far apart nearly all colours of a picture (h, w, 3) are from its middle one."""
    a, b = lab[..., 1].ravel(), lab[..., 2].ravel()
    return quantile(np.hypot(a - np.median(a), b - np.median(b)), 0.98)


def borders(regions: list[Alpha]) -> list[Alpha]:
    """The regions whose borders are not those of one before: steps that share a region, or work in the opposite of
    another's, are looked at once.
    """
    out: list[Alpha] = []
    for region in regions:
        if not any(same_border(region, known) for known in out):
            out.append(region)
    return out


def same_border(one: Alpha, other: Alpha) -> bool:
    """Whether two regions (h, w) are the same, or one is all but the other."""
    if one is other:
        return True
    coarse, known = one[::8, ::8], other[::8, ::8]  # most are told apart by a few of their pixels
    same = float(np.abs(coarse - known).max()) < ALIKE and float(np.abs(one - other).max()) < ALIKE
    return same or (
        float(np.abs(coarse + known - 1.0).max()) < ALIKE and float(np.abs(one + other - 1.0).max()) < ALIKE
    )


def _in_lab(before: LinearRGB, after: LinearRGB, labs: Labs) -> tuple[OKLab, OKLab]:
    old, new = labs
    return measured_oklab(before) if old is None else old, measured_oklab(after) if new is None else new


def _rounded(
    figures: dict[str, float], maps: dict[str, Alpha], along: dict[str, list[tuple[Alpha, float]]] | None = None
) -> Faults:
    return Faults({name: round(value, 2) for name, value in figures.items()}, maps, along or {})


def _bands(region: Alpha, long_side: int) -> list[tuple[tuple[slice, slice], np.ndarray, np.ndarray]]:
    """Of a region's border, on its outer side and on its inner one: where something is to be seen, and there what is
    near as a mask and what is far; nothing of a side that is too soft for a rim.
    """
    near, far = max(GLOW_NEAR * long_side, 2.0), max(GLOW_FAR * long_side, 6.0)
    inside = (region > 0.5).astype(np.uint8)
    across = np.ones((2 * math.ceil(near) + 1,) * 2, np.uint8)
    out = []
    for own, reached in ((region < 0.1, inside), (region > 0.9, 1 - inside)):
        beside = (cv2.dilate(reached, across) > 0) & own  # what is near lies within
        part = extent(beside, 2 * math.ceil(far) + 2)
        if part is None or np.count_nonzero(beside) < LEAST_BORDER:
            continue
        distance = cv2.distanceTransform(1 - reached[part], cv2.DIST_L2, 5)
        there = own[part] & (distance > 0)
        close, behind = there & (distance <= near), there & (distance > 1.6 * near) & (distance <= far)
        if min(int(np.count_nonzero(band)) for band in (close, behind)) >= LEAST_BORDER:
            inner = extent(close, math.ceil(far) + 1)
            assert inner is not None, "it holds something"
            out.append((_within(part, inner), close[inner], behind[inner]))
    return out


def _within(part: tuple[slice, slice], inner: tuple[slice, slice]) -> tuple[slice, slice]:
    """The rows and columns of the frame that are ``inner`` ones of a part of it."""
    down, across = (slice(a.start + b.start, min(a.start + b.stop, a.stop)) for a, b in zip(part, inner, strict=True))
    return down, across


def _glow(moved: Float, light: Float, regions: list[Alpha]) -> tuple[float, Alpha, list[float]]:
    """Overshoot: how much more a narrow band beside a border moved than the ground of like lightness behind it, beyond
    what that ground's texture hides; at its worst, where, and for each region.
    """
    where = np.zeros(moved.shape, np.float32)
    long_side = max(moved.shape)
    radius = max(2, round(GLOW_FAR * long_side))
    own: list[float] = []
    fine = cv2.subtract(light, cv2.blur(light, (5, 5)))
    rough = np.asarray(cv2.multiply(fine, fine), np.float32)
    for region in regions:
        own.append(0.0)
        for part, near, far in _bands(region, long_side):
            own_moved, own_light = np.ascontiguousarray(moved[part]), np.ascontiguousarray(light[part])
            at = np.flatnonzero(near)
            # what lies behind, averaged over places of like lightness nearby, and how rough it is
            planes = (own_moved, own_light, np.ascontiguousarray(rough[part]))
            expected, ground, texture = _local_means(planes, far, radius, at)
            usable = (np.abs(own_light.take(at) - ground) < 12.0) & (expected > -900)
            at = at[usable]
            if len(at) < LEAST_BORDER:
                continue
            # along a few pixels of border together, so that texture that was lifted is no rim
            beyond, among = np.zeros_like(own_moved), np.zeros(near.shape, bool)
            beyond.ravel()[at], among.ravel()[at] = own_moved.take(at) - expected[usable], True
            (rim,) = _local_means((beyond,), among, 3, at)
            extra = np.maximum(np.abs(rim) - np.float32(MASKED) * np.sqrt(texture[usable]), 0)
            share = np.clip(extra / np.float32(2.0 * GUARDS["glow"].limit), 0, 1)
            where[part][among] = np.maximum(where[part][among], share)
            own[-1] = max(own[-1], quantile(extra, 0.9))
    return max(own, default=0.0), where, own


def _local_means(planes: tuple[Float, ...], among: np.ndarray, radius: int, at: np.ndarray) -> list[Float]:
    """Means of ``planes`` over the pixels ``among`` within ``radius``, at so many places (counted row by row); -999
    where there are none.
    """
    size = (2 * radius + 1, 2 * radius + 1)
    weight = among.astype(np.float32)
    share = cv2.boxFilter(weight, cv2.CV_32F, size).take(at)
    there, count = share > 1e-6, np.maximum(share, np.float32(1e-6))
    totals = (cv2.boxFilter(cv2.multiply(plane, weight), cv2.CV_32F, size).take(at) for plane in planes)
    return [np.asarray(np.where(there, total / count, np.float32(-999.0)), np.float32) for total in totals]


def _seam(moved: Float, old: OKLab, regions: list[Alpha]) -> tuple[float, Alpha, list[float]]:
    """Steps of the adjustment across a region's border that no edge of the picture excuses, be it one of colour alone:
    their 95th percentile, where, and the same for each region.
    """
    span = max(1, round(SEAM_SPAN * max(moved.shape)))
    kernel = np.ones((2 * span + 1, 2 * span + 1), np.uint8)
    each = []
    for region in regions:
        hard = (region > 0.5).astype(np.uint8)
        each.append(cv2.dilate(hard, kernel) != cv2.erode(hard, kernel))
    border = np.zeros(moved.shape, bool)
    for own in each:
        border |= own
    if np.count_nonzero(border) < LEAST_BORDER:
        return 0.0, np.zeros(moved.shape, np.float32), [0.0] * len(each)
    lightness, a, b = cv2.split(_range(old, kernel))
    edges = np.hypot(lightness, cv2.magnitude(a, b))
    step = _range(moved, kernel) - np.float32(100.0 * EDGE_SHARE) * edges
    fault = np.asarray(np.where(border, np.maximum(step, 0.0), 0.0), np.float32)

    def figure(among: NDArray[np.bool_]) -> float:
        along = fault[among]
        return quantile(along, 0.95) if len(along) >= LEAST_BORDER else 0.0

    where = np.asarray(np.clip(fault / (2.0 * GUARDS["seam"].limit), 0, 1), np.float32)
    return figure(border), where, [figure(own) for own in each]


def _range(plane: Float, kernel: np.ndarray) -> Float:
    """How far values (h, w) or (h, w, c) reach within the kernel, each channel by itself."""
    calm = cv2.GaussianBlur(plane, (0, 0), 0.7)
    return np.asarray(cv2.dilate(calm, kernel) - cv2.erode(calm, kernel), np.float32)

"""Trust in the sky's mask: signs that its border is wrong, that it is no sky, and that some was missed."""

import cv2
import numpy as np
from numpy.typing import NDArray

from lenskeep.core.detect.edges import piece_stats
from lenskeep.core.detect.sky import FoundSky
from lenskeep.core.detect.trust import Sign, finding, fragments, sameness, small_size
from lenskeep.core.facts import Finding
from lenskeep.core.types import SRGB8, Alpha

SKY_START = 3.4
"""A little less than what was fitted, 3.49, or a border that is nowhere decided would just be trusted."""
PROBABLE, MISSED = 0.5, (0.005, 0.01)
"""Where no sky was found: what share of the frame may probably be sky after all, and how much more costs all."""
MISSED_COSTS = 0.7
FLAT = (1.5, 3.0)
"""How many times wider than high what lies not flat at all is, and what wholly does."""


def _share(of: NDArray[np.bool_], where: NDArray[np.bool_]) -> float:
    return float(of[where].mean()) if where.any() else 0.0


def no_sky_values(image: SRGB8, mask: Alpha) -> dict[str, float]:
    """What speaks for a wall, a backdrop or a floor: it reaches the lower edge, is hardly brighter than what lies
    outside, uneven, or lies low and flat without reaching the upper edge, as water does. All 0 where there is none.
    """
    size = small_size(mask)
    sky = cv2.resize(mask, size, interpolation=cv2.INTER_AREA) > 0.5
    if not sky.any():
        return dict.fromkeys(("low", "dim", "uneven", "off_top"), 0.0)
    small = cv2.resize(image, size, interpolation=cv2.INTER_AREA)
    light = cv2.cvtColor(small, cv2.COLOR_RGB2GRAY).astype(np.float32) / 255.0
    brighter = 0.0 if sky.all() else float(light[sky].mean() - light[~sky].mean())
    return {
        "low": float(sky[-1].mean()),
        "dim": max(0.0, 0.5 - brighter),
        "uneven": float(light[sky].std()),
        "off_top": (1.0 - float(sky[0].mean())) * lying(sky),
    }


def lying(sky: NDArray[np.bool_]) -> float:
    """How flat what does not reach the upper edge lies, 0…1, in shares of all: water lies flat, gaps between crowns do
    not.
    """
    own = piece_stats(sky).astype(np.float64)
    below = own[own[:, cv2.CC_STAT_TOP] > 0]
    times = below[:, cv2.CC_STAT_WIDTH] / np.maximum(below[:, cv2.CC_STAT_HEIGHT], 1.0)
    flat = np.clip((times - FLAT[0]) / (FLAT[1] - FLAT[0]), 0.0, 1.0)
    return float((below[:, cv2.CC_STAT_AREA] * flat).sum() / max(own[:, cv2.CC_STAT_AREA].sum(), 1.0))


def undecided(share: Alpha, mask: Alpha) -> float:
    """How far the mask is from what was probable with its colour, 0…1: 1 - the two's lesser share over the greater, as
    sums. A border that is soft on both counts for nothing here, one that only the mask is sure of does.
    """
    lesser, greater = np.minimum(share, mask), np.maximum(share, mask)
    return 1.0 - float(lesser.sum()) / max(float(greater.sum()), 1e-6)


def sky_values(image: SRGB8, mask: Alpha, found: FoundSky, burnt: NDArray[np.bool_]) -> dict[str, float]:
    """What can be seen of a sky's mask without knowing the true one, besides ``picture_values``. ``mask`` is that of
    ``found`` without the subject, ``burnt`` what was as white as paper on the picture as it came: between white and
    white a border can't be seen.
    """
    inside = mask > 0.5
    sure, possible = float((found.evident > 0.9).mean()), float((found.evident > 0.1).mean())
    return {
        "undecided": undecided(found.share, mask),
        "faint": 1.0 - float(found.evident[inside].mean()) if inside.any() else 1.0,
        "pieces": float(fragments(mask)),
        "sameness": sameness(image, mask),
        "white": _share(burnt, inside),
        "burnt_below": _share(burnt, mask < 0.5),
        "range": 1.0 - sure / max(possible, 1e-6),
    } | no_sky_values(image, mask)


SKY_SIGNS = [
    Sign("undecided", 0.70, 1.60, 0.15, 0.4, "Where the sky ends is undecided."),
    Sign("faint", 0.00, 1.98, 0.1, 0.25, "The sky is told apart only faintly."),
    Sign("sameness", 0.36, 0.65, 0.4, 0.4, "The sky's border runs between colours that are much alike."),
    Sign("range", 0.50, 0.50, 0.45, 0.45, "Much that may be sky was left undecided."),
    Sign("pieces", 0.46, 0.23, 3.0, 6.0, "The sky falls into many pieces."),
    Sign("dark", 0.04, 0.07, 0.1, 0.6, "The picture is very dark."),
    Sign("burnt", 0.70, 1.06, 0.35, 0.4, "Much of the picture is burnt out."),
    Sign("white", 2.18, 1.28, 0.85, 0.15, "The sky is burnt out: where it ends can't be seen."),
    Sign("burnt_below", 0.12, 0.00, 0.02, 0.3, "What lies below the sky is as white as the sky in places."),
    Sign("low", 2.26, 0.64, 0.05, 0.4, "What was taken for sky reaches the frame's lower edge."),
    Sign("dim", 3.22, 0.72, 0.3, 0.4, "What was taken for sky is hardly brighter than the rest."),
    Sign("uneven", 0.95, 0.95, 0.08, 0.15, "What was taken for sky is uneven."),
    Sign(
        "off_top", 2.00, 0.70, 0.3, 0.7, "What was taken for sky lies flat and does not reach the frame's upper edge."
    ),
]
"""Fitted by tools/trust/fit.py on known skies and on what was taken for sky where there is none."""


def sky_trust(values: dict[str, float], probability: Alpha, area: float) -> Finding:
    """Trust in the sky's mask from ``sky_values``; a frame clearly without sky is trusted as such."""
    if area == 0.0:
        tolerated, reach = MISSED
        missed = min(max(float((probability > PROBABLE).mean()) - tolerated, 0.0) / reach, 1.0)
        reasons = ["There may be a little sky that was not taken."] if missed > 0.2 else []
        return Finding(trust=round(1.0 - MISSED_COSTS * missed, 3), area=0.0, reasons=reasons)
    return finding(values, SKY_SIGNS, SKY_START, area)

"""Trust in a mask: signs of trouble, each with the words a photographer reads, added up to a score in 0…1."""

from dataclasses import dataclass

import cv2
import numpy as np

from lenskeep.core.facts import Finding
from lenskeep.core.types import SRGB8, Alpha

DOUBTFUL_BELOW = 0.8
"""Frames under this are shown as doubtful."""


@dataclass(frozen=True)
class Sign:
    """A sign of trouble: its size, from where it counts, how much trust it takes at twice that, and its words."""

    value: float
    tolerated: float
    weight: float
    words: str

    @property
    def cost(self) -> float:
        excess = max(self.value - self.tolerated, 0.0) / self.tolerated
        return self.weight * min(excess, 1.5)


def undecided_share(probability: Alpha, area: float) -> float:
    """Pixels between .2 and .8 as a share of the mask's area."""
    undecided = float(((probability > 0.2) & (probability < 0.8)).mean())
    return undecided / max(area, 0.002)


def fragments(mask: Alpha) -> int:
    """Connected pieces of at least 2 % of the mask."""
    count, _, stats, _ = cv2.connectedComponentsWithStats((mask > 0.5).astype(np.uint8), connectivity=8)
    areas = stats[1:count, cv2.CC_STAT_AREA]
    return int((areas >= 0.02 * max(areas.sum(), 1)).sum())


def border_share(mask: Alpha) -> float:
    """Share of the frame's outline that the mask covers."""
    rim = np.concatenate([mask[0], mask[-1], mask[:, 0], mask[:, -1]])
    return float((rim > 0.5).mean())


def off_edges(image: SRGB8, mask: Alpha) -> float:
    """Share of the mask's outline without an edge of the picture within 1 % of the long side."""
    gray = cv2.GaussianBlur(cv2.cvtColor(image, cv2.COLOR_RGB2GRAY), (0, 0), 1.2)
    edges = cv2.Canny(gray, 18, 45)
    reach = 2 * max(1, round(0.005 * max(mask.shape))) + 1
    near = cv2.dilate(edges, np.ones((reach, reach), np.uint8)) > 0
    hard = (mask > 0.5).astype(np.uint8)
    outline = cv2.morphologyEx(hard, cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8)) > 0
    outline[[0, -1]] = outline[:, [0, -1]] = False
    return float(1.0 - near[outline].mean()) if outline.any() else 0.0


def disagreement(a: Alpha, b: Alpha) -> float:
    """1 - intersection over union of two masks cut at one half."""
    x, y = a > 0.5, b > 0.5
    return 1.0 - float((x & y).sum()) / max(float((x | y).sum()), 1.0)


def finding(signs: list[Sign], area: float) -> Finding:
    """The score and the words of the signs that cost trust, the costliest first."""
    costly = sorted((s for s in signs if s.cost > 0.03), key=lambda s: -s.cost)
    trust = float(np.clip(1.0 - sum(s.cost for s in signs), 0.0, 1.0))
    return Finding(trust=round(trust, 3), area=round(area, 5), reasons=[s.words for s in costly])


def undecided_words(what: str, border: str, unsure: float) -> str:
    """Words for ``undecided_share``, which grows past 1 where little was found."""
    if unsure > 1.0:
        return f"More of the {what} is undecided than found."
    return f"The {what}'s {border} is undecided ({100 * unsure:.0f} % of its area)."


def subject_trust(image: SRGB8, mask: Alpha, saliency: Alpha, by_colour: Alpha, sky: Alpha) -> Finding:
    """Trust in the subject's mask; without a subject, 0.3 and the reason."""
    area = float((mask > 0.5).mean())
    if area == 0.0:
        return Finding(trust=0.3, area=0.0, reasons=["No clear subject was found."])
    overlap = float(np.minimum(mask, sky).sum()) / max(float(mask.sum()), 1.0)
    unsure, differ = undecided_share(saliency, area), disagreement(saliency, by_colour)
    signs = [
        Sign(unsure, 0.30, 0.25, undecided_words("subject", "outline", unsure)),
        Sign(differ, 0.13, 0.28, "Shape and colour disagree about where the subject ends."),
        Sign(float(fragments(mask)), 3.0, 0.3, "The subject falls into many pieces."),
        Sign(border_share(mask), 0.35, 0.25, "The subject fills much of the frame's edge."),
        Sign(off_edges(image, mask), 0.30, 0.25, "Part of the subject's outline lies on no edge of the picture."),
        Sign(overlap, 0.06, 0.3, "Subject and sky overlap."),
        Sign(max(0.004 - area, 0.0), 0.002, 0.25, "The subject is very small."),
    ]
    return finding(signs, area)


def sky_trust(image: SRGB8, mask: Alpha, probability: Alpha) -> Finding:
    """Trust in the sky's mask; a frame clearly without sky is trusted as such."""
    area = float((mask > 0.5).mean())
    if area == 0.0:
        unsure = float((probability > 0.35).mean())
        words = "There may be a little sky that was not taken."
        return finding([Sign(unsure, 0.004, 0.15, words)], 0.0)
    unsure, differ = undecided_share(probability, area), disagreement(probability, mask)
    signs = [
        Sign(unsure, 0.30, 0.25, undecided_words("sky", "border", unsure)),
        Sign(differ, 0.14, 0.28, "Kind and colour disagree about where the sky ends."),
        Sign(float(fragments(mask)), 8.0, 0.2, "The sky falls into many pieces."),
        Sign(off_edges(image, mask), 0.35, 0.25, "Part of the sky's border lies on no edge of the picture."),
    ]
    return finding(signs, area)

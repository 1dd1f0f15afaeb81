"""Trust in a mask: signs of trouble, each with the words a photographer reads, added up to a score in 0…1."""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from lenskeep.core.detect.beings import Being
from lenskeep.core.detect.boxes import NEAR, fits, limited
from lenskeep.core.detect.boxes import area as box_area
from lenskeep.core.detect.edges import piece_stats
from lenskeep.core.detect.opened import deviation, laplacian, reduced
from lenskeep.core.facts import Face, Finding
from lenskeep.core.types import SRGB8, Alpha

WORTH_TELLING, MOST_REASONS = 0.35, 4
SIDE = 128
"""Long side of small pictures that are asked what they show on the whole."""
MOST_WIDTH = 6.0
SUBJECT_START = 3.28


def undecided_share(probability: Alpha, area: float) -> float:
    """Pixels between .2 and .8 as a share of the mask's area."""
    undecided = float(((probability > 0.2) & (probability < 0.8)).mean())
    return undecided / max(area, 0.002)


def small_size(mask: Alpha, side: int = SIDE) -> tuple[int, int]:
    """(width, height) of a mask with a long side of ``side``, for ``cv2.resize``."""
    scale = side / max(mask.shape)
    return max(2, round(mask.shape[1] * scale)), max(2, round(mask.shape[0] * scale))


def band_width(undecided: Alpha, mask: Alpha) -> float:
    """How wide the band of pixels between .2 and .8 of ``undecided`` would lie along the mask's outline, in 1/128 of
    the long side: unlike its share of the area, the same for a far figure as for a near one.
    """
    hard = (cv2.resize(mask, small_size(mask), interpolation=cv2.INTER_AREA) > 0.5).astype(np.uint8)
    outline = int(cv2.morphologyEx(hard, cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8)).sum())
    share = float(((undecided > 0.2) & (undecided < 0.8)).mean())
    return min(share * hard.size / max(outline, 1), MOST_WIDTH)


def fragments(mask: Alpha) -> int:
    """Connected pieces of at least 2 % of the mask."""
    areas = piece_stats(mask)[:, cv2.CC_STAT_AREA]
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


def overlap(mask: Alpha, other: Alpha) -> float:
    """Share of the mask that another one claims as well."""
    return float(np.minimum(mask, other).sum()) / max(float(mask.sum()), 1.0)


@dataclass(frozen=True)
class Sign:
    """A sign of trouble, from the value that is tolerated on: what its first part costs, and what the rest costs.

    The first part is a third of ``range``, the rest goes on to one and a half of it; costs are in log-odds.
    """

    name: str
    first: float
    rest: float
    tolerated: float
    range: float
    words: str

    def parts(self, value: float) -> tuple[float, float]:
        """How much of either part there is, 0…1."""
        over = max(value - self.tolerated, 0.0) / self.range
        return min(3.0 * over, 1.0), min(over / 1.5, 1.0)

    def of(self, value: float) -> float:
        first, rest = self.parts(value)
        return self.first * first + self.rest * rest


def scored(values: dict[str, float], signs: list[Sign], start: float) -> tuple[float, list[str]]:
    """(trust, words of the signs that cost it most). Costs are in log-odds; ``start`` are those of a clean mask."""
    costs = [(sign.of(values[sign.name]), sign) for sign in signs]
    trust = 1.0 / (1.0 + float(np.exp(sum(cost for cost, _ in costs) - start)))
    telling = sorted((c for c in costs if c[0] > WORTH_TELLING), key=lambda c: -c[0])[:MOST_REASONS]
    return round(trust, 3), [sign.words for _, sign in telling]


def finding(values: dict[str, float], signs: list[Sign], start: float, area: float) -> Finding:
    """What is said of a mask of that area by its signs."""
    trust, reasons = scored(values, signs, start)
    return Finding(trust=trust, area=round(area, 5), reasons=reasons)


@dataclass(frozen=True)
class Evidence:
    """What else is known about a frame: its animals' class map, (h, w) 0…1, the faces of people, how far the person
    network's figure is from the mask, 0…1, and the people and animals found as boxes.
    """

    animals: Alpha
    faces: list[Face]
    figure: float
    beings: list[Being]


def picture_values(image: SRGB8) -> dict[str, float]:
    """How hard the picture itself is to read: dark, burnt out or grainy, each 0 where it is not."""
    small = reduced(image)
    grey = cv2.cvtColor(small, cv2.COLOR_RGB2GRAY).astype(np.float32)
    full = cv2.cvtColor(image, cv2.COLOR_RGB2GRAY).astype(np.float32)
    spread = float(np.percentile(grey, 95) - np.percentile(grey, 5))
    grain = deviation(float(laplacian(full).mean()))
    return {
        "dark": max(0.0, 60.0 - float(grey.mean())) / 60.0,
        "burnt": float(burnt(small).mean()),
        "grain": min(grain / max(spread, 10.0) * 10.0, 3.0),
    }


def burnt(image: SRGB8) -> NDArray[np.bool_]:
    """Where (h, w, 3) is as white as paper, (h, w)."""
    return np.asarray((image[..., 0] > 250) & (image[..., 1] > 250) & (image[..., 2] > 250))


def sameness(image: SRGB8, mask: Alpha) -> float:
    """How alike the two sides of a mask's outline are, 0…1: the overlap (Bhattacharyya 1943) of their colours."""
    size = small_size(mask, 320)
    hard = (cv2.resize(mask, size, interpolation=cv2.INTER_AREA) > 0.5).astype(np.uint8)
    lab = cv2.cvtColor(cv2.resize(image, size, interpolation=cv2.INTER_AREA), cv2.COLOR_RGB2LAB)
    wide = np.ones((15, 15), np.uint8)
    inner, outer = hard - cv2.erode(hard, wide, borderValue=1), cv2.dilate(hard, wide) - hard
    if inner.sum() < 20 or outer.sum() < 20:
        return 1.0
    sides = [
        cv2.GaussianBlur(
            cv2.calcHist([lab], [1, 2, 0], side, [12, 12, 8], [96, 160, 96, 160, 0, 256]), (3, 3), 0
        ).ravel()
        for side in (inner, outer)
    ]
    a, b = (side / max(float(side.sum()), 1e-6) for side in sides)
    return float(np.sqrt(a * b).sum())


def beings_values(mask: Alpha, beings: list[Being]) -> dict[str, float]:
    """How a mask and the boxes of people and animals differ; nothing where none were found."""
    if not beings:
        return {"boxes": 0.0, "outside": 0.0, "figures": 0.0, "faint_box": 0.0, "crowd": 0.0}
    inside = mask > 0.5
    sizes = np.array([box_area(b.box) for b in beings], np.float64)
    own = [fits(limited(mask, b.box, 0.04), b.box) for b in beings]
    boxed = np.max([limited(np.ones_like(mask), b.box, NEAR) for b in beings], 0) > 0
    seen = np.max([b.mask if b.mask is not None else np.zeros_like(mask) for b in beings], 0)
    return {
        "boxes": 1.0 - float((sizes * own).sum() / sizes.sum()),
        "outside": float((inside & ~boxed).sum() / max(int(inside.sum()), 1)),
        "figures": disagreement(np.asarray(seen, np.float32), mask),
        "faint_box": 1.0 - float((sizes * [b.score for b in beings]).sum() / sizes.sum()),
        "crowd": float(len(beings)),
    }


def subject_values(
    image: SRGB8, mask: Alpha, guess: Alpha, first: Alpha, by_colour: Alpha, sky: Alpha, evidence: Evidence
) -> dict[str, float]:
    """What can be seen of a subject's mask without knowing the true one, besides ``picture_values``."""
    inside = mask > 0.5
    area = float(inside.mean())
    cells = cv2.resize(mask, evidence.animals.shape[::-1], interpolation=cv2.INTER_AREA)
    near = cv2.dilate(cells, np.ones((3, 3), np.float32))  # a small animal spills into the cells beside it
    animal = evidence.animals > 0.95
    faces = [bool(mask[f.box.middle_pixel(mask.shape)] > 0.5) for f in evidence.faces]
    return {
        "undecided": band_width(guess, mask),
        "soft_border": band_width(mask, mask),
        "looks": disagreement(first, guess),
        "colour": disagreement(guess, by_colour),
        "faint": 1.0 - float(guess[inside].mean()) if inside.any() else 1.0,
        "pieces": float(max(fragments(mask) - max(len(evidence.beings) - 1, 0), 0)),
        "border": border_share(mask),
        "off_edges": off_edges(image, mask),
        "overlap": overlap(mask, sky),
        "small": max(0.0, 0.02 - area) / 0.02,
        "large": max(0.0, area - 0.5),
        "sameness": sameness(image, mask),
        "figure": 0.0 if evidence.beings else evidence.figure,  # theirs are compared one by one
        "left_out": float((animal & (near < 0.2)).sum()) / max(float((animal | (cells > 0.5)).sum()), 1.0),
        "faces_out": float(sum(not held for held in faces)),
        "thing": 0.0 if evidence.beings or any(faces) or (animal & (cells > 0.4)).any() else 1.0,
    } | beings_values(mask, evidence.beings)


SUBJECT_SIGNS = [
    Sign("undecided", 0.10, 0.20, 0.2, 1.0, "The subject's outline is undecided."),
    Sign("soft_border", 0.53, 0.70, 0.15, 0.6, "Much of the subject's outline is soft."),
    Sign("looks", 0.45, 0.78, 0.03, 0.4, "A closer look at the subject found another shape."),
    Sign("colour", 0.05, 0.10, 0.06, 0.3, "Shape and colour disagree about where the subject ends."),
    Sign("faint", 0.00, 0.66, 0.02, 0.2, "The subject stands out only faintly."),
    Sign("left_out", 1.06, 0.93, 0.12, 0.35, "Something like an animal was left out of the subject."),
    Sign("faces_out", 0.20, 0.10, 0.0, 2.0, "A face was left out of the subject."),
    Sign("figure", 0.53, 0.41, 0.12, 0.4, "The subject has no clear figure."),
    Sign("sameness", 0.76, 0.19, 0.6, 0.3, "The subject's outline runs between colours that are much alike."),
    Sign("pieces", 0.10, 0.10, 2.0, 4.0, "The subject falls into many pieces."),
    Sign("border", 0.05, 0.10, 0.35, 0.5, "The subject fills much of the frame's edge."),
    Sign("off_edges", 0.10, 0.20, 0.6, 0.4, "Part of the subject's outline lies on no edge of the picture."),
    Sign("overlap", 0.81, 0.18, 0.02, 0.3, "Subject and sky overlap."),
    Sign("small", 0.20, 0.10, 0.3, 0.7, "The subject is very small."),
    Sign("large", 0.05, 0.10, 0.25, 0.5, "The subject fills most of the frame."),
    Sign("thing", 0.10, 0.10, 0.0, 1.0, "The subject is neither a person nor an animal."),
    Sign("boxes", 1.13, 1.18, 0.1, 0.4, "The subject does not reach as far as the people or animals seen."),
    Sign("outside", 0.35, 0.17, 0.05, 0.4, "Part of the subject belongs to none of the people or animals seen."),
    Sign("figures", 0.01, 0.62, 0.1, 0.4, "Figures and outline of the subject disagree."),
    Sign("faint_box", 0.07, 0.23, 0.4, 0.4, "People or animals are told apart only faintly."),
    Sign("dark", 0.20, 0.10, 0.2, 0.6, "The picture is very dark."),
    Sign("burnt", 1.45, 1.07, 0.35, 0.4, "Much of the picture is burnt out."),
    Sign("grain", 0.00, 0.00, 0.8, 1.0, "The picture is very grainy."),
]
"""Fitted by tools/trust/fit.py on masks known from traces and renders, as they are and spoilt. Where the fit gave next
to nothing to a sign that can speak for itself, a small cost stands, since none of those masks had that trouble."""


def subject_trust(values: dict[str, float], area: float) -> Finding:
    """Trust in the subject's mask from ``subject_values``; without a subject, 0.3 and the reason."""
    if area == 0.0:
        return Finding(trust=0.3, area=0.0, reasons=["No clear subject was found."])
    return finding(values, SUBJECT_SIGNS, SUBJECT_START, area)

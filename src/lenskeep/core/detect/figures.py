"""A mask for one box: a person's figure, what the person network sees in it, or an animal.

A person's figure comes from MediaPipe's pose network (Bazarevsky et al. 2020, Apache-2.0), which takes veil, dress and
all, seen from any side; what is inside their outline is told best by the selfie network (Apache-2.0) on the box alone.
"""

from collections.abc import Sequence

import cv2
import numpy as np

from lenskeep.core.detect.boxes import NEAR, fits, limited, longer, within
from lenskeep.core.detect.edges import grab_in
from lenskeep.core.detect.people import in_square, seen_on
from lenskeep.core.detect.saliency import saliency
from lenskeep.core.types import SRGB8, Alpha, Float, GraphNetwork

SIDE = 256
AROUND = 1.25
"""Side of the square that the pose network sees, in longer sides of the box."""
GROWN = 0.08
"""A figure ends this share of its box's longer side beyond the box."""
LOOKS = ((0.03, False), (0.08, True))
"""Margins of the person network's looks at a box, in its longer sides, and whether on the mirror image."""
ENOUGH, AS_GOOD, POOR = 0.85, 0.03, 0.75
CROP = 0.18
FAR, FIGURE_PART = 0.3, 0.4
"""A far animal, up to this share of the frame's long side, is seen better by a network that looks at it alone."""
CLOSE_FITS, CLOSE_HELD = 0.9, 0.9
"""What the person network sees of an animal close up has this extent of its box, and this share of what else saw it."""


def posed(image: SRGB8, box: Float, pose: GraphNetwork) -> tuple[Alpha, float]:
    """(the pose network's figure (h, w) 0…1, its presence 0…1) of the person in a box."""
    scale = SIDE / (AROUND * longer(box))
    smaller = cv2.resize(image, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA) if scale < 1 else image
    shift = SIDE / 2 - (box[:2] + box[2:]) / 2 * scale
    to = np.array([[max(scale, 1), 0, shift[0]], [0, max(scale, 1), shift[1]]], np.float32)
    square = cv2.warpAffine(smaller, to, (SIDE, SIDE), borderMode=cv2.BORDER_REPLICATE)
    logits, presence = pose.run({"square": square.astype(np.float32)[None] / np.float32(255)})
    figure = (1 / (1 + np.exp(-np.clip(logits.reshape(SIDE, SIDE), -60, 60)))).astype(np.float32)
    back = np.array([[scale, 0, shift[0]], [0, scale, shift[1]]], np.float32)
    how = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    whole = cv2.warpAffine(figure, back, image.shape[1::-1], flags=how)
    return limited(np.asarray(np.clip(whole, 0, 1), np.float32), box, GROWN), float(presence.item())


def seen_in(image: SRGB8, box: Float, person: GraphNetwork) -> Alpha:
    """Whoever the person network sees in a box, (h, w) 0…1: everybody there, not the box's own person alone."""
    looks = [_stretched(image, box, person, margin, mirrored) for margin, mirrored in LOOKS]
    return limited(np.asarray(np.mean(looks, 0), np.float32), box, GROWN)


def _stretched(image: SRGB8, box: Float, person: GraphNetwork, margin: float, mirrored: bool = False) -> Alpha:
    """The person network on a box's crop stretched to its square, (h, w) 0…1: so every pixel that it sees is of the
    crop, and what the frame cuts off is not made up.
    """
    rows, columns = within(box, image.shape, margin)
    out = np.zeros(image.shape[:2], np.float32)
    out[rows, columns] = seen_on(image[rows, columns], person, mirrored)
    return out


def animal_mask(
    image: SRGB8, box: Float, others: Sequence[Float], base: Alpha, network: GraphNetwork, person: GraphNetwork
) -> tuple[Alpha, bool]:
    """(mask (h, w) of the animal in a box, whether its edges are found already).

    What ``base`` has within the box, where that fills it; else what the person network (which knows animals by their
    outline) sees, where that does and holds the other; else saliency on a crop, alone or with the person network,
    whichever has the box's extent; else what has the animal's colours.
    """
    given = limited(base, box, NEAR)
    for other in others:
        beside = limited(np.ones_like(base), other, 0)
        beside[within(box, base.shape, 0)] = 0
        given = np.where(beside > 0, np.float32(0), given)
    seen = _animals_figure(image, box, person)
    if fits(given, box) >= ENOUGH:
        far = longer(box) < FAR * max(base.shape)
        return (_with_figure(given, limited(seen, box, 0.02)) if far else given), True
    if fits(given, box) < POOR:
        close = limited(np.asarray((seen + _stretched(image, box, person, GROWN)) / 2, np.float32), box, GROWN)
        if fits(close, box) >= CLOSE_FITS and _holds(close, limited(base, box, NEAR)):
            return close, False
    crop, closer = within(box, base.shape, CROP), np.zeros_like(base)
    closer[crop] = saliency(np.ascontiguousarray(image[crop]), network)
    both = limited(np.asarray((2 * closer + seen) / 3, np.float32), box, GROWN)
    best = max((limited(closer, box, GROWN), both), key=lambda m: fits(m, box))
    if not others and max(fits(best, box), fits(given, box)) < POOR:
        # half in grass: what has the animal's colours within its box, and not those around it
        best = grab_in(image, np.maximum(given, both), box)
    return (given, True) if fits(given, box) + AS_GOOD >= fits(best, box) else (best, False)


def _holds(mask: Alpha, given: Alpha) -> bool:
    """Whether a mask has nearly all of another one that is not empty."""
    sure = given > 0.5
    return bool(sure.any() and (sure & (mask > 0.5)).sum() >= CLOSE_HELD * sure.sum())


def _animals_figure(image: SRGB8, box: Float, person: GraphNetwork) -> Alpha:
    """What the person network sees of an animal on a square around its box, (h, w) 0…1."""
    x, y = (box[:2] + box[2:]) / 2
    seen, weight = in_square(image, person, float(y), float(x), AROUND * longer(box))
    return np.asarray(seen * weight, np.float32)


def _with_figure(given: Alpha, seen: Alpha) -> Alpha:
    """A mask averaged with the animal's figure where that one is seen."""
    return np.asarray(np.where(seen > 0, (1 - FIGURE_PART) * given + FIGURE_PART * seen, given), np.float32)

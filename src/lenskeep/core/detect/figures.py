"""A mask for one box: a person's figure, or an animal.

A person's figure comes from MediaPipe's pose network (Bazarevsky et al. 2020, Apache-2.0), which takes veil, dress and
all, seen from any side; the selfie network sharpens it.
"""

from collections.abc import Sequence

import cv2
import numpy as np

from lenskeep.core.detect.boxes import NEAR, fits, limited, longer, within
from lenskeep.core.detect.edges import grab_in
from lenskeep.core.detect.people import in_square
from lenskeep.core.detect.saliency import saliency
from lenskeep.core.types import SRGB8, Alpha, Float, GraphNetwork

SIDE = 256
AROUND = 1.25
"""Side of the square that the networks see, in longer sides of the box."""
POSE_PART = 0.75
GROWN = 0.08
"""A figure ends this share of its box's longer side beyond the box."""
ENOUGH, AS_GOOD, POOR = 0.85, 0.03, 0.75
CROP = 0.18
FAR, FIGURE_PART = 0.3, 0.4
"""A far animal, up to this share of the frame's long side, is seen better by a network that looks at it alone."""


def figure(image: SRGB8, box: Float, pose: GraphNetwork, person: GraphNetwork) -> tuple[Alpha, float]:
    """(mask (h, w) 0…1, presence 0…1) of the person in a box."""
    scale = SIDE / (AROUND * longer(box))
    smaller = cv2.resize(image, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA) if scale < 1 else image
    shift = SIDE / 2 - (box[:2] + box[2:]) / 2 * scale
    to = np.array([[max(scale, 1), 0, shift[0]], [0, max(scale, 1), shift[1]]], np.float32)
    square = cv2.warpAffine(smaller, to, (SIDE, SIDE), borderMode=cv2.BORDER_REPLICATE)
    fed = {"square": square.astype(np.float32)[None] / np.float32(255)}
    logits, presence = pose.run(fed)
    logits = logits.reshape(SIDE, SIDE)
    other = person.run(fed)[0].reshape(SIDE, SIDE, -1)[..., 0]
    both = np.float32(POSE_PART) / (1 + np.exp(-np.clip(logits, -60, 60))) + np.float32(1 - POSE_PART) * other
    back = np.array([[scale, 0, shift[0]], [0, scale, shift[1]]], np.float32)
    how = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    whole = cv2.warpAffine(both.astype(np.float32), back, image.shape[1::-1], flags=how)
    return limited(np.asarray(np.clip(whole, 0, 1), np.float32), box, GROWN), float(presence.item())


def animal_mask(
    image: SRGB8, box: Float, others: Sequence[Float], base: Alpha, network: GraphNetwork, person: GraphNetwork
) -> tuple[Alpha, bool]:
    """(mask (h, w) of the animal in a box, whether its edges are found already).

    What ``base`` has within the box, where that fills it; else saliency on a crop, alone or with the person network
    (which knows animals by their outline), whichever has the box's extent; else what has the animal's colours.
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
    crop, closer = within(box, base.shape, CROP), np.zeros_like(base)
    closer[crop] = saliency(np.ascontiguousarray(image[crop]), network)
    both = limited(np.asarray((2 * closer + seen) / 3, np.float32), box, GROWN)
    best = max((limited(closer, box, GROWN), both), key=lambda m: fits(m, box))
    if not others and max(fits(best, box), fits(given, box)) < POOR:
        # half in grass: what has the animal's colours within its box, and not those around it
        best = grab_in(image, np.maximum(given, both), box)
    return (given, True) if fits(given, box) + AS_GOOD >= fits(best, box) else (best, False)


def _animals_figure(image: SRGB8, box: Float, person: GraphNetwork) -> Alpha:
    """What the person network sees of an animal on a square around its box, (h, w) 0…1."""
    x, y = (box[:2] + box[2:]) / 2
    seen, weight = in_square(image, person, float(y), float(x), AROUND * longer(box))
    return np.asarray(seen * weight, np.float32)


def _with_figure(given: Alpha, seen: Alpha) -> Alpha:
    """A mask averaged with the animal's figure where that one is seen."""
    return np.asarray(np.where(seen > 0, (1 - FIGURE_PART) * given + FIGURE_PART * seen, given), np.float32)

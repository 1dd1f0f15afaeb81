"""The subject made of people and animals: saliency's mask where it agrees with them, their own masks where not."""

from collections.abc import Sequence
from dataclasses import replace

import cv2
import numpy as np

from lenskeep.core.detect.beings import Being
from lenskeep.core.detect.boxes import NEAR, around, fits, limited, touching, within
from lenskeep.core.detect.edges import colour_guided_near
from lenskeep.core.detect.figures import animal_mask
from lenskeep.core.detect.palms import Palm
from lenskeep.core.facts import Face
from lenskeep.core.types import SRGB8, Alpha, GraphNetwork

AGREE = 0.85
"""IoU of the figures with the given mask from which that one stays."""
HELD, FILLED, FITS = 0.95, 0.6, 0.9
"""A given mask stays that holds this share of the figures, is not much more than they are, and has their extent."""
GIVEN_PART = 0.7
WHOLE_FIGURE = 0.8
PART = 0.045
"""Side of what counts as a part that a mask lacks, in heights of the person."""
MOST_BESIDES = 0.6
AWAY = 0.02
LARGER, UNSURE = 1.5, 0.6


def with_beings(
    image: SRGB8,
    beings: Sequence[Being],
    base: Alpha,
    faces: Sequence[Face],
    network: GraphNetwork,
    person: GraphNetwork,
    palms: Sequence[Palm] = (),
) -> tuple[Alpha, list[Being]]:
    """(the subject (h, w) 0…1, the beings with a mask each), from the subject ``base`` that saliency found."""
    if not any(b.sure for b in beings):
        return base, [b if b.mask is not None else replace(b, mask=limited(base, b.box, NEAR)) for b in beings]
    out, own = np.zeros_like(base), np.zeros_like(base)
    taken, masked = np.zeros(base.shape, bool), list(beings)
    for group in touching([b.box for b in beings]):
        box = around([beings[k].box for k in group])
        taken[within(box, base.shape, NEAR)] = True
        for k in group:
            if beings[k].kind == "animal":
                others = [beings[i].box for i in group if i != k]
                mask, ready = animal_mask(image, beings[k].box, others, base, network, person)
                masked[k] = replace(beings[k], mask=mask)
                (out if ready else own)[:] = np.maximum(out if ready else own, mask)
        people = [b for k in group if (b := beings[k]).kind == "person" and b.mask is not None]
        if people:
            _people(people, limited(base, box, NEAR), fits(limited(base, box, NEAR), box), base, out, own)
    if own.any():
        out = np.maximum(out, colour_guided_near(image, own, radius=6, eps=1e-4))
    out = _with_what_stands_alone(out, base, taken, beings, faces, palms)
    return np.asarray(np.clip(out, 0, 1), np.float32), masked


def _people(people: Sequence[Being], given: Alpha, fit: float, base: Alpha, out: Alpha, own: Alpha) -> None:
    """Add a group of people to ``out`` as given, or to ``own``, whose edges are still to be found. In place."""
    figures = np.max([b.mask for b in people if b.mask is not None], 0)
    a, b = figures > 0.5, given > 0.5
    both = int((a & b).sum())
    whole = both >= HELD * a.sum() and both >= FILLED * b.sum() and fit >= FITS
    if both >= AGREE * (a | b).sum() or whole:
        out[:] = np.maximum(out, np.float32(GIVEN_PART) * given + np.float32(1 - GIVEN_PART) * figures)
        own[:] = np.maximum(own, figures * _parts_lacking(people, a, b))
    else:
        own[:] = np.max([own, figures, *(_seen_besides(one, base) for one in people)], 0)


def _parts_lacking(people: Sequence[Being], figures: np.ndarray, given: np.ndarray) -> np.ndarray:
    """Where the figures have a part that the given mask lacks, such as a head, and not only a wider rim."""
    tall = float(np.median([b.box[3] - b.box[1] for b in people]))
    size = max(3, round(PART * tall))
    lacking = cv2.morphologyEx((figures & ~given).astype(np.uint8), cv2.MORPH_OPEN, np.ones((size, size), np.uint8))
    return cv2.dilate(lacking, np.ones((size, size), np.uint8)) > 0


def _seen_besides(one: Being, base: Alpha) -> Alpha:
    """Where a figure lacks a part of its box, what saliency sees there is that person's; if that is as much as the
    figure itself, it is something else, such as a bench.
    """
    nothing = np.zeros_like(base)
    if one.mask is None or fits(one.mask, one.box) >= WHOLE_FIGURE:
        return nothing
    seen = limited(base, one.box, 0)
    figure = one.mask > 0.5
    more = int(((seen > 0.5) & ~figure).sum())
    return seen if more <= MOST_BESIDES * figure.sum() else nothing


def _with_what_stands_alone(
    out: Alpha,
    base: Alpha,
    taken: np.ndarray,
    beings: Sequence[Being],
    faces: Sequence[Face],
    palms: Sequence[Palm],
) -> Alpha:
    """Pieces of the given subject away from every being stay with a face or a hand, or when much larger than unsure
    beings.
    """
    count, labels, stats, _ = cv2.connectedComponentsWithStats((base > 0.5).astype(np.uint8))
    held = {int(labels[f.box.middle_pixel(base.shape)]) for f in faces}
    hands = {int(k) for p in palms for k in np.unique(labels[p.hull(base.shape)])}
    unsure = max(b.score for b in beings) <= UNSURE
    most = LARGER * int((out > 0.5).sum())
    for k in range(1, count):
        piece = labels == k
        larger = unsure and stats[k, cv2.CC_STAT_AREA] > most
        away = (piece & taken).sum() <= AWAY * stats[k, cv2.CC_STAT_AREA]
        if k in hands or (away and (k in held or larger)):
            wide = cv2.dilate(piece.astype(np.uint8), np.ones((9, 9), np.uint8)) > 0
            out = np.where(wide, np.maximum(out, base), out)
    return out

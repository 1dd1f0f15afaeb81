"""The subject made of people and animals: of people by the votes of whoever sees them, of animals by what fits best."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np

from lenskeep.core.detect.beings import Being
from lenskeep.core.detect.boxes import NEAR, around, limited, touching, within
from lenskeep.core.detect.edges import colour_guided_near
from lenskeep.core.detect.figures import GROWN, animal_mask, seen_in
from lenskeep.core.detect.palms import Palm
from lenskeep.core.facts import Face
from lenskeep.core.types import SRGB8, Alpha, GraphNetwork

PERSON_PART, POSE_PART, GIVEN_PART = 0.5, 0.25, 0.25
"""Votes of the person network, the pose network, and saliency's mask with its edges found; chosen by leaving out
photographs, and flat around the best."""
LEVEL = 2.0
"""Two votes of three are all: the mean is spread about one half by this."""
AWAY = 0.02
LARGER, UNSURE = 1.5, 0.6


@dataclass(frozen=True)
class Composed:
    """The subject's ``mask`` (h, w) 0…1, the ``beings`` with a mask each, and what was ``probable`` before edges were
    found: the votes where people are, the given guess elsewhere.
    """

    mask: Alpha
    beings: list[Being]
    probable: Alpha


def with_beings(
    image: SRGB8,
    beings: Sequence[Being],
    base: Alpha,
    guess: Alpha,
    faces: Sequence[Face],
    network: GraphNetwork,
    person: GraphNetwork,
    palms: Sequence[Palm] = (),
) -> Composed:
    """The subject from the one that saliency found, ``base``, and its ``guess`` before."""
    if not any(b.sure for b in beings):
        masked = [b if b.mask is not None else replace(b, mask=limited(base, b.box, NEAR)) for b in beings]
        return Composed(base, masked, guess)
    out, own, probable = np.zeros_like(base), np.zeros_like(base), guess
    taken, masked = np.zeros(base.shape, bool), list(beings)
    for group in touching([b.box for b in beings]):
        taken[within(around([beings[k].box for k in group]), base.shape, NEAR)] = True
        for k in group:
            if beings[k].kind == "animal":
                others = [beings[i].box for i in group if i != k]
                mask, ready = animal_mask(image, beings[k].box, others, base, network, person)
                masked[k] = replace(beings[k], mask=mask)
                (out if ready else own)[:] = np.maximum(out if ready else own, mask)
        people = [b for k in group if (b := beings[k]).kind == "person" and b.mask is not None]
        if people:
            votes = voted(image, people, base, person)
            own[:] = np.maximum(own, levelled(votes))
            probable = np.where(votes > 0, votes, probable)
    if own.any():
        out = np.maximum(out, colour_guided_near(image, own, radius=6, eps=1e-4))
    out = _with_what_stands_alone(out, base, taken, beings, faces, palms)
    return Composed(np.asarray(np.clip(out, 0, 1), np.float32), masked, np.asarray(probable, np.float32))


def voted(image: SRGB8, people: Sequence[Being], base: Alpha, person: GraphNetwork) -> Alpha:
    """Votes (h, w) 0…1 for people, each of whom has the pose network's figure, of all who see them. Each witness is put
    together over all people by the maximum before votes are counted.
    """
    seen, figures, there = (np.zeros_like(base) for _ in range(3))
    for one in people:
        np.maximum(seen, seen_in(image, one.box, person), out=seen)
        np.maximum(figures, one.mask if one.mask is not None else figures, out=figures)
        there[within(one.box, base.shape, GROWN)] = 1
    return np.asarray(PERSON_PART * seen + POSE_PART * figures + GIVEN_PART * base * there, np.float32)


def beside(image: SRGB8, one: Being, others: Sequence[Being], person: GraphNetwork) -> Alpha:
    """The mask (h, w) 0…1 of a bystander by the votes of the person and the pose network: nothing of it is where one of
    the ``others`` is seen more surely than this one.
    """
    if one.mask is None:
        raise ValueError("A bystander has the pose network's figure.")
    votes = (PERSON_PART * seen_in(image, one.box, person) + POSE_PART * one.mask) / (PERSON_PART + POSE_PART)
    first = np.max([o.mask for o in others if o.mask is not None] or [np.zeros_like(one.mask)], 0) > one.mask
    votes[first] = 0
    return levelled(np.asarray(votes, np.float32))


def levelled(votes: Alpha) -> Alpha:
    """A mean of votes made a mask: half stays half, one of three is nothing, two of three are all."""
    return np.asarray(np.clip((votes - 0.5) * LEVEL + 0.5, 0, 1), np.float32)


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

"""The objects that make up the subject: told apart by gaps and faces, each with its kind."""

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np

from lenskeep.core.detect.edges import nearest_label
from lenskeep.core.detect.people import in_square
from lenskeep.core.detect.tensors import backbone_input
from lenskeep.core.facts import Box, Face, Kind
from lenskeep.core.types import SRGB8, Alpha, Float, GraphNetwork, Mask8

LEAST_SHARE, LEAST_AREA = 0.03, 0.0006
MOST_OBJECTS, OWNED = 24, 0.02
ANIMAL, ANIMAL_WITH_PLACE, LITTLE, PLACE = 0.5, 0.2, 0.06, 0.9
PERSON_SHAPE = 0.85
SURE_FACE = 0.9
LOOK = 288
"""Long side at which the class head looks at one object."""
SIDEWAYS = 2.5
"""People stand more often than they lie: sideways distance to a face counts this much more than upright."""


@dataclass(frozen=True)
class Looked:
    """What is needed to tell an object's kind. ``animals`` is the class map of the whole picture, (h, w) 0…1."""

    image: SRGB8
    backbone: GraphNetwork
    class_head: GraphNetwork
    person: GraphNetwork
    animals: Float


def animal_in(image: SRGB8, looked: Looked, box: Box, pad: float) -> tuple[float, float]:
    """(over the whole box, at its surest place): probability of an animal, 0…1."""
    h, w = image.shape[:2]
    more = pad * max(box.width * w, box.height * h)
    y0, y1 = max(0, int(box.y0 * h - more)), min(h, int(box.y1 * h + more) + 1)
    x0, x1 = max(0, int(box.x0 * w - more)), min(w, int(box.x1 * w + more) + 1)
    if y1 - y0 < 4 or x1 - x0 < 4:
        return 0.0, 0.0
    return animal_on(image[y0:y1, x0:x1], looked)


def animal_on(cut: SRGB8, looked: Looked) -> tuple[float, float]:
    """The same for a picture that was cut out already."""
    x = backbone_input(np.ascontiguousarray(cut), LOOK)
    whole, every = looked.class_head.run({"s6": looked.backbone.run({"x": x})[-1]})
    return float(whole[0]), float(every.max())


def faces_of_people(image: SRGB8, faces: list[Face], looked: Looked) -> list[Face]:
    """Faces without those of animals, which the face finder sometimes takes for people's."""
    return [
        f for f in faces if f.score > SURE_FACE or not any(_animal(image, looked, f.box, pad) for pad in (0.6, 2.0))
    ]


def _animal(image: SRGB8, looked: Looked, box: Box, pad: float) -> bool:
    whole, place = animal_in(image, looked, box, pad)
    return whole > ANIMAL or (whole > ANIMAL_WITH_PLACE and place > PLACE)


def split_objects(mask: Alpha, faces: list[Face], beings: Sequence[Alpha] = ()) -> tuple[Mask8, list[int | None]]:
    """A map (h, w) of objects 1, 2, … in the mask, the largest first, and which of ``beings`` each of them is.

    ``beings`` are masks (h, w) of people and animals, over 0 where they may be. Where there are none, pieces of the
    mask are objects, cut between faces; what is too small joins the nearest object.
    """
    h, w = mask.shape
    parts: list[tuple[np.ndarray, int | None]] = []
    for own, being in _shared_out(mask > 0.5, beings):
        inside = [f for f in faces if own[f.box.middle_pixel(own.shape)]]
        cut = _by_face(own, inside, h, w) if len(inside) > 1 else [own]
        parts += [(part, being) for part in cut]
    areas = [float(p.sum()) for p, _ in parts]
    least = max(LEAST_SHARE * max(areas, default=0.0), LEAST_AREA * h * w)
    order = sorted((i for i in range(len(parts)) if areas[i] >= least), key=lambda i: -areas[i])[:MOST_OBJECTS]
    out = np.zeros((h, w), np.uint8)
    for number, i in enumerate(order, 1):
        out[parts[i][0]] = number
    if not order:
        return out, []
    # what is left over goes to the nearest object, so that the objects together are the subject
    whole = np.asarray(np.where(mask > 0.2, nearest_label(out), 0), np.uint8)
    return whole, [parts[i][1] for i in order]


def _shared_out(hard: np.ndarray, beings: Sequence[Alpha]) -> list[tuple[np.ndarray, int | None]]:
    """The mask's pieces, each given to the beings in it: every pixel to the one that is surest there."""
    count, labels, stats, _ = cv2.connectedComponentsWithStats(hard.astype(np.uint8), connectivity=8)
    owner = np.zeros(hard.shape, np.uint8)
    if beings:
        most = np.max(beings, 0)
        owner = np.where(hard & (most > 0), np.argmax(beings, 0) + 1, 0).astype(np.uint8)
    owned = np.bincount(labels.ravel(), (owner > 0).ravel().astype(np.float64), count)
    whole = np.bincount(labels.ravel(), minlength=count)
    out: dict[int, np.ndarray] = {}
    alone: list[tuple[np.ndarray, int | None]] = []
    for k in range(1, count):
        if owned[k] < OWNED * whole[k]:
            alone.append((labels == k, None))
            continue
        left, top, wide, tall = (int(v) for v in stats[k, :4])  # what is nearest within a piece lies in its box
        box = slice(top, top + tall), slice(left, left + wide)
        own = labels[box] == k
        inside = np.where(own, owner[box], 0).astype(np.uint8)
        nearest = nearest_label(inside)
        for being in np.unique(inside[inside > 0]):
            part = out.setdefault(int(being), np.zeros_like(hard))
            part[box] |= own & (nearest == being)
    return [(part, being - 1) for being, part in out.items()] + alone


def _by_face(own: np.ndarray, faces: list[Face], h: int, w: int) -> list[np.ndarray]:
    """A group's mask shared out among its faces, each pixel to the nearest, counted in face sizes."""
    ys, xs = np.nonzero(own)
    away = np.stack(
        [
            (SIDEWAYS * (xs - f.box.middle[0] * w) / max(f.box.width * w, 1)) ** 2
            + ((ys - f.box.middle[1] * h) / max(f.box.height * h, 1)) ** 2
            for f in faces
        ]
    )
    nearest = away.argmin(0)
    out = []
    for k in range(len(faces)):
        part = np.zeros_like(own)
        part[ys[nearest == k], xs[nearest == k]] = True
        out.append(part)
    return out


def kind_of(own: np.ndarray, box: Box, faces: list[Face], looked: Looked) -> Kind:
    """Person, animal or thing. ``own`` is the object's mask (h, w) of True and False."""
    if any(own[f.box.middle_pixel(own.shape)] for f in faces):
        return "person"
    h, w = own.shape
    whole, place = animal_in(looked.image, looked, box, 0.08)
    there = cv2.resize(own.astype(np.float32), looked.animals.shape[::-1], interpolation=cv2.INTER_AREA) > 0.3
    place = max(place if whole > ANIMAL_WITH_PLACE else 0.0, float(looked.animals[there].max()) if there.any() else 0.0)
    if whole > ANIMAL or (whole > LITTLE and place > PLACE):
        return "animal"
    side = 1.25 * max(box.width * w, box.height * h)
    person, weight = in_square(looked.image, looked.person, box.middle[1] * h, box.middle[0] * w, side)
    shape = (person > 0.5) & (weight > 0)
    here = own & (weight > 0)
    overlap = float((shape & here).sum()) / max(float((shape | here).sum()), 1.0)
    return "person" if overlap > PERSON_SHAPE else "thing"

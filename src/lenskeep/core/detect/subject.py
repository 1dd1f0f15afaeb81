"""The subject: saliency, people and animals it overlooked, then the picture's own edges; and the box around it."""

from dataclasses import dataclass

import cv2
import numpy as np

from lenskeep.core.detect.edges import colour_guided_near, grab, piece_stats
from lenskeep.core.detect.objects import Looked, animal_in
from lenskeep.core.detect.people import confirmed, find_people, portrayed
from lenskeep.core.detect.saliency import subject_guess
from lenskeep.core.facts import Box, Face
from lenskeep.core.types import SRGB8, Alpha, GraphNetwork

LEAST_AREA, MOST_AREA = 0.0008, 0.97
LEAST_CERTAINTY = 0.6
PEOPLE_FROM, PEOPLE_TO = 0.6, 0.95
FACE_LEAST = 0.45
"""Faces smaller than this share of the largest one are bystanders."""
ANIMAL_PLACE, ANIMAL_CROP = 0.97, 0.9
MOST_LOOKS = 2
COVERED = 0.5
FAINTEST = 0.004
"""Of a guess; fainter it shows in no mask."""
BY_GUESS = 0.55
"""Where shape is certain it outweighs colour."""


@dataclass
class FoundSubject:
    """``mask`` (h, w) 0…1, empty where no subject is found; ``guess`` is what was probable before edges were found,
    ``by_colour`` what colour alone says.
    """

    mask: Alpha
    guess: Alpha
    by_colour: Alpha


def find_subject(
    image: SRGB8, guess: Alpha, saliency: GraphNetwork, glance: GraphNetwork, looked: Looked, faces: list[Face]
) -> FoundSubject:
    """The subject of (h, w, 3) from a first ``guess``; ``faces`` are those of people."""
    guess = portrayed(image, with_people(image, guess, faces, looked), faces, looked.person)
    guess = confirmed(image, guess, looked.person)
    guess = with_overlooked_animals(image, guess, saliency, glance, looked)
    inside = guess > 0.5
    area = float(inside.mean())
    if not LEAST_AREA <= area <= MOST_AREA or float(guess[inside].mean()) < LEAST_CERTAINTY:
        empty = np.zeros_like(guess)
        return FoundSubject(empty, guess, empty)
    by_colour = grab(image, guess, sure_in=0.85, sure_out=0.08)
    both = np.asarray(BY_GUESS * guess + (1.0 - BY_GUESS) * by_colour, np.float32)
    both[both < FAINTEST] = 0
    return FoundSubject(colour_guided_near(image, both, radius=6, eps=1e-4), guess, by_colour)


def with_people(image: SRGB8, guess: Alpha, faces: list[Face], looked: Looked) -> Alpha:
    """The guess with the people that it overlooked, of those whose faces are not much smaller than the largest one."""
    most = max((f.box.height for f in faces), default=0.0)
    near = [f for f in faces if f.box.height >= FACE_LEAST * most and not _covered(guess, f.box)]
    if not near:
        return guess
    person = find_people(image, near, looked.person)
    sure = np.clip((person - PEOPLE_FROM) / (PEOPLE_TO - PEOPLE_FROM), 0, 1)
    return np.asarray(1.0 - (1.0 - guess) * (1.0 - sure), np.float32)


def _covered(guess: Alpha, face: Box) -> bool:
    """Whether the guess has a face and what is below it already."""
    h, w = guess.shape
    x0, x1 = int(max(face.x0, 0) * w), int(face.x1 * w) + 1
    y0, y1 = int(max(face.y0, 0) * h), int((face.y1 + face.height) * h) + 1
    return float(guess[y0:y1, x0:x1].mean()) > COVERED


def with_overlooked_animals(
    image: SRGB8, guess: Alpha, saliency: GraphNetwork, glance: GraphNetwork, looked: Looked
) -> Alpha:
    """The guess with animals beside it: where the class map sees one and saliency does not, it looks again there."""
    every = looked.animals
    h, w = guess.shape
    size = (every.shape[1], every.shape[0])
    taken = cv2.dilate(cv2.resize(guess, size, interpolation=cv2.INTER_AREA), np.ones((3, 3), np.uint8)) > 0.3
    open_places = ((every > ANIMAL_PLACE) & ~taken).astype(np.uint8)
    count, _, stats, _ = cv2.connectedComponentsWithStats(open_places, connectivity=8)
    order = sorted(range(1, count), key=lambda k: -stats[k, cv2.CC_STAT_AREA])[:MOST_LOOKS]
    out = guess
    for k in order:
        x, y, bw, bh, area = stats[k]
        if area < 2:
            continue
        box = Box(x0=x / size[0], y0=y / size[1], x1=(x + bw) / size[0], y1=(y + bh) / size[1])
        if animal_in(image, looked, box, 0.5)[0] < ANIMAL_CROP:
            continue
        pad = 0.6 * max(box.width * w, box.height * h)
        y0, y1 = max(0, int(box.y0 * h - pad)), min(h, int(box.y1 * h + pad) + 1)
        x0, x1 = max(0, int(box.x0 * w - pad)), min(w, int(box.x1 * w + pad) + 1)
        closer, _ = subject_guess(np.ascontiguousarray(image[y0:y1, x0:x1]), saliency, glance)
        more = np.zeros_like(guess)
        more[y0:y1, x0:x1] = closer
        out = np.maximum(out, _apart_from(guess, more))
    return out


def _apart_from(guess: Alpha, more: Alpha) -> Alpha:
    """What of ``more`` hangs together with nothing the guess has: an animal beside it, not its own rim."""
    count, labels = cv2.connectedComponents((more > 0.3).astype(np.uint8), connectivity=8)
    touching = np.bincount(labels.ravel(), (guess > 0.3).ravel().astype(np.float64), count) > 0
    touching[0] = False
    return np.asarray(np.where(touching[labels], 0.0, more), np.float32)


def box_around(mask: Alpha) -> Box | None:
    """The box around every piece of at least a tenth of the largest one's area; None for an empty mask."""
    pieces = piece_stats(mask)
    if not len(pieces):
        return None
    kept = pieces[pieces[:, cv2.CC_STAT_AREA] >= 0.1 * pieces[:, cv2.CC_STAT_AREA].max()]
    h, w = mask.shape
    x0, y0 = kept[:, cv2.CC_STAT_LEFT].min() / w, kept[:, cv2.CC_STAT_TOP].min() / h
    x1 = (kept[:, cv2.CC_STAT_LEFT] + kept[:, cv2.CC_STAT_WIDTH]).max() / w
    y1 = (kept[:, cv2.CC_STAT_TOP] + kept[:, cv2.CC_STAT_HEIGHT]).max() / h
    return Box(x0=float(x0), y0=float(y0), x1=float(x1), y1=float(y1))

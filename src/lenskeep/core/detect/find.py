"""Everything that is found on a frame, in one call."""

from collections.abc import Callable
from concurrent.futures import Executor, Future, ThreadPoolExecutor
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from lenskeep.core.detect.again import looked_again, sky_again, subject_again, worth_a_second_look
from lenskeep.core.detect.beings import Being, reach_of
from lenskeep.core.detect.boxes import find_boxes
from lenskeep.core.detect.covers import cover_fields, find_covers
from lenskeep.core.detect.explained import explained
from lenskeep.core.detect.faces import find_faces
from lenskeep.core.detect.hands import with_hands
from lenskeep.core.detect.networks import Detectors
from lenskeep.core.detect.objects import Looked, faces_of_people, kind_of, split_objects
from lenskeep.core.detect.opened import opened
from lenskeep.core.detect.palms import Palm
from lenskeep.core.detect.people import figure_apart
from lenskeep.core.detect.pieces import evened, find_pieces
from lenskeep.core.detect.saliency import subject_guess
from lenskeep.core.detect.skin import face_mask, skin_mask
from lenskeep.core.detect.sky import find_sky, sky_probability
from lenskeep.core.detect.skyline import find_skyline
from lenskeep.core.detect.subject import box_around
from lenskeep.core.detect.tensors import resized
from lenskeep.core.detect.trust import Evidence, burnt, picture_values, subject_trust, subject_values
from lenskeep.core.detect.trust_of_others import others_trust
from lenskeep.core.detect.trust_of_sky import sky_trust, sky_values
from lenskeep.core.detect.who import find_who
from lenskeep.core.engine.planes import proxy_size
from lenskeep.core.facts import SUBJECT_KINDS, Face, Facts, Finding, Kind
from lenskeep.core.types import SRGB8, Alpha, Mask8

DETECTOR = "find-16"
"""Version of everything below; results are kept under it and found anew when it changes."""
LEAST_AREA = 2e-4


@dataclass
class Findings:
    """Masks (h, w) uint8 at proxy size by name, the map of pieces, and the facts. Empty masks are left away, but for
    subject and sky.
    """

    masks: dict[str, Mask8]
    pieces: Mask8
    facts: Facts
    signs: dict[str, dict[str, float]] = field(default_factory=dict)
    """What trust was computed from, by name."""
    who: list[str] = field(default_factory=list)
    """What came of every box of a person or an animal, and why, in lines."""

    @property
    def subject(self) -> Mask8:
        return self.masks["subject"]

    @property
    def sky(self) -> Mask8:
        return self.masks["sky"]


class InTurn(Executor):
    """Does at once what it is given: where every core has a frame of its own, a second thread is in the way."""

    def submit(self, fn: Callable[..., Any], /, *args: Any, **kwargs: Any) -> Future[Any]:
        done: Future[Any] = Future()
        done.set_result(fn(*args, **kwargs))
        return done


def find(
    image: SRGB8, detectors: Detectors, full_size: tuple[int, int] | None = None, in_turn: bool = False
) -> Findings:
    """Find subject, kinds of it, sky, ground covers, skin, faces, skyline and pieces on (h, w, 3), sRGB, upright.

    ``full_size`` (height, width) is noted in the facts when ``image`` is already a reduced one. ``in_turn`` keeps to
    one core; what is found is the same.
    """
    height, width = full_size or image.shape[:2]
    h, w = proxy_size(*image.shape[:2])
    small = image if (h, w) == image.shape[:2] else resized(image, h, w)
    if min(h, w) < 16:
        return _nothing(h, w, height, width)
    picture, white = picture_values(small), burnt(small)
    small = opened(small)
    # on two cores what the subject does not wait for is done beside it
    with InTurn() if in_turn else ThreadPoolExecutor(1) as beside:
        scene = beside.submit(sky_probability, small, detectors.backbone, detectors.sky_decoders)
        guess, first = subject_guess(small, detectors.saliency, detectors.glance)
        boxes, found_faces = find_boxes(small, detectors.boxes), find_faces(small, detectors.face)
        seen = scene.result()
        sky_found = beside.submit(find_sky, small, seen.probability)
        fields = beside.submit(cover_fields, small, seen.stages, detectors.covers)
        even = beside.submit(evened, small)
        animals = detectors.class_head.run({"s6": seen.stages["s6"]})[1][0]
        looked = Looked(small, detectors.backbone, detectors.class_head, detectors.person, animals)
        faces = faces_of_people(small, found_faces, looked)
        who = find_who(guess, boxes, faces, looked, detectors)
        subject, beings = who.subject, who.beings
        sky = without_subject(sky_found.result().mask, subject.mask)
        covers_found = beside.submit(find_covers, fields.result(), subject.mask, sky)
        objects, kinds = _objects(subject.mask, beings, faces, looked, who.palms)
        covers = covers_found.result()
        pieces_found = beside.submit(find_pieces, small, objects, list(kinds), {"sky": sky, **covers}, even.result())
        masks = {"subject": subject.mask, "sky": sky, **_of_kinds(subject.mask, objects, kinds)}
        masks |= _with_those_beside(masks, who.beside, (h, w))
        people = masks.get("people", np.zeros((h, w), np.float32))
        masks |= covers | {"skin": skin_mask(small, faces, people), "face": face_mask((h, w), faces, people)}
        masks = {k: m for k, m in masks.items() if k in ("subject", "sky") or float((m > 0.5).mean()) >= LEAST_AREA}
        apart = 0.0 if beings else figure_apart(small, subject.mask, detectors.person)
        evidence = Evidence(animals, faces, apart, beings)
        own = subject_values(small, subject.mask, subject.guess, first, subject.by_colour, sky, evidence)
        above = sky_values(small, sky, sky_found.result(), white)
        signs = {"subject": own | picture, "sky": above | picture}
        pieces, described = pieces_found.result()
        subject_found = subject_trust(signs["subject"], float((subject.mask > 0.5).mean()))
        sky_trusted = sky_trust(signs["sky"], seen.probability, float((sky > 0.5).mean()))
        other = beside.submit(sky_again, small, detectors) if worth_a_second_look(sky_trusted) else None
        if worth_a_second_look(subject_found):
            subject_found = looked_again("subject", subject_found, subject.mask, subject_again(looked, detectors))
        if other is not None:
            sky_trusted = looked_again("sky", sky_trusted, sky_found.result().mask, other.result())
    others, more_signs = others_trust(masks, beings, faces, subject_found.trust)
    signs |= more_signs
    facts = Facts(
        detector=DETECTOR,
        width=width,
        height=height,
        subject_box=box_around(subject.mask),
        skyline=find_skyline(sky, subject.mask),
        subject=subject_found,
        sky=sky_trusted,
        areas={k: round(float((m > 0.5).mean()), 5) for k, m in masks.items() if k not in ("subject", "sky")},
        others=others,
        pieces=described,
        faces=_rounded(faces),
    )
    return Findings({k: to_mask8(m) for k, m in masks.items()}, pieces, facts, signs, explained(who.judged))


def without_subject(sky: Alpha, subject: Alpha) -> Alpha:
    """What is surely subject is not sky, whatever its colour: a white dress before a white sky stays a dress."""
    return np.asarray(np.minimum(sky, 1.0 - subject), np.float32)


def _objects(
    mask: Alpha, beings: list[Being], faces: list[Face], looked: Looked, palms: list[Palm]
) -> tuple[Mask8, list[Kind]]:
    objects, whose = split_objects(mask, faces, [reach_of(b) for b in beings if b.mask is not None])
    kinds: list[Kind] = []
    for number, being in enumerate(whose, 1):
        own = (objects == number) & (mask > 0.5)
        box = box_around(own.astype(np.float32))
        if being is not None:
            kinds.append(beings[being].kind)
        else:
            kinds.append("thing" if box is None else kind_of(own, box, faces, looked))
    return with_hands(looked.image, mask, objects, kinds, palms)


def _of_kinds(mask: Alpha, objects: Mask8, kinds: list[Kind]) -> dict[str, Alpha]:
    """The subject's mask shared out by kind."""
    out = {}
    for name, kind in SUBJECT_KINDS.items():
        numbers = [n for n, k in enumerate(kinds, 1) if k == kind]
        if numbers:
            everything = len(numbers) == len(kinds)
            out[name] = mask if everything else np.asarray(mask * np.isin(objects, numbers), np.float32)
    return out


def _with_those_beside(masks: dict[str, Alpha], bystanders: list[Being], shape: tuple[int, int]) -> dict[str, Alpha]:
    """The mask of people with those that are not the subject."""
    own = [b.mask for b in bystanders if b.mask is not None]
    if not own:
        return {}
    return {"people": np.asarray(np.max([masks.get("people", np.zeros(shape, np.float32)), *own], 0), np.float32)}


def _rounded(faces: list[Face]) -> list[Face]:
    boxes = [f.box.model_copy(update={k: round(v, 4) for k, v in f.box.model_dump().items()}) for f in faces]
    return [Face(box=b, score=round(f.score, 3)) for b, f in zip(boxes, faces, strict=True)]


def to_mask8(alpha: Alpha) -> Mask8:
    """0…1 to 0…255."""
    return np.asarray(np.rint(np.clip(alpha, 0.0, 1.0) * 255.0), np.uint8)


def _nothing(h: int, w: int, height: int, width: int) -> Findings:
    empty = np.zeros((h, w), np.uint8)
    none = Finding(trust=0.0, area=0.0, reasons=["The picture is too small to find anything in."])
    facts = Facts(detector=DETECTOR, width=width, height=height, subject=none, sky=none)
    return Findings({"subject": empty, "sky": empty}, empty, facts)

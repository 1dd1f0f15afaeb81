"""People and animals on a frame: boxes that a second witness confirms, each with a kind and a mask of its own."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np

from lenskeep.core.detect.boxes import NEAR, Detected, area, inside, iou, limited, within
from lenskeep.core.detect.objects import ANIMAL, ANIMAL_WITH_PLACE, PLACE
from lenskeep.core.detect.witnesses import Asked, Witnessed, without_owner
from lenskeep.core.facts import Kind
from lenskeep.core.types import SRGB8, Alpha, Float

FAINT, PERSON, PERSON_SURE = 0.15, 0.35, 0.55
BEAST, BEAST_SURE = 0.3, 0.55
"""Scores from which a box may count, and from which it counts without a witness."""
SALIENT, WELL_SALIENT, FILLED = 0.12, 0.25, 0.35
"""Shares of a box that saliency must have taken to be a witness, of what is no box of a being's, and of a faint box."""
CONFIRMED, CONFIRMED_FILLED, SEEN = 0.25, 0.4, 0.8
"""A faint box counts by itself from this score, filled by saliency so far, with this presence by the pose network."""
MISSED = 0.8
"""An animal's box that saliency missed counts where the class head is as sure as this, of all and of one place."""
BESIDE, COVERED, COMPANY = 0.15, 0.4, 0.6
"""One of a row: how far its foot may be from the others' in heights, how much of it they may cover, and people of one
group are between this and its inverse times as tall."""
SAME_BEING = 0.6
"""Two boxes that overlap by this (IoU) are of one being."""
MAIN, MAIN_SEEN = 0.35, 0.2
"""Sides in shares of the largest one's from which a being counts as a subject, and where saliency saw it."""
SMALLER, OUT_OF_FOCUS, BLURRED = 0.75, 0.22, 0.6
"""A bystander's height in shares of the tallest one's, the sharpness it must not reach, and that in shares of that
one's."""
TOO_SMALL = "too small beside the others"
RIM, STRONGEST, LEAST_SEEN = 0.03, 0.9, 50
AT_EDGE = 0.02
"""A box so near the edge, in shares of the longer side, is cut by it."""


@dataclass(frozen=True)
class Being:
    """A person or an animal. ``mask`` (h, w) 0…1 is None until it was made; ``sure`` ones may add to the subject, the
    others only tell the kind of what is there. A ``bystander`` is smaller than somebody and out of focus: people,
    but not the picture's subject. Somebody ``whole`` is more than a hand.
    """

    box: Float
    score: float
    kind: Kind
    sure: bool
    salient: float
    mask: Alpha | None = None
    bystander: bool = False
    whole: bool = False


@dataclass(frozen=True)
class Judged:
    """A box, who it is (None where it does not count), and why or why not, in words."""

    one: Detected
    being: Being | None
    why: str


def beings_of(told: Iterable[Judged]) -> list[Being]:
    """Those who count, in their order."""
    return [j.being for j in told if j.being is not None]


def judged(found: Sequence[Detected], asked: Asked) -> list[Judged]:
    """What comes of every one of ``found`` boxes (the surest first): those that count first.

    A box that is part of one that was taken, or too small beside it, costs no network.
    """
    every = [Witnessed(one, asked) for one in found]
    people = [w for w in every if w.one.seen == "person"]
    faint = [w for w in people if w.one.score < PERSON]
    sure = [w for w in people if w.one.score >= PERSON_SURE]
    told: dict[int, Judged] = {}
    for w in every:
        if w.one.seen != "person" or w.one.score >= PERSON:
            told[id(w)] = _judged_strong(w, sure, beings_of(told.values()))
    row = [b.box for b in beings_of(told.values()) if b.kind == "person"]
    for w in faint:
        told[id(w)] = _judged_faint(w, row, beings_of(told.values()))
    owners = [w for w in people if (b := told[id(w)].being) is not None and b.kind == "person"]
    for face in without_owner(asked.faces, owners):
        boxes = [b.box for b in beings_of(told.values())]
        for w in faint:
            free = not any(iou(b, w.one.box) >= SAME_BEING for b in boxes)
            if free and w.salient >= FILLED and w.owns(face) and not w.beast:
                del told[id(w)]  # it comes after those that were taken before it
                told[id(w)] = _counted(w, "person", True, "a face that nobody else has", whole=True)
                break
    return _those_that_matter(asked.image, list(told.values()))


def _judged_strong(w: Witnessed, sure: Sequence[Witnessed], taken: Sequence[Being]) -> Judged:
    """Of an animal's box, or one that is surely enough a person's."""
    why_not = _no_use(w, taken) if w.one.seen == "person" else ""
    kind, certain, why = (None, False, "") if why_not else _kind(w, sure)
    if kind is None:
        return Judged(w.one, None, why_not or "nobody else sees it")
    part = _told(w.one, kind, taken)
    return Judged(w.one, None, part) if part else _counted(w, kind, certain, why)


def _judged_faint(w: Witnessed, row: Sequence[Float], taken: Sequence[Being]) -> Judged:
    """Of a person's box that does not count by itself."""
    filled = "" if w.salient >= FILLED else "faint, and saliency does not fill it"
    why_not = filled or _no_use(w, taken) or _told(w.one, "person", taken)
    why = "" if why_not else _why_faint(w, row)
    if why:
        return _counted(w, "person", True, why)
    return Judged(w.one, None, why_not or "faint, and nobody else is sure of it")


def _counted(w: Witnessed, kind: Kind, sure: bool, why: str, whole: bool = False) -> Judged:
    figure = w.figure if kind == "person" else None
    whole = whole or (kind == "person" and _whole(w, w.figure.shape))
    return Judged(w.one, Being(w.one.box, w.one.score, kind, sure, w.salient, figure, whole=whole), why)


def _those_that_matter(image: SRGB8, told: Sequence[Judged]) -> list[Judged]:
    """The same without those beside whom somebody much larger stands, told who is a bystander; those that count come
    first, the others with the surest first.
    """
    most = max((_side(b.box) for b in beings_of(told)), default=1.0)
    small = [j.being is not None and not _matters(j.being, _side(j.being.box) / most) for j in told]
    left = [replace(j, being=None, why=TOO_SMALL) if s else j for j, s in zip(told, small, strict=True)]
    beings = iter(_with_bystanders(image, beings_of(left)))
    left = [j if j.being is None else replace(j, being=next(beings)) for j in left]
    return sorted(left, key=lambda j: (j.being is None, -j.one.score if j.being is None else 0.0))


def _height(w: Witnessed) -> float:
    return float(w.one.box[3] - w.one.box[1])


def _side(box: Float) -> float:
    """Of the square that is as large as a box."""
    return float(np.sqrt(area(box)))


def _no_use(w: Witnessed, taken: Sequence[Being]) -> str:
    """Why a person's box could not be taken whatever its witnesses say; nothing where it could."""
    if part := _told(w.one, "person", [b for b in taken if b.kind == "person"]):
        return part
    most = max((_side(b.box) for b in taken), default=0.0)
    return TOO_SMALL if _side(w.one.box) < MAIN_SEEN * most else ""


def _with_bystanders(image: SRGB8, beings: list[Being]) -> list[Being]:
    """The same, told which of them stand out of focus behind the tallest."""
    if len(beings) < 2:
        return beings
    tall = [float(b.box[3] - b.box[1]) for b in beings]
    small = [h < SMALLER * max(tall) for h in tall]
    if not any(small):
        return beings
    grey = np.asarray(cv2.cvtColor(image, cv2.COLOR_RGB2GRAY), np.float32)
    main = max(sharpness(grey, b) for b, h in zip(beings, tall, strict=True) if h == max(tall))
    return [
        replace(b, bystander=b.kind == "person" and less and sharpness(grey, b) < min(OUT_OF_FOCUS, BLURRED * main))
        for b, less in zip(beings, small, strict=True)
    ]


def sharpness(grey: Float, being: Being) -> float:
    """How sharp the strongest edges of a being are, from a grey picture (h, w): their slope over that after blurring,
    less one (edge width by blurring again, Zhuo & Sim 2011). About 0.1 out of focus, 0.3 to 1 in focus.
    """
    rows, columns = within(being.box, grey.shape, RIM)
    part = np.ascontiguousarray(grey[rows, columns])
    inside = np.ones(part.shape, np.uint8) if being.mask is None else (being.mask[rows, columns] > 0.5).astype(np.uint8)
    seen = cv2.dilate(inside, np.ones((7, 7), np.uint8)) > 0
    if seen.sum() < LEAST_SEEN:
        return 0.0
    near, far = (_slope(cv2.GaussianBlur(part, (0, 0), sigma)) for sigma in (1.0, 3.0))
    edges = seen & (far >= np.quantile(far[seen], STRONGEST))
    return max(float(np.median(near[edges] / (far[edges] + 1.0))) - 1.0, 0.0)


def _slope(grey: np.ndarray) -> Float:
    return np.asarray(np.hypot(cv2.Sobel(grey, cv2.CV_32F, 1, 0), cv2.Sobel(grey, cv2.CV_32F, 0, 1)), np.float32)


def _whole(w: Witnessed, shape: tuple[int, ...]) -> bool:
    """Whether somebody is seen, and not an arm alone: the pose network may take that for a figure too. But of an arm
    the finder of boxes is less sure, and it comes from the frame's edge.
    """
    x0, y0, x1, y1 = (float(v) for v in w.one.box)
    cut = min(x0, y0, shape[1] - x1, shape[0] - y1) < AT_EDGE * max(shape)
    return w.presence > 0.5 and (w.one.score >= PERSON_SURE or w.face or not cut)


def _why_faint(w: Witnessed, row: Sequence[Float]) -> str:
    """Why a faint box that saliency fills is a person; nothing where it is none."""
    if w.beast:
        return ""
    if w.one.score >= CONFIRMED and w.salient >= CONFIRMED_FILLED and w.presence > SEEN:
        return "saliency and the pose network see somebody"
    return "one of a row" if w.presence > 0.5 and _of_row(w, row) else ""


def _of_row(w: Witnessed, row: Sequence[Float]) -> bool:
    """Whether a box is one more of those who stand beside each other: as tall, and on the same ground."""
    if sum(inside(w.one.box, b) for b in row) > COVERED:
        return False
    height, foot = _height(w), float(w.one.box[3])
    return any(
        COMPANY < height / float(b[3] - b[1]) < 1 / COMPANY and abs(float(b[3]) - foot) < BESIDE * height for b in row
    )


def _kind(w: Witnessed, sure: Sequence[Witnessed]) -> tuple[Kind | None, bool, str]:
    """(kind or None where no second witness agrees, whether sure enough to add to the subject, why)."""
    score = w.one.score
    if w.one.seen == "person":
        why = "its box is sure" if score >= PERSON_SURE else _why_person(w, sure)
        return ("animal" if w.beast else "person") if why else None, bool(why), why
    if w.salient > SALIENT or score >= BEAST_SURE:
        looks_it = w.animal > ANIMAL or (w.animal > ANIMAL_WITH_PLACE and w.place > PLACE)
        if score >= BEAST and looks_it and w.salient > SALIENT:
            return "animal", True, "saliency and the class head see it"
        if w.one.seen == "animal" and score >= BEAST_SURE and w.animal > ANIMAL_WITH_PLACE:
            return "animal", True, "its box is sure, and the class head sees it"
        if w.animal > ANIMAL and w.salient > WELL_SALIENT:
            return "animal", False, "the class head sees one in what is salient"
    missed = w.one.seen == "animal" and score >= BEAST and w.salient <= SALIENT
    if missed and w.animal > MISSED and w.place > MISSED:
        return "animal", True, "the class head is sure of it"
    return None, False, ""


def _why_person(w: Witnessed, sure: Sequence[Witnessed]) -> str:
    """Why a box that is not sure by itself is a person's; nothing where nobody else says so."""
    if w.salient > SALIENT:
        return "saliency sees somebody"
    if w.face:
        return "it has a face"
    company = (COMPANY < _height(w) / _height(s) < 1 / COMPANY and not s.beast for s in sure)
    return "the pose network sees somebody" if (w.share > 0.5 or any(company)) and w.presence > 0.5 else ""


def _told(one: Detected, kind: Kind, out: Sequence[Being]) -> str:
    """Whether a box is part of a better one, or a weaker one around it, in words; nothing where it is neither."""
    if any(inside(one.box, b.box) > (0.75 if b.kind == kind else 0.9) or iou(one.box, b.box) > SAME_BEING for b in out):
        return "part of a surer one"
    wider = [b for b in out if b.kind == kind and inside(b.box, one.box) > 0.85]
    return "around a surer one" if any(kind == "animal" or one.score < 0.5 * b.score for b in wider) else ""


def _matters(being: Being, part: float) -> bool:
    return (being.sure and part >= MAIN) or (being.salient > WELL_SALIENT and part > MAIN_SEEN)


def reach_of(being: Being) -> Alpha:
    """Where a being may be, (h, w): its mask in its box, and a trace of it all over the box, so that nothing in a box
    belongs to nobody.
    """
    if being.mask is None:
        raise ValueError("This being has no mask yet.")
    trace = np.full_like(being.mask, 1e-3)
    return np.asarray(limited(np.maximum(being.mask, trace), being.box, NEAR), np.float32)

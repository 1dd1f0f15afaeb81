"""People and animals on a frame: boxes that a second witness confirms, each with a kind and a mask of its own."""

from dataclasses import dataclass, replace

import cv2
import numpy as np

from lenskeep.core.detect.boxes import NEAR, Detected, area, inside, iou, limited, within
from lenskeep.core.detect.figures import figure
from lenskeep.core.detect.objects import ANIMAL, ANIMAL_WITH_PLACE, PLACE, Looked, animal_on
from lenskeep.core.facts import Face, Kind
from lenskeep.core.types import SRGB8, Alpha, Float, GraphNetwork

FAINT, PERSON, PERSON_SURE = 0.15, 0.35, 0.55
BEAST, BEAST_SURE = 0.3, 0.55
"""Scores from which a box may count, and from which it counts without a witness; a faint one of a row counts where
saliency fills it, the pose network sees somebody, and others stand beside."""
FILLED, BESIDE, COVERED = 0.35, 0.15, 0.4
"""How full of saliency such a box must be, how far its foot may be from the others' in heights, and how much of it they
may cover."""
SALIENT, WELL_SALIENT = 0.12, 0.25
"""Shares of a box that saliency must have taken to be a witness."""
FURRY = 0.8
"""A person's box without a face that the class head takes for an animal by this much is one."""
COMPANY = 0.6
"""People of one group are between this and its inverse times as tall."""
MAIN, MAIN_SEEN = 0.35, 0.2
"""Sides in shares of the largest one's from which a being counts as a subject, and where saliency saw it."""
PAD = 0.08
SMALLER, OUT_OF_FOCUS, BLURRED = 0.75, 0.22, 0.6
"""A bystander's height in shares of the tallest one's, the sharpness it must not reach, and that in shares of that
one's."""
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
class _Witnessed:
    one: Detected
    animal: float
    place: float
    salient: float
    share: float
    face: bool
    presence: float
    mask: Alpha | None

    @property
    def beast(self) -> bool:
        return self.animal > FURRY and not self.face


def find_beings(
    image: SRGB8, found: list[Detected], guess: Alpha, faces: list[Face], looked: Looked, pose: GraphNetwork
) -> list[Being]:
    """The people and animals among ``found`` boxes on (h, w, 3), the surest first; ``guess`` is saliency."""
    seen = [_looked_at(image, one, guess, faces, looked, pose) for one in found]
    tall = [s.one.box[3] - s.one.box[1] for s in seen if _sure_person(s)]
    row = [s.one.box for s in seen if s.one.seen == "person" and s.one.score >= PERSON and not s.beast]
    out: list[Being] = []
    for s in seen:
        kind, sure = ("person", True) if _of_row(s, row) else _kind(s, [float(t) for t in tall])
        if kind is not None and not _told(s.one, kind, out):
            mask = s.mask if kind == "person" else None
            out.append(Being(s.one.box, s.one.score, kind, sure, s.salient, mask, whole=_whole(s, guess.shape)))
    most = max((np.sqrt(area(b.box)) for b in out), default=1.0)
    return _with_bystanders(image, [b for b in out if _matters(b, float(np.sqrt(area(b.box)) / most))])


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


def _looked_at(
    image: SRGB8, one: Detected, guess: Alpha, faces: list[Face], looked: Looked, pose: GraphNetwork
) -> _Witnessed:
    """What else is known of a box. Only what could still be taken costs a network."""
    h, w = guess.shape
    inner = guess[within(one.box, guess.shape, 0)] > 0.5
    salient = float(inner.mean())
    share = float(inner.sum() / max(int((guess > 0.5).sum()), 1))
    middles = [(f.box.middle[0] * w, f.box.middle[1] * h) for f in faces]
    face = any(one.box[0] < x < one.box[2] and one.box[1] < y < one.box[3] for x, y in middles)
    out = _Witnessed(one, 0.0, 0.0, salient, share, face, 0.0, None)
    person = one.seen == "person"
    if not _may_count(one, salient):
        return out
    animal, place = animal_on(image[within(one.box, image.shape, PAD)], looked)
    out = replace(out, animal=animal, place=place)
    if person and not out.beast:
        mask, presence = figure(image, one.box, pose, looked.person)
        out = replace(out, mask=mask, presence=presence)
    return out


def _may_count(one: Detected, salient: float) -> bool:
    """Whether a box could still be taken, whatever other witnesses say."""
    if one.seen == "person":
        return one.score >= (FAINT if salient >= FILLED else PERSON)
    return salient > SALIENT or one.score >= BEAST_SURE


def _sure_person(s: _Witnessed) -> bool:
    return s.one.seen == "person" and s.one.score >= PERSON_SURE and not s.beast


def _whole(s: _Witnessed, shape: tuple[int, ...]) -> bool:
    """Whether somebody is seen, and not an arm alone: the pose network may take that for a figure too. But of an arm
    the finder of boxes is less sure, and it comes from the frame's edge.
    """
    x0, y0, x1, y1 = (float(v) for v in s.one.box)
    cut = min(x0, y0, shape[1] - x1, shape[0] - y1) < AT_EDGE * max(shape)
    return s.presence > 0.5 and (s.one.score >= PERSON_SURE or s.face or not cut)


def _of_row(s: _Witnessed, row: list[Float]) -> bool:
    """Whether a faint box is one more of those who stand beside each other: as tall, and on the same ground."""
    if (
        s.one.seen != "person"
        or not FAINT <= s.one.score < PERSON
        or s.salient < FILLED
        or s.presence <= 0.5
        or s.beast
    ):
        return False
    height = float(s.one.box[3] - s.one.box[1])
    if sum(inside(s.one.box, b) for b in row) > COVERED:
        return False
    return any(
        COMPANY < height / float(b[3] - b[1]) < 1 / COMPANY and abs(float(b[3] - s.one.box[3])) < BESIDE * height
        for b in row
    )


def _kind(s: _Witnessed, tall: list[float]) -> tuple[Kind | None, bool]:
    """(kind or None where no second witness agrees, whether sure enough to add to the subject)."""
    score, height = s.one.score, float(s.one.box[3] - s.one.box[1])
    if s.one.seen == "person":
        if score < PERSON:
            return None, False
        company = any(COMPANY < height / t < 1 / COMPANY for t in tall)
        present = s.presence > 0.5 and (company or s.share > 0.5)
        if score < PERSON_SURE and not (s.salient > SALIENT or s.face or present):
            return None, False
        return ("animal" if s.beast else "person"), True
    looks_it = s.animal > ANIMAL or (s.animal > ANIMAL_WITH_PLACE and s.place > PLACE)
    alone = s.one.seen == "animal" and score >= BEAST_SURE and s.animal > ANIMAL_WITH_PLACE
    if (score >= BEAST and looks_it and s.salient > SALIENT) or alone:
        return "animal", True
    return ("animal", False) if s.animal > ANIMAL and s.salient > WELL_SALIENT else (None, False)


def _told(one: Detected, kind: Kind, out: list[Being]) -> bool:
    """Whether a box is part of a better one, or a weaker one around it."""
    part = any(inside(one.box, b.box) > (0.75 if b.kind == kind else 0.9) or iou(one.box, b.box) > 0.6 for b in out)
    wider = [b for b in out if b.kind == kind and inside(b.box, one.box) > 0.85]
    return part or any(kind == "animal" or one.score < 0.5 * b.score for b in wider)


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

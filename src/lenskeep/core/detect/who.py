"""Who and what the subject is: saliency, people, animals and hands put together into one mask."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from lenskeep.core.detect.beings import Being, Judged, beings_of, judged
from lenskeep.core.detect.boxes import Detected
from lenskeep.core.detect.composed import beside, with_beings
from lenskeep.core.detect.grass import without_grass
from lenskeep.core.detect.hands import with_arms
from lenskeep.core.detect.networks import Detectors
from lenskeep.core.detect.objects import Looked
from lenskeep.core.detect.palms import Palm, find_hands, without_hands
from lenskeep.core.detect.subject import FoundSubject, find_subject
from lenskeep.core.detect.witnesses import Asked
from lenskeep.core.facts import Face
from lenskeep.core.types import Alpha


@dataclass(frozen=True)
class Who:
    """The subject, those who are it (each with a mask), those beside it, the palms of whom only hands are seen, and
    what came of every box."""

    subject: FoundSubject
    beings: list[Being]
    beside: list[Being]
    palms: list[Palm]
    judged: list[Judged]


def find_who(guess: Alpha, boxes: Sequence[Detected], faces: list[Face], looked: Looked, detectors: Detectors) -> Who:
    """Who is on the picture of ``looked``, from saliency's ``guess``, boxes, and people's faces."""
    image, d = looked.image, detectors
    subject = find_subject(image, guess, d.saliency, d.glance, looked, faces)
    told = judged(boxes, Asked(image, guess, faces, looked, d.figure))
    every = beings_of(told)
    main = [b for b in every if not b.bystander]
    palms = find_hands(image, subject.mask, main, faces, d.palm)
    beings = without_hands(main, palms)
    base = with_arms(image, subject.mask, palms, d.saliency)
    made = with_beings(image, beings, base, subject.guess, faces, d.saliency, d.person, palms)
    mask = without_grass(image, made.mask) if beings else made.mask
    aside = [replace(b, mask=beside(image, b, main, d.person)) for b in every if b.bystander]
    return Who(replace(subject, mask=mask, guess=made.probable), made.beings, aside, palms, told)

"""A second look at masks that are all but trusted: found once more on the mirror image, they are the same or not.

What a finder sees does not hang on left and right where the picture shows it clearly. Only what the second look can
clear is looked at again, since it takes as long as the first. The constants were chosen on the known masks that trust
is fitted to (``tools/trust``), so that of all that are trusted after it no more than 2 % are bad.
"""

import math
from dataclasses import replace

import numpy as np

from lenskeep.core.detect.boxes import find_boxes
from lenskeep.core.detect.faces import find_faces
from lenskeep.core.detect.networks import Detectors
from lenskeep.core.detect.objects import Looked, faces_of_people
from lenskeep.core.detect.saliency import subject_guess
from lenskeep.core.detect.sky import find_sky, sky_probability
from lenskeep.core.detect.trust import disagreement
from lenskeep.core.detect.who import find_who
from lenskeep.core.facts import DOUBTFUL_BELOW, Finding
from lenskeep.core.types import SRGB8, Alpha

EXPECTED, TELLS, MOST = 0.93, 10.0, 2.0
"""From which intersection over union on the two looks speak for a mask, log-odds for each 1 of it, and the most that a
second look may cost."""
ANOTHER = "A second look at the {} disagrees with the first."


def odds(trust: float) -> float:
    """Log-odds of a trust of 0…1."""
    held = min(max(trust, 1e-4), 1 - 1e-4)
    return math.log(held / (1 - held))


def worth_a_second_look(finding: Finding) -> bool:
    """Whether two looks that agree would make a doubtful mask a trusted one."""
    return finding.area > 0 and 0 <= odds(DOUBTFUL_BELOW) - odds(finding.trust) <= TELLS * (1 - EXPECTED)


def looked_again(what: str, finding: Finding, mask: Alpha, other: Alpha) -> Finding:
    """Trust in a mask (h, w) 0…1 of ``what`` after a second look found ``other``."""
    more = max(TELLS * (1.0 - disagreement(mask, other) - EXPECTED), -MOST)
    trust = round(1.0 / (1.0 + math.exp(-(odds(finding.trust) + more))), 3)
    reasons = [*finding.reasons, ANOTHER.format(what)] if more < 0 else finding.reasons
    return finding.model_copy(update={"trust": trust, "reasons": reasons})


def subject_again(looked: Looked, detectors: Detectors) -> Alpha:
    """The subject's mask (h, w) 0…1 as it is found on the mirror image."""
    image = _mirrored(looked.image)
    turned = replace(looked, image=image, animals=np.ascontiguousarray(looked.animals[:, ::-1]))
    guess, _ = subject_guess(image, detectors.saliency, detectors.glance)
    faces = faces_of_people(image, find_faces(image, detectors.face), turned)
    who = find_who(guess, find_boxes(image, detectors.boxes), faces, turned, detectors)
    return np.ascontiguousarray(who.subject.mask[:, ::-1])


def sky_again(image: SRGB8, detectors: Detectors) -> Alpha:
    """The sky's mask (h, w) 0…1 as it is found on the mirror image of (h, w, 3)."""
    turned = _mirrored(image)
    seen = sky_probability(turned, detectors.backbone, detectors.sky_decoders)
    return np.ascontiguousarray(find_sky(turned, seen.probability).mask[:, ::-1])


def _mirrored(image: SRGB8) -> SRGB8:
    return np.ascontiguousarray(image[:, ::-1])

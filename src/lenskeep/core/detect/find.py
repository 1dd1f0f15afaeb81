"""Everything that is found on a frame, in one call."""

from dataclasses import dataclass

import numpy as np

from lenskeep.core.detect.sky import find_sky
from lenskeep.core.detect.skyline import find_skyline
from lenskeep.core.detect.subject import box_around, find_subject
from lenskeep.core.detect.tensors import resized
from lenskeep.core.detect.trust import sky_trust, subject_trust
from lenskeep.core.engine.planes import proxy_size
from lenskeep.core.facts import Facts, Finding
from lenskeep.core.types import SRGB8, Alpha, Mask8, Session

DETECTOR = "find-2"
"""Version of everything below; results are kept under it and found anew when it changes."""


@dataclass(frozen=True)
class Detectors:
    """The networks, loaded by whoever calls: saliency, scene backbone and the sky decoder over it."""

    saliency: Session
    backbone: Session
    sky_decoder: Session


@dataclass
class Findings:
    """Masks (h, w) uint8 at proxy size, and the facts."""

    subject: Mask8
    sky: Mask8
    facts: Facts


def find(image: SRGB8, detectors: Detectors, full_size: tuple[int, int] | None = None) -> Findings:
    """Find subject, sky, skyline and box on a frame (h, w, 3), sRGB, upright.

    ``full_size`` (height, width) is noted in the facts when ``image`` is already a reduced one.
    """
    height, width = full_size or image.shape[:2]
    h, w = proxy_size(*image.shape[:2])
    small = image if (h, w) == image.shape[:2] else resized(image, h, w)
    if min(h, w) < 16:
        return _nothing(h, w, height, width)
    sky, probability = find_sky(small, detectors.backbone, detectors.sky_decoder)
    subject, saliency, by_colour = find_subject(small, detectors.saliency)
    facts = Facts(
        detector=DETECTOR,
        width=width,
        height=height,
        subject_box=box_around(subject),
        skyline=find_skyline(sky, subject),
        subject=subject_trust(small, subject, saliency, by_colour, sky),
        sky=sky_trust(small, sky, probability),
    )
    return Findings(to_mask8(subject), to_mask8(sky), facts)


def to_mask8(alpha: Alpha) -> Mask8:
    """0…1 to 0…255."""
    return np.asarray(np.rint(np.clip(alpha, 0.0, 1.0) * 255.0), np.uint8)


def _nothing(h: int, w: int, height: int, width: int) -> Findings:
    empty = np.zeros((h, w), np.uint8)
    none = Finding(trust=0.0, area=0.0, reasons=["The picture is too small to find anything in."])
    facts = Facts(detector=DETECTOR, width=width, height=height, subject=none, sky=none)
    return Findings(empty, empty, facts)

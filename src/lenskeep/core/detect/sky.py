"""The sky: a decoder over a classification network's stages, at two scales, then the picture's own edges."""

from dataclasses import dataclass

import cv2
import numpy as np

from lenskeep.core.colour.transfer import DECODE8
from lenskeep.core.detect.edges import colour_guided, without_specks
from lenskeep.core.detect.skycolour import (
    completed,
    highlights_opened,
    raised,
    true_share,
    undecided,
    with_clouds,
)
from lenskeep.core.detect.skygaps import through_gaps
from lenskeep.core.detect.tensors import backbone_input
from lenskeep.core.types import SRGB8, Alpha, Float, GraphNetwork

LONG_SIDES = (640, 896)
"""The smaller sees what the whole is, the larger finds gaps and thin things; their mean does better than either. Each
has a decoder that learnt from other views (tools/sky_decoder), so that their mistakes differ too."""

DECODED_STAGES = (1, 2, 3, 4, 5, 6)
"""What the backbone gives; in place of its first stage, at half size, the decoder sees the picture."""

EDGE_RADIUS, EDGE_EPS = 0.02, 1e-3
LEAST_AREA, LEAST_CERTAINTY, LEAST_IN_GAPS = 0.0001, 0.7, 0.5
LEAST_TOTAL, EVIDENT, LEAST_FAINT = 0.004, 0.88, 0.1
"""A sky is at least some of the frame, and as much of it is evident to the decoders. One that is evident nowhere, as on
a dark or flat picture, is probable over much more: doors, planks and tulips are so over .05 at most. Of 115 skies the
least evident is so at .897, of four photographs without any that had one the most at .866.
"""


@dataclass
class SkyGuess:
    """The decoders' share of sky, (h, w) 0…1: the mean of both scales; and the backbone's stages at the smaller scale,
    for other finders.
    """

    probability: Alpha
    stages: dict[str, Float]


@dataclass
class FoundSky:
    """The mask; what colour made of the decoder's probability before it was brought to the picture's edges; and where
    sky is evident, to the decoder or, where light told the mask, in that; all (h, w) 0…1.
    """

    mask: Alpha
    share: Alpha
    evident: Alpha


def sky_probability(image: SRGB8, backbone: GraphNetwork, decoders: tuple[GraphNetwork, GraphNetwork]) -> SkyGuess:
    """The decoders' guess, at the detail of a picture of half the larger long side; one for either long side."""
    h, w = image.shape[:2]
    shares: list[Alpha] = []
    stages: dict[str, Float] = {}
    for side, decoder in zip(LONG_SIDES, decoders, strict=True):
        fed = decoder_inputs(image, side, backbone)
        share = np.asarray(decoder.run(fed)[0][0, 0], np.float32)
        shares.append(np.clip(cv2.resize(share, (w, h), interpolation=cv2.INTER_CUBIC), 0, 1).astype(np.float32))
        stages = stages or {name: x for name, x in fed.items() if name != "picture"}
    small, large = shares
    return SkyGuess(np.asarray(0.5 * (small + large), np.float32), stages)


def decoder_inputs(image: SRGB8, long_side: int, backbone: GraphNetwork) -> dict[str, Float]:
    """What the decoder is fed, here as in training: ``picture`` (1, 3, h, w) at half the network's input size and the
    backbone's stages ``s1`` … ``s6``.
    """
    x = backbone_input(image, long_side)
    stages = backbone.run({"x": x})
    half = (x.shape[3] // 2, x.shape[2] // 2)
    picture = cv2.resize(np.ascontiguousarray(x[0].transpose(1, 2, 0)), half, interpolation=cv2.INTER_AREA)
    named = {f"s{k}": stage for k, stage in zip(DECODED_STAGES, stages, strict=True)}
    return {"picture": np.ascontiguousarray(picture.transpose(2, 0, 1)[None], np.float32), **named}


def find_sky(image: SRGB8, probability: Alpha) -> FoundSky:
    """The sky from the decoder's probability (h, w) 0…1; its mask is empty where none is found.

    Edges follow the picture in linear light, where a soft edge is a mixture of what lies on its two sides.
    """
    nothing = FoundSky(np.zeros_like(probability), probability, probability)
    evident = float((probability > EVIDENT).mean()) >= LEAST_TOTAL
    if float((probability > 0.5).mean()) < (LEAST_TOTAL if evident else LEAST_FAINT):
        return nothing
    linear = DECODE8[image]
    seen_through = undecided(probability)
    likely = raised(probability) if seen_through else probability
    share = completed(linear, likely)
    radius = max(2, round(EDGE_RADIUS * max(image.shape)))
    mask = colour_guided(highlights_opened(linear), share, radius, EDGE_EPS)
    seen = probability
    if seen_through:
        mask, by_light = through_gaps(linear, likely, share, true_share(mask, linear))
        mask = without_specks(mask, share, LEAST_AREA, LEAST_IN_GAPS)
        seen = np.maximum(probability, by_light * mask)
    else:
        mask = true_share(without_specks(mask, share, LEAST_AREA, LEAST_CERTAINTY), linear)
    mask = with_clouds(mask, linear)
    return FoundSky(mask, share, seen) if float((mask > 0.5).mean()) >= LEAST_TOTAL else nothing

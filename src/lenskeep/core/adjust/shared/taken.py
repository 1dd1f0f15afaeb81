"""A colour taken from a part of each frame, so that a tint belongs to the light it was made in."""

from typing import Literal, get_args

import numpy as np

from lenskeep.core.adjust.base import Below, extra
from lenskeep.core.colour.named import lab_of
from lenskeep.core.colour.oklab import to_oklab
from lenskeep.core.types import Float

TakenFrom = Literal[
    "the colour set",
    "the subject",
    "all but the subject",
    "the sky",
    "all but the sky",
    "where this step works",
    "all but where this step works",
]
AS_SET: TakenFrom = get_args(TakenFrom)[0]
LEAST_SHARE = 0.0005
"""Of the frame; the mean of less than that says nothing."""


def taken_from() -> TakenFrom:
    """The field of an adjustment that has a colour."""
    field: TakenFrom = extra(AS_SET, "Colour from", "choice")
    return field


def mask_taken(source: str) -> str | None:
    """The found mask that a colour is taken by, if it is one."""
    name = source.rpartition(" ")[2]
    return name if name in ("subject", "sky") else None


def masks_taken(source: str) -> frozenset[str]:
    """The found masks that a colour depends on."""
    return frozenset(filter(None, [mask_taken(source)]))


def colour_there(below: Below, source: str, set_colour: str) -> tuple[float, float, float]:
    """OKLab of the mean, in linear light, of the untouched frame there; of ``set_colour`` where next to nothing is.

    The mean of light is what a lens out of focus would make of the place. What that lacks is said in words.
    """
    if source == AS_SET:
        return lab_of(set_colour)
    name = mask_taken(source)
    alpha = below.region() if name is None else below.mask(name)
    there = float(alpha.mean()) > LEAST_SHARE
    weight: Float = np.asarray(1.0 - alpha if source.startswith("all but") else alpha, np.float32)
    # what was not found cannot be left out either: "all but the sky" without a sky is the whole frame, and is right
    if float(weight.mean()) <= LEAST_SHARE or (name == "subject" and not there):
        below.missed(f"No {name or 'place'} to take a colour from was found here; the colour set was used.")
        return lab_of(set_colour)
    mean = np.tensordot(weight, below.untouched, axes=((0, 1), (0, 1))) / weight.sum()
    light, a, b = (float(v) for v in to_oklab(np.asarray(mean, np.float32)))
    return light, a, b

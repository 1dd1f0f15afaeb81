"""A frame's subject against those of the frames taken just before and after: what jumps was found wrongly."""

import statistics
from dataclasses import dataclass

from lenskeep.core.facts import Box

LEAST_NEIGHBOURS = 3
SIZE_RATIO = 2.5
PLACE = 0.28


@dataclass(frozen=True)
class Seen:
    """A frame as its neighbours see it: whether it is upright, where its subject is, and its share of the frame."""

    upright: bool
    box: Box | None
    area: float


def out_of_line(frame: Seen, neighbours: list[Seen]) -> str:
    """How the subject differs from its neighbours', in words; "" where it does not or too few are there to tell.

    Only neighbours that agree with each other can tell: a moving subject has none.
    """
    alike = [n for n in neighbours if n.upright == frame.upright]
    with_one = [n for n in alike if n.box is not None]
    if len(with_one) < LEAST_NEIGHBOURS or len(with_one) < 0.7 * len(alike):
        return ""
    if frame.box is None:
        return "The frames around this one have a subject; here none was found."
    areas = [n.area for n in with_one]
    middle = statistics.median(areas)
    steady = sum(1 / SIZE_RATIO < a / max(middle, 1e-6) < SIZE_RATIO for a in areas) >= 0.7 * len(areas)
    if steady and frame.area > SIZE_RATIO * middle:
        return "The subject is much larger here than on the frames around this one."
    if steady and frame.area < middle / SIZE_RATIO:
        return "The subject is much smaller here than on the frames around this one."
    places = [n.box.middle for n in with_one if n.box is not None]
    x, y = (statistics.median(p[k] for p in places) for k in (0, 1))
    settled = sum(abs(p[0] - x) + abs(p[1] - y) < PLACE for p in places) >= 0.7 * len(places)
    here = frame.box.middle
    if settled and abs(here[0] - x) + abs(here[1] - y) > 2 * PLACE:
        return "The subject is in another place here than on the frames around this one."
    return ""

"""The colours that tell steps apart: of a lane, of its tint on a picture, and of its outlines, each in turn.

Okabe & Ito 2008, which colour-blind people tell apart too, black replaced by grey.
"""

from dataclasses import dataclass

RGB = tuple[int, int, int]


@dataclass(frozen=True)
class LaneColour:
    """sRGB. ``line`` is lighter where the lane's own colour would not show on dark parts of a picture; ``tint`` differs
    where it would not show as a tint.
    """

    lane: RGB
    line: RGB
    tint: RGB


def _one(lane: RGB, line: RGB | None = None, tint: RGB | None = None) -> LaneColour:
    return LaneColour(lane, line or lane, tint or lane)


LANE_COLOURS = (
    _one((230, 159, 0)),
    _one((86, 180, 233)),
    _one((0, 158, 115), line=(0, 201, 150)),
    _one((240, 228, 66)),
    _one((0, 114, 178), line=(74, 163, 224)),
    _one((213, 94, 0), line=(255, 138, 61)),
    _one((204, 121, 167), line=(242, 166, 205)),
    _one((140, 140, 140), line=(216, 216, 216), tint=(216, 27, 96)),
)


def colour_of(index: int) -> LaneColour:
    """Of a step by its place."""
    return LANE_COLOURS[index % len(LANE_COLOURS)]


def hexed(colour: RGB) -> str:
    """As pages write it, "#e69f00"."""
    return f"#{bytes(colour).hex()}"

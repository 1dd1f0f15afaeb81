"""Frames' bases: set by hand on one or many, by a click on something neutral, by measure, as on the frame before."""

from collections.abc import Callable, Collection
from pathlib import Path

import numpy as np

from lenskeep.core.base.curve import USUAL, Curve, light_under
from lenskeep.core.base.models import AMOUNTS, FrameBase, held
from lenskeep.core.engine.planes import smaller
from lenskeep.core.measure.needs import BURNT, LIT, neutralising
from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.overrides import FrameOverride
from lenskeep.core.types import LinearRGB
from lenskeep.files.working import read_working
from lenskeep.store import frames, shoots
from lenskeep.store.frames import FrameRow, FrameSummary, readable
from lenskeep.studio import deeds
from lenskeep.studio.library import Library
from lenskeep.studio.tasks.balance import SIDE, balanced

PATCH = 0.006
"""Half a side of the square that a click measures, as a share of the long side."""


def set_values(
    library: Library, shoot_id: int, frame_ids: Collection[int], values: dict[str, float], words: str = ""
) -> list[int]:
    """Set some values of the base of frames, as one deed; the others stay. Returns the frames whose picture is another
    by that. Raises UserProblem for a value that can't be.
    """
    check(values)
    return _change(library, shoot_id, frame_ids, lambda base, _: base.model_copy(update=values), words)


def check(values: dict[str, float]) -> None:
    """Raises UserProblem for a value that no base can have."""
    for name, value in values.items():
        if name not in AMOUNTS:
            raise UserProblem(f"A base has no value called {name}.")
        if not np.isfinite(value) or abs(value) > held(name, 1e9):
            raise UserProblem(_range_words(name))


def set_bases(library: Library, shoot_id: int, bases: dict[int, FrameBase], words: str) -> list[int]:
    """Give frames bases of their own, by their ids, as one deed."""
    return _change(library, shoot_id, bases, lambda _, frame: bases[frame.id].held(), words)


def with_curve(library: Library, frame: FrameSummary, base: FrameBase) -> FrameBase:
    """A base as it is set now: under the curve that is known of the shoot's camera."""
    return base.model_copy(update={"curve": curve_of(library, frame.shoot_id)})


def curve_of(library: Library, shoot_id: int) -> Curve:
    """What is known of the curve of a shoot's camera."""
    text = shoots.curve(library.db, shoot_id)
    return (readable(Curve, text) if text else None) or USUAL


def _range_words(name: str) -> str:
    field, most = FrameBase.model_fields[name], held(name, 1e9)
    unit = field.json_schema_extra["unit"] if isinstance(field.json_schema_extra, dict) else ""
    return f"{field.title} of a base goes from −{most:g} to {most:g} {unit}."


def _change(
    library: Library,
    shoot_id: int,
    frame_ids: Collection[int],
    to: Callable[[FrameBase, FrameRow], FrameBase],
    words: str,
) -> list[int]:
    curve = curve_of(library, shoot_id)

    def changed(frame: FrameRow) -> FrameOverride:
        base = to(frame.override.base, frame).model_copy(update={"curve": curve})
        return frame.override.with_base(base.held())

    count = len(frame_ids)
    said = words or ("the base of a frame" if count == 1 else f"the base of {count} frames")
    with deeds.doing(library, shoot_id, said, frame_ids):
        return deeds.change_overrides(library, frame_ids, changed)


def neutral_at(library: Library, frame: FrameSummary, x: float, y: float) -> FrameBase:
    """The frame's base with the warmth and tint that make the place (x, y), 0…1, neutral. Raises UserProblem where that
    is burnt out or too dark to have a colour.
    """
    picture = _picture(library, frame)
    curve = camera_curve(library, frame)
    light = picture if curve is None else light_under(picture, curve)
    h, w = light.shape[:2]
    half = max(1, round(PATCH * max(h, w)))
    row, column = min(int(y * h), h - 1), min(int(x * w), w - 1)
    there = (slice(max(row - half, 0), row + half + 1), slice(max(column - half, 0), column + half + 1))
    if not LIT < float(np.median(picture[there].max(axis=-1))) < BURNT:
        raise UserProblem("This place is too dark or too bright to tell its colour. Click on something grey and lit.")
    colour = np.median(light[there].reshape(-1, 3), axis=0)
    mired, duv = neutralising((float(colour[0]), float(colour[1]), float(colour[2])))
    return frame.own_base.model_copy(update={"mired": held("mired", mired), "duv": held("duv", duv)})


def measured(library: Library, frame: FrameSummary) -> FrameBase:
    """The frame's base with the exposure, warmth and tint that its own picture asks for, as far as that is sure."""
    return frame.own_base.model_copy(update=balanced(_picture(library, frame), camera_curve(library, frame)))


def before(library: Library, frame: FrameSummary) -> FrameBase:
    """The base of the frame before in the same scene. Raises UserProblem for the first one."""
    earlier = frames.before_in_scene(library.db, frame)
    if earlier is None:
        raise UserProblem("This is the first frame of its scene; there is none before it.")
    return earlier.own_base


def camera_curve(library: Library, frame: FrameSummary) -> Curve | None:
    """The curve that the camera drew a frame with; None where it was developed here from a raw file."""
    return None if frame.raw_base else curve_of(library, frame.shoot_id)


def working_of(library: Library, frame: FrameSummary) -> Path:
    """A frame's working copy. Raises UserProblem where it is not there."""
    if not frame.found:
        raise UserProblem(f"The masks of {frame.file_name} are not found yet. Wait until they are.")
    path = library.computed(frame.content, frame.found_by).working
    if not path.is_file():
        raise UserProblem(f"What was computed of {frame.file_name} is gone from the library. Find its masks again.")
    return path


def _picture(library: Library, frame: FrameSummary) -> LinearRGB:
    """The untouched picture, small. Raises UserProblem where it is not there."""
    return smaller(read_working(working_of(library, frame)), SIDE)

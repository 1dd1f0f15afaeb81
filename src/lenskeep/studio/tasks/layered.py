"""A frame taken apart into layers: as it came, cleaned up, with its base, and then step by step as its look does it."""

from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from lenskeep.core.colour.spaces import OutputSpace
from lenskeep.core.engine.program import staged
from lenskeep.core.plan import Plan, PlannedStep
from lenskeep.core.render import Frame, compile_plan, region_alpha, render
from lenskeep.core.types import SRGB8, Mask8
from lenskeep.files.masks import full_size_mask
from lenskeep.files.reading.photo import Photo
from lenskeep.files.writing.openraster import Finished

UNIT = 4.0


def layers(original: Photo, photo: Photo, frame: Frame, plan: Plan, space: OutputSpace) -> Iterator[Finished]:
    """The layers, the bottom first: of an ``original``, of the cleaned ``photo`` of the same size (the same where
    nothing was cleaned up), and of its ``frame`` with every step. What blends otherwise than normally is in its layer
    as it looks, which its name says.
    """
    yield Finished("As it came", _rendered(original, None, Plan(()), space))
    if photo is not original:
        yield Finished("Clean-up", _rendered(photo, None, Plan(()), space))
    if frame.base:
        yield Finished("Base", _rendered(photo, frame, Plan(()), space))
    for number, step in enumerate(plan.steps, 1):
        held = all(region.holds(frame.found) for region in step.regions)
        if not held and step.fallback == "leave the step out":
            continue
        name = step.name if step.blend == "normal" else f"{step.name} ({step.blend}, as it looks)"
        yield Finished(name, _rendered(photo, frame, Plan(plan.steps[:number]), space), _mask(step, frame, photo))


def _mask(step: PlannedStep, frame: Frame, photo: Photo) -> Mask8 | None:
    if all(region.is_whole for region in step.regions):
        return None
    alpha = region_alpha(frame, *(r for r in step.regions if not r.is_whole)) * np.float32(step.opacity)
    return full_size_mask(np.asarray(np.rint(255.0 * alpha), np.uint8), frame.proxy, photo)


def _rendered(photo: Photo, frame: Frame | None, plan: Plan, space: OutputSpace) -> SRGB8:
    stages = staged([]) if frame is None else compile_plan(plan, frame)
    return np.asarray(render(stages, photo.rows, photo.height, photo.width, space=space), np.uint8)


def reduced(photo: Photo, long_side: int | None) -> Photo:
    """The photograph at the size that leaves, linear and as deep as 16 bits are."""
    if long_side is None or long_side >= max(photo.height, photo.width):
        return photo
    small = np.clip(photo.reduced(long_side) / np.float32(UNIT), 0.0, 1.0)
    pixels = np.rint(small * np.float32(65535.0)).astype(np.uint16)
    return replace(photo, pixels=pixels, profile=None, base="neutral", unit=UNIT)

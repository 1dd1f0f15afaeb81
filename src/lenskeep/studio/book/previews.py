"""Small pictures of recipes on frames of the demo, which anybody may see: what a set file shows of itself."""

from collections.abc import Sequence
from functools import lru_cache
from importlib.resources import as_file, files

import numpy as np

from lenskeep.core.assets import Assets
from lenskeep.core.plan import make_plan
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.render import Frame
from lenskeep.core.types import LinearRGB
from lenskeep.files.writing.jpeg import jpeg_bytes
from lenskeep.studio.plain_files import found_on_file, small_picture

SIDE, QUALITY = 360, 82
SHOWN_ON = (("ferry-dogs", "LKD_0101.jpg"), ("dune-wedding", "DUN_0310.jpg"))
GAP = 6


@lru_cache(maxsize=1)
def _frames() -> tuple[tuple[LinearRGB, Frame], ...]:
    """The demo's frames, small, with their masks: found once a process."""
    out = []
    for shoot, name in SHOWN_ON:
        with as_file(files("lenskeep.demo") / shoot / name) as path:
            photo, frame = found_on_file(path)
            out.append((photo.reduced(SIDE), frame))
    return tuple(out)


def preview(recipe: Recipe, assets: Assets) -> bytes:
    """A JPEG of the demo's frames with a recipe, beside each other."""
    plan = make_plan(recipe)
    return jpeg_bytes(_beside([small_picture(small, frame, plan, assets) for small, frame in _frames()]), QUALITY)


def _beside(pictures: Sequence[np.ndarray]) -> np.ndarray:
    tall = max(p.shape[0] for p in pictures)
    out = np.full((tall, sum(p.shape[1] + GAP for p in pictures) - GAP, 3), 118, np.uint8)
    at = 0
    for picture in pictures:
        out[: picture.shape[0], at : at + picture.shape[1]] = picture
        at += picture.shape[1] + GAP
    return out

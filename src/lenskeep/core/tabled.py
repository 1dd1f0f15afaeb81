"""A recipe of per-pixel adjustments as one colour table over encoded sRGB."""

import numpy as np

from lenskeep.core.assets import NO_ASSETS, Assets
from lenskeep.core.bare import bare_frame
from lenskeep.core.colour.spaces import REC2020_TO_SRGB, SRGB_TO_REC2020
from lenskeep.core.colour.transfer import decode_srgb, encode_srgb
from lenskeep.core.engine.encode.srgb8 import encode_rows
from lenskeep.core.plan import Plan, make_plan
from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.render import compile_plan, render_rows
from lenskeep.core.types import Float


class NoTable(UserProblem):
    """The recipe does more than a colour table can hold; the message names the steps."""


def _beyond_a_table(plan: Plan) -> list[str]:
    """The names of the steps that a colour table can't hold."""
    return [
        s.name
        for s in plan.steps
        if not all(r.is_whole for r in s.regions)
        or not all(a.per_pixel and not a.looks_around() for a in s.adjustments)
    ]


def fits_a_table(recipe: Recipe) -> bool:
    plan = make_plan(recipe)
    return bool(plan.steps) and not _beyond_a_table(plan)


def colour_table(recipe: Recipe, size: int = 33, assets: Assets = NO_ASSETS) -> Float:
    """(size, size, size, 3) encoded sRGB in 0…1, indexed by red, green and blue.

    Raises NoTable for steps with a region, or that look at more than the pixel's own colour.
    """
    plan = make_plan(recipe)
    if not plan.steps:
        raise NoTable("This recipe changes nothing.")
    if bad := _beyond_a_table(plan):
        raise NoTable(
            "A colour table holds only what looks at a pixel's colour alone, on the whole frame. "
            f"These steps do more: {', '.join(bad)}."
        )
    codes = np.linspace(0.0, 1.0, size, dtype=np.float32)
    lattice = np.stack(np.meshgrid(codes, codes, codes, indexing="ij"), -1).reshape(size, size * size, 3)
    picture = np.ascontiguousarray(decode_srgb(lattice) @ SRGB_TO_REC2020.T.astype(np.float32), np.float32)
    out = render_rows(compile_plan(plan, bare_frame(picture, assets)), picture.copy())
    linear = np.asarray(out @ REC2020_TO_SRGB.T.astype(np.float32), np.float32)
    mapped = np.empty(out.shape, np.uint8)
    encode_rows(np.ascontiguousarray(out, np.float32), mapped)
    inside = ((linear >= 0.0) & (linear <= 1.0)).all(-1, keepdims=True)
    table = np.where(inside, encode_srgb(linear), mapped.astype(np.float32) / np.float32(255.0))
    return np.asarray(table, np.float32).reshape(size, size, size, 3)

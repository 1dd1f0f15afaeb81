"""Where a step sharpens, as a grey picture, while "edges only" is set."""

import numpy as np

from lenskeep.core.adjust.detail.sharpen import EDGE_EV, Sharpen
from lenskeep.core.engine.local.sharpen import edges_at
from lenskeep.core.plan import make_plan
from lenskeep.core.recipes import edit
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.regions.contours import grey
from lenskeep.core.render import Cut, compile_plan, render_rows
from lenskeep.core.types import SRGB8, Alpha, LinearRGB
from lenskeep.files.reading.photo import linear_of
from lenskeep.files.writing.jpeg import preview_jpeg
from lenskeep.store.frames import FrameRow
from lenskeep.studio.bench.holding import below
from lenskeep.studio.bench.stage import QUALITY, Stage, step_alpha
from lenskeep.studio.close.view import CloseView


def shown(stage: Stage, frame_id: int, recipe: Recipe, step_id: str, adjustment_id: str, side: int) -> bytes:
    """A grey JPEG: white where it sharpens in full, within the step's region. Raises EditProblem."""
    own = sharpen_of(recipe, step_id, adjustment_id)
    with stage.at_work(frame_id, side) as staged:
        program = compile_plan(make_plan(below(recipe, step_id, adjustment_id)), staged.frame)
        picture = render_rows(program, staged.picture.copy(), staged.guides)
        region = staged.sized(step_alpha(staged.frame, recipe, step_id))
        where = acting(picture, own, max(picture.shape[:2])) * region
        return preview_jpeg(grey(np.asarray(where, np.float32), *picture.shape[:2]), QUALITY)


def shown_cut(close: CloseView, frame: FrameRow, recipe: Recipe, step_id: str, adjustment_id: str, cut: Cut) -> SRGB8:
    """The same of a cut, on the file's own pixels. Raises EditProblem."""
    own = sharpen_of(recipe, step_id, adjustment_id)
    pixels = close.cut(frame.id, below(recipe, step_id, adjustment_id), cut)
    picture = linear_of(pixels)
    where = acting(picture, own, max(frame.width, frame.height))
    region = close.cut(frame.id, recipe, cut, "grey", step_id)[..., 0]
    return grey(np.asarray(where * (region / np.float32(255.0)), np.float32), cut.height, cut.width)


def sharpen_of(recipe: Recipe, step_id: str, adjustment_id: str) -> Sharpen:
    own = edit.adjustment_of(recipe, step_id, adjustment_id)
    if not isinstance(own, Sharpen):
        raise edit.EditProblem("Only where a step sharpens can be shown.")
    return own


def acting(picture: LinearRGB, own: Sharpen, long_side: int) -> Alpha:
    """Where a sharpening acts on the picture below it, (h, w) 0…1, of a frame so long. At a size where its radius is
    too fine to be seen, the finest that can be.
    """
    return edges_at(picture, own.radius / 10000.0 * long_side, EDGE_EV * own.edges / 100.0)

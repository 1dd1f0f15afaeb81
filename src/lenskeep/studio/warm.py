"""The kernels of a picture, compiled or read from where Numba keeps them, before somebody waits for one."""

import numpy as np

from lenskeep.core.bare import bare_frame
from lenskeep.core.measure.pixelwise import pixel_faults
from lenskeep.core.plan import make_plan
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.render import compile_plan, render
from lenskeep.files.reading.photo import to_srgb8

_STROKE = {"points": [[0.2, 0.5], [0.8, 0.5]], "edge_aware": True}
_ADJUSTMENTS = [{"kind": "exposure", "ev": 0.1}, {"kind": "haze", "haze": 10}]
_STEP = {"id": "a", "region": {"parts": [{"kind": "brush", "strokes": [_STROKE]}]}, "adjustments": _ADJUSTMENTS}


def load_kernels() -> None:
    """A picture of a few pixels is made with everything that the Bench needs for any."""
    picture = np.full((16, 24, 3), 0.2, np.float32)
    frame = bare_frame(picture)
    plan = make_plan(Recipe.model_validate({"steps": [_STEP]}))
    render(compile_plan(plan, frame), lambda a, b: picture[a:b].copy(), 16, 24)
    to_srgb8(picture)
    pixel_faults(picture)

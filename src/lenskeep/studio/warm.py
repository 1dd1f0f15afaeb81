"""What a process that answers people does once, beside its start, so that nobody waits for it later."""

import gc

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


def warm_up() -> None:
    """Read the kernels, and have the collector pass over what is there by then: modules and compiled code, 200,000
    objects. It holds everybody for as long as it takes to look at all of them, 130 ms, in the midst of a transaction
    too, and finds nothing: they stay until the end.
    """
    load_kernels()
    gc.collect()
    gc.freeze()


def load_kernels() -> None:
    """Compiled, or read from where Numba keeps them: a picture of a few pixels is made with everything that the Bench
    needs for any.
    """
    picture = np.full((16, 24, 3), 0.2, np.float32)
    frame = bare_frame(picture)
    plan = make_plan(Recipe.model_validate({"steps": [_STEP]}))
    render(compile_plan(plan, frame), lambda a, b: picture[a:b].copy(), 16, 24)
    to_srgb8(picture)
    pixel_faults(picture)

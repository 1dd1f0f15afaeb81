"""Compile every kernel once; Numba keeps the machine code on disk, beside the modules."""

import numpy as np

from lenskeep.core.bare import bare_frame
from lenskeep.core.plan import make_plan
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.render import compile_plan, render
from lenskeep.files.reading.photo import to_srgb8

picture = np.full((16, 24, 3), 0.2, np.float32)
frame = bare_frame(picture)
stroke = {"points": [[0.2, 0.5], [0.8, 0.5]], "edge_aware": True}
region = {"parts": [{"kind": "brush", "strokes": [stroke]}]}
adjustments = [{"kind": "exposure", "ev": 0.1}, {"kind": "haze", "haze": 10}]
plan = make_plan(Recipe.model_validate({"steps": [{"id": "a", "region": region, "adjustments": adjustments}]}))
render(compile_plan(plan, frame), lambda a, b: picture[a:b].copy(), 16, 24)
to_srgb8(picture)
from lenskeep.core.colour.transfer import DECODE8  # noqa: E402
from lenskeep.core.detect.edges import colour_guided  # noqa: E402
from lenskeep.core.engine.encode.srgb8 import averaged_rows, decode_rows  # noqa: E402

decode_rows(np.zeros((2, 2, 3), np.uint8), DECODE8, np.empty((2, 2, 3), np.float32))
averaged_rows(np.zeros((2, 2, 3), np.uint8), DECODE8, 2, np.empty((1, 1, 3), np.float32))
colour_guided(picture, picture[..., 0].copy(), 2, 1e-3)
from lenskeep.core.measure.pixelwise import pixel_faults  # noqa: E402

pixel_faults(picture)
from lenskeep.core.clean.applied import cleaned  # noqa: E402
from lenskeep.core.clean.models import Healed  # noqa: E402

cleaned(np.zeros((400, 600, 3), np.uint8), [Healed(points=((0.5, 0.5),), size=0.3)])

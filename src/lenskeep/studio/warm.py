"""What a process that answers people does once, beside its start, so that nobody waits for it later; and the kernels in
portions, for whoever compiles them.
"""

import gc
from collections.abc import Callable

import numpy as np

from lenskeep.core.bare import bare_frame
from lenskeep.core.clean.applied import cleaned
from lenskeep.core.clean.models import Healed
from lenskeep.core.colour.transfer import DECODE8
from lenskeep.core.detect.edges import colour_guided, enlarged_labels
from lenskeep.core.detect.skycolour import likeness
from lenskeep.core.easing import eased
from lenskeep.core.engine.encode import deep16, linear16
from lenskeep.core.engine.encode.srgb8 import averaged_rows, decode_rows
from lenskeep.core.engine.kernel.rows import compile_operations
from lenskeep.core.engine.planes import base_coefficients, mask_guide, smaller
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
    rendered()
    encoded()
    gc.collect()
    gc.freeze()


def _grey() -> np.ndarray:
    return np.full((16, 24, 3), 0.2, np.float32)


def rendered() -> None:
    """A picture of a few pixels is made with everything that the Bench needs for any."""
    picture = _grey()
    frame = bare_frame(picture)
    plan = make_plan(Recipe.model_validate({"steps": [_STEP]}))
    render(compile_plan(plan, frame), lambda a, b: picture[a:b].copy(), 16, 24)
    pixel_faults(picture)


def encoded() -> None:
    """Photographs are read, made smaller, and written."""
    decode_rows(np.zeros((2, 2, 3), np.uint8), DECODE8, np.empty((2, 2, 3), np.float32))
    averaged_rows(np.zeros((2, 2, 3), np.uint8), DECODE8, 2, np.empty((1, 1, 3), np.float32))
    to_srgb8(_grey())


def written_deep() -> None:
    """In 16 bits."""
    picture = _grey()
    for encoder in (deep16, linear16):
        encoder.encode_rows(picture, np.empty(picture.shape, np.uint16))


def found() -> None:
    """Borders, sky and pieces are found."""
    picture = _grey()
    plane, codes = picture[..., 0].copy(), np.zeros(picture.shape, np.uint8)
    colour_guided(picture, plane.copy(), 2, 1e-3)
    likeness(picture, plane, 0.2)
    enlarged_labels(np.zeros((8, 12), np.int32), np.zeros((8, 12, 3), np.uint8), codes)
    for one in (picture, plane, codes):
        smaller(one, 12)
    eased(plane, 1.0, 0.0)
    base_coefficients(mask_guide(picture), 0.1, 1e-3)


def healed() -> None:
    """Marks are healed."""
    cleaned(np.zeros((400, 600, 3), np.uint8), [Healed(points=((0.5, 0.5),), size=0.3)])


PORTIONS: tuple[Callable[[], None], ...] = (rendered, compile_operations, encoded, found, healed, written_deep)
"""Each compiles kernels that the others leave alone, as far as can be; the first takes as long as all the rest."""

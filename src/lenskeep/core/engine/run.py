"""Programs run on strips: row programs one after another, with neighbourhood operations between them."""

import numpy as np

from lenskeep.core.engine.kernel.rows import guide_rows, run_rows
from lenskeep.core.engine.local import apply_local, reach
from lenskeep.core.engine.program import Program, Stages
from lenskeep.core.types import Float, LinearRGB, Window

_NO_ROWS = np.zeros((0, 0), np.float32)
_NO_FINE = np.zeros((0, 0, 0), np.float32)
_NOTHING_BELOW = np.zeros((0, 0, 3), np.float32)


def halo(stages: Stages, long_side: int) -> int:
    """How many pixels around a block its result depends on."""
    return sum(reach(op, long_side) for op in stages.between)


def guides_of(rgb: LinearRGB) -> Float:
    """What masks follow on an untouched picture, (rows, w), as the kernel finds it for itself."""
    out = np.empty(rgb.shape[:2], np.float32)
    guide_rows(rgb, out)
    return out


def run_stages(stages: Stages, rgb: LinearRGB, window: Window, guides: Float | None = None) -> LinearRGB:
    """Run on a block (rows, columns, 3) of a frame; returns it, changed in place where that can be. What lies within
    ``halo`` of a border that is not the frame's is not right.

    ``guides`` (rows, columns) is what masks follow, if ``rgb`` is not the untouched picture.
    """
    if guides is None and (stages.between or any(draws.heeds_edges for p in stages.programs for draws in p.fine)):
        guides = guides_of(rgb)
    follow = _NO_ROWS if guides is None else guides
    below = np.empty_like(rgb) if any(stages.recalls) else _NOTHING_BELOW
    for k, program in enumerate(stages.programs):
        _run(program, rgb, window, follow, below)
        if k < len(stages.between):
            rgb = apply_local(stages.between[k], rgb, window.long_side)
    return rgb


def _run(program: Program, rgb: LinearRGB, window: Window, guides: Float, below: LinearRGB) -> None:
    if program.codes.shape[0] or below.shape[0]:
        rows, columns = rgb.shape[:2]
        fine = [draws(window, rows, columns, guides) for draws in program.fine]
        run_rows(
            rgb,
            window.top,
            window.left,
            window.height,
            window.width,
            program.codes,
            program.params,
            program.lent,
            program.tables,
            program.data,
            guides,
            below,
            np.stack(fine) if fine else _NO_FINE,
        )

"""Plan + pixels -> pixels, in strips, at any size.

First the plan is *compiled* for a frame: the steps run on the frame's proxy as far as wide filters need the picture
below them, and leave their coefficients. Then one kernel runs all steps in a single pass over the pixels of whatever
size is asked for, in strips shared among threads; a strip needs no neighbours, so strips leave no seams.
"""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field

import numpy as np

from lenskeep.core.adjust.base import Adjustment, Below
from lenskeep.core.colour.transfer import ENCODE8
from lenskeep.core.engine.encode import encode_rows
from lenskeep.core.engine.kept import Kept
from lenskeep.core.engine.kernel import run_rows
from lenskeep.core.engine.ops import Code, Op, Program, fuse, pack
from lenskeep.core.engine.planes import guided_coefficients, mask_guide
from lenskeep.core.plan import Plan, PlannedStep
from lenskeep.core.recipe import content_key
from lenskeep.core.regions import Found, Region
from lenskeep.core.types import SRGB8, Alpha, Float, LinearRGB

STRIP_ROWS = 128
EDGE_RADIUS = 0.002
EDGE_EPS = 4e-4
RowReader = Callable[[int, int], LinearRGB]
"""(first row, last row + 1) -> those rows, linear Rec. 2020; may be called from several threads."""


@dataclass
class Frame:
    """A frame ready to be compiled for: its proxy picture, what was found on it, and its full size.

    It keeps what was computed for it last, by content, so that dragging one slider does not find the rest anew.
    """

    proxy: LinearRGB
    found: Found
    height: int
    width: int
    kept: Kept = field(default_factory=Kept)

    def __post_init__(self) -> None:
        self.guide = mask_guide(self.proxy)


def region_planes(frame: Frame, region: Region) -> tuple[Float, Float]:
    """Coefficients (a, b) of a region's alpha over the mask guide."""

    def find() -> tuple[Float, Float]:
        return guided_coefficients(frame.guide, region.alpha(frame.found), EDGE_RADIUS, EDGE_EPS)

    return frame.kept.get("region" + content_key(region), find)


def region_alpha(frame: Frame, region: Region) -> Alpha:
    """A region's alpha as the renderer uses it, at proxy size."""
    a, b = region_planes(frame, region)
    return np.asarray(np.clip(a * frame.guide + b, 0.0, 1.0), np.float32)


def _run(frame: Frame, picture: LinearRGB, ops: list[Op]) -> LinearRGB:
    """``ops`` on a proxy picture, masks following the frame's untouched proxy."""
    if not ops:
        return picture
    program = pack(fuse(ops))
    out = np.ascontiguousarray(picture, np.float32).copy()
    run_rows(out, 0, out.shape[0], program.codes, program.params, program.planes, program.tables, frame.guide)
    return out


def _runs(step: PlannedStep, frame: Frame) -> bool:
    """Whether a step runs on this frame; what it lacks is noted in words."""
    lost = step.region.lost(frame.found)
    if not lost:
        return True
    runs = step.region.holds(frame.found) or step.fallback == "use the frame"
    what = " and ".join(lost)
    then = "ran without it" if runs else "was left out"
    frame.found.missing.add(f"No {what} was found here; the step “{step.name}” {then}.")
    return runs


def compile_plan(plan: Plan, frame: Frame) -> Program:
    """The program of a plan for one frame.

    Where an adjustment looks at the picture below it, the steps so far are run on the proxy; the cost is at most that
    of two renders at proxy size, and nothing where no adjustment looks.
    """
    ops: list[Op] = []
    pending: list[Op] = []
    picture, history = frame.proxy, ""
    for step in plan.steps:
        if not _runs(step, frame):
            continue
        inside: list[Op] = []
        for adjustment in step.adjustments:
            below = Below(picture, frame.found.facts, frame.width / frame.height)
            if not adjustment.needs_picture:
                inside += adjustment.operations(below)
                continue
            if pending:
                start, todo = picture, pending
                picture = frame.kept.get("below" + history, lambda: _run(frame, start, todo))  # noqa: B023
                pending = []
            below.picture = picture

            def find(below: Below = below, adjustment: Adjustment = adjustment) -> list[Op]:
                below.picture = _run(frame, below.picture, inside)  # noqa: B023
                return adjustment.operations(below)

            key = content_key(history, *step.adjustments[: step.adjustments.index(adjustment) + 1])
            inside += frame.kept.get("wide" + key, find)
        planes = () if step.region.is_whole else region_planes(frame, step.region)
        whole = [Op(Code.BELOW), *inside, Op(Code.BLEND, (step.opacity,), planes)]
        ops, pending = ops + whole, pending + whole
        history = content_key(history, step.region, *step.adjustments, step.opacity)
    return pack(fuse(ops))


def render_rows(program: Program, rgb: LinearRGB, first_row: int = 0, full_height: int | None = None) -> LinearRGB:
    """Run the program in place on some rows (rows, w, 3) of a frame ``full_height`` high and return them."""
    height = full_height or rgb.shape[0]
    own = np.zeros((0, 0), np.float32)
    run_rows(rgb, first_row, height, program.codes, program.params, program.planes, program.tables, own)
    return rgb


def render(program: Program, read: RowReader, height: int, width: int, threads: int = 1) -> SRGB8:
    """The finished frame, 8-bit sRGB (height, width, 3), read and rendered in strips by ``threads`` threads."""
    out = np.empty((height, width, 3), np.uint8)

    def strip(first: int) -> None:
        last = min(first + STRIP_ROWS, height)
        rows = render_rows(program, read(first, last), first, height)
        encode_rows(rows, ENCODE8, out[first:last])

    starts = range(0, height, STRIP_ROWS)
    if threads == 1:
        for first in starts:
            strip(first)
    else:
        with ThreadPoolExecutor(threads) as pool:
            list(pool.map(strip, starts))
    return out

"""Finishing one frame at screen size: a plain function from a task to its result."""

from dataclasses import dataclass, field

import numpy as np

from lenskeep.core.bare import bare_frame
from lenskeep.core.engine.planes import PROXY_SIDE, area_mean, smaller
from lenskeep.core.guarding import BASE, judge, looked_at
from lenskeep.core.measure.pull import Pull, pull
from lenskeep.core.plan import Plan, make_plan
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.render import Compiled, Frame, compile_steps, render, whole_program
from lenskeep.core.types import LinearRGB
from lenskeep.files.working import read_working
from lenskeep.files.writing.jpeg import jpeg_bytes
from lenskeep.studio.tasks.find import THUMB_QUALITY, THUMB_SIDE
from lenskeep.studio.tasks.frame_files import FrameFiles
from lenskeep.work.engines.carried import InFile, OutFolder

RESULT_QUALITY = 92
GUARD_SIDE = 320
Fault = tuple[str, float, str, str]
"""(guard, figure, step, the step's name)"""


@dataclass(frozen=True)
class RenderTask:
    """``base`` is the working copy, or the untouched picture at screen size; ``picture`` and ``tile`` name what is
    made in ``out``.
    """

    base: InFile
    frame: FrameFiles
    plan: Plan
    out: OutFolder
    picture: str
    tile: str


@dataclass(frozen=True)
class RenderResult:
    """``missing`` says what steps asked for in vain on this frame, ``guards`` what guards found on the picture: (guard,
    figure, the step that it comes from, its name); ``pull`` is its subject's.
    """

    missing: tuple[str, ...]
    guards: tuple[Fault, ...] = ()
    pull: Pull | None = None
    made: dict[str, bytes] = field(default_factory=dict, repr=False)


def made_ready(task: RenderTask) -> tuple[LinearRGB, Frame]:
    """The frame's picture at screen size as it came, but for what was cleaned, and the frame to compile for."""
    with task.base.on_disk() as path:
        base = read_working(path)
    if (clean := task.frame.cleaned()) is not None:
        base = clean.working(base)
    return base, task.frame.ready(smaller(base, PROXY_SIDE))


def render_on_screen(task: RenderTask) -> RenderResult:
    """A finished picture at screen size, and the same small."""
    base, frame = made_ready(task)
    small = smaller(base, GUARD_SIDE).copy()  # rendering takes the picture itself apart
    compiled = compile_steps(task.plan, frame)
    program = whole_program(frame, compiled)
    pixels = render(program, lambda a, b: np.ascontiguousarray(base[a:b]), base.shape[0], base.shape[1])
    task.out.put(task.tile, jpeg_bytes(smaller(pixels, THUMB_SIDE), THUMB_QUALITY, None, False))
    task.out.put(task.picture, jpeg_bytes(pixels, RESULT_QUALITY))
    guards, pulls = looked_after(task.plan, frame, compiled, small)
    return RenderResult(tuple(sorted(frame.found.missing)), guards, pulls, task.out.made)


def nothing_rendered(_: None) -> None:
    """Load what finishing a picture takes, so that the first one of this process need not wait for it."""
    rgb = np.full((16, 24, 3), 0.2, np.float32)
    frame = bare_frame(rgb)
    steps = [{"id": "a", "region": {"parts": [{"kind": "ramp"}]}, "adjustments": [{"kind": "haze", "haze": -10}]}]
    plan = make_plan(Recipe.model_validate({"steps": steps}))
    compiled = compile_steps(plan, frame)
    program = whole_program(frame, compiled)
    jpeg_bytes(render(program, lambda a, b: rgb[a:b].copy(), 16, 24), RESULT_QUALITY)
    looked_after(plan, frame, compiled, rgb)


def looked_after(
    plan: Plan, frame: Frame, compiled: Compiled, picture: LinearRGB
) -> tuple[tuple[Fault, ...], Pull | None]:
    """What guards find on a frame's finished picture, and its subject's pull, at the size of its small ``picture``."""
    looked = looked_at(frame, picture, compiled, plan)
    finished = looked.finished()
    said = judge(looked, finished)
    names = {step.id: step.name for step in plan.steps} | {BASE: "base"}
    subject = area_mean(frame.found.subject, picture.shape[:2])
    faults = tuple((name, said.figures[name], step, names[step]) for name, step in said.causes.items())
    return faults, pull(finished, subject)

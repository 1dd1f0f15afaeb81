"""Finishing one frame at screen size: a plain function from a task to its result."""

from dataclasses import dataclass, field

import cv2
import numpy as np

from lenskeep.core.engine.planes import PROXY_SIDE
from lenskeep.core.plan import Plan
from lenskeep.core.render import compile_plan, render
from lenskeep.files.working import read_working
from lenskeep.files.writing.jpeg import jpeg_bytes
from lenskeep.studio.tasks.find import THUMB_QUALITY, THUMB_SIDE
from lenskeep.studio.tasks.frame_files import FrameFiles, smaller
from lenskeep.work.engines.carried import InFile, OutFolder

RESULT_QUALITY = 92


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
    """``missing`` says what steps asked for in vain on this frame."""

    missing: tuple[str, ...]
    made: dict[str, bytes] = field(default_factory=dict, repr=False)


def render_on_screen(task: RenderTask) -> RenderResult:
    """A finished picture at screen size, and the same small."""
    with task.base.on_disk() as path:
        base = read_working(path)
    frame = task.frame.ready(smaller(base, PROXY_SIDE))
    program = compile_plan(task.plan, frame)
    pixels = render(program, lambda a, b: np.ascontiguousarray(base[a:b]), base.shape[0], base.shape[1])
    scale = min(1.0, THUMB_SIDE / max(pixels.shape[:2]))
    size = (max(1, round(pixels.shape[1] * scale)), max(1, round(pixels.shape[0] * scale)))
    tile = np.asarray(cv2.resize(pixels, size, interpolation=cv2.INTER_AREA), np.uint8)
    task.out.put(task.tile, jpeg_bytes(tile, THUMB_QUALITY, None, False))
    task.out.put(task.picture, jpeg_bytes(pixels, RESULT_QUALITY))
    return RenderResult(tuple(sorted(frame.found.missing)), task.out.made)

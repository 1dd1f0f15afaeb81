"""A frame's base while it is being set: its picture with values that are not kept yet."""

from lenskeep.core.base.applied import rebased
from lenskeep.core.base.models import FrameBase
from lenskeep.core.colour.spaces import OutputSpace
from lenskeep.core.plan import Plan
from lenskeep.core.render import compile_plan, render
from lenskeep.files.writing.jpeg import screen_jpeg
from lenskeep.store.frames import FrameRow
from lenskeep.studio.applying import plan_of_frame
from lenskeep.studio.bench.stage import DRAFT_QUALITY, DRAFT_SIDE, KEY_SIDE, QUALITY, Stage
from lenskeep.studio.library import Library

THREADS = 2


def picture(
    library: Library, stage: Stage, frame: FrameRow, base: FrameBase, draft: bool, space: OutputSpace = "srgb"
) -> bytes:
    """A JPEG of the frame with its look and another base; a ``draft`` is small and quick. Raises UserProblem."""
    return picture_of(stage, frame, plan_of_frame(library, frame), base, draft, space)


def picture_of(
    stage: Stage, frame: FrameRow, plan: Plan, base: FrameBase, draft: bool, space: OutputSpace = "srgb"
) -> bytes:
    """The same of a plan."""
    with stage.at_work(frame.id, DRAFT_SIDE if draft else KEY_SIDE, draft) as staged:
        program = compile_plan(plan, rebased(staged.frame, base, not frame.raw_base))
        own = staged.picture
        h, w = own.shape[:2]
        pixels = render(program, lambda a, b: own[a:b].copy(), h, w, THREADS, staged.guides, space)
    return screen_jpeg(pixels, DRAFT_QUALITY if draft else QUALITY, space)

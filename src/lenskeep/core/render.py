"""Plan + pixels -> pixels, in strips, at any size.

First the plan is *compiled* for a frame: the steps run on the frame's proxy as far as wide filters need the picture
below them, and leave their coefficients. Then one kernel runs all steps in a single pass over the pixels of whatever
size is asked for, in strips shared among threads. A strip is read with as many rows around it as its operations look
away (none for most), so strips leave no seams.
"""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field, replace
from functools import cache, cached_property

import cv2
import numpy as np

from lenskeep.core.adjust.base import Adjustment, Below, Letters
from lenskeep.core.colour.spaces import OutputSpace
from lenskeep.core.engine.encode import EIGHT_BITS, Encoder
from lenskeep.core.engine.encode.base import Numbers
from lenskeep.core.engine.kept import Kept
from lenskeep.core.engine.kernel.rowmath import in_lanes
from lenskeep.core.engine.ops import Code, Op, fuse
from lenskeep.core.engine.planes import Guide, guide_of, mask_guide
from lenskeep.core.engine.program import Stages, staged
from lenskeep.core.engine.run import halo, run_stages
from lenskeep.core.plan import MODES, Plan, PlannedStep
from lenskeep.core.recipes.keys import content_key
from lenskeep.core.regions import Found, Region
from lenskeep.core.types import Alpha, AlphaAtSize, Float, LinearRGB, Window

STRIP_ROWS = 128
EDGE_RADIUS = 0.002
EDGE_EPS = 4e-4
RowReader = Callable[[int, int], LinearRGB]
"""(first row, last row + 1) -> those rows, linear Rec. 2020; may be called from several threads."""
CutReader = Callable[[int, int, int, int], LinearRGB]
"""(first row, last row + 1, first column, last column + 1) -> that block, as a row reader's."""


@dataclass(frozen=True)
class Cut:
    """A part of a frame, in its full pixels."""

    x: int
    y: int
    width: int
    height: int


@dataclass
class Frame:
    """A frame ready to be compiled for: its proxy picture, what was found on it, and its full size.

    It keeps what was computed for it last, by content, so that dragging one slider does not find the rest anew.
    ``base`` are the operations of the frame's own base, which every program of it begins with; ``proxy`` is the picture
    after them, ``untouched`` the one before, if it has one (``core.base.applied.with_base``).
    """

    proxy: LinearRGB
    found: Found
    height: int
    width: int
    letters: Letters | None = None
    kept: Kept = field(default_factory=Kept)
    base: tuple[Op, ...] = ()
    untouched: LinearRGB | None = None

    def __post_init__(self) -> None:
        self.guide = mask_guide(self.proxy if self.untouched is None else self.untouched)

    @cached_property
    def edges(self) -> Guide:
        """What regions are brought to the picture's edges by."""
        return guide_of(self.guide, EDGE_RADIUS)


def region_planes(frame: Frame, *regions: Region) -> tuple[Float, Float]:
    """Coefficients (a, b) over the mask guide of the alpha where all ``regions`` are."""

    def find() -> tuple[Float, Float]:
        alpha = regions[0].alpha(frame.found)
        for limit in regions[1:]:
            alpha = np.asarray(alpha * limit.alpha(frame.found), np.float32)
        return frame.edges.coefficients(alpha, EDGE_EPS)

    return frame.kept.get("region" + content_key(*regions), find)


def region_alpha(frame: Frame, *regions: Region) -> Alpha:
    """The alpha where all regions are, as the renderer uses it, at proxy size."""
    return alpha_at(frame, frame.guide, *regions)


class Fitted:
    """Planes brought to a size by linear interpolation, of which every so many rows and columns are kept; each once."""

    def __init__(self, h: int, w: int, every: int = 1) -> None:
        self._h, self._w, self._every = h, w, every
        self._done: dict[int, tuple[Float, Float]] = {}  # with what it was made of, or its id might come again

    def __call__(self, plane: Float) -> Float:
        if plane.shape == (self._h, self._w) and self._every == 1:
            return plane
        if id(plane) not in self._done:
            self._done[id(plane)] = plane, self._made(plane)
        return self._done[id(plane)][1]

    def _made(self, plane: Float) -> Float:
        if plane.shape != (self._h, self._w):
            plane = np.asarray(cv2.resize(plane, (self._w, self._h), interpolation=cv2.INTER_LINEAR), np.float32)
        return np.ascontiguousarray(plane[:: self._every, :: self._every])


def alpha_at(frame: Frame, guides: Float, *regions: Region) -> Alpha:
    """The alpha where all regions are as the kernel draws it at the size of ``guides``, (h, w)."""
    a, b = map(Fitted(*guides.shape), region_planes(frame, *regions))
    return alpha_of(a, b, guides)


def alpha_of(a: Float, b: Float, guides: Float) -> Alpha:
    """The alpha (h, w) of coefficients over what masks follow, all of one size."""
    out = np.asarray(a * guides, np.float32)
    out += b
    return np.asarray(np.clip(out, 0.0, 1.0, out=out), np.float32)


def blend_planes(frame: Frame, *regions: Region) -> tuple[tuple[Float, ...], AlphaAtSize | None]:
    """What a blend needs to know of where it works: nothing for the whole frame, one pair of coefficients, or two pairs
    and what draws the part between them at the size rendered.
    """
    if all(r.is_whole for r in regions):
        return (), None

    def find() -> tuple[tuple[Float, ...], AlphaAtSize | None]:
        found = frame.found
        place, fine = next(((i, f) for i, r in enumerate(regions) if (f := r.fine_part(found))), (0, None))
        if fine is None:
            return region_planes(frame, *regions), None
        part, draws = fine
        limit = np.ones(found.shape, np.float32)
        for i, region in enumerate(regions):
            limit = limit if i == place else np.asarray(limit * region.alpha(found), np.float32)
        ends = [np.asarray(limit * regions[place].alpha(found, (part, value)), np.float32) for value in (0.0, 1.0)]
        pairs = [frame.edges.coefficients(end, EDGE_EPS) for end in ends]
        return (*pairs[0], *pairs[1]), draws

    return frame.kept.get("blend" + content_key(*regions), find)


def _run(frame: Frame, picture: LinearRGB, ops: list[Op]) -> LinearRGB:
    """``ops`` on a proxy picture, masks following the frame's untouched proxy."""
    if not ops:
        return picture
    out = np.ascontiguousarray(picture, np.float32).copy()
    return run_stages(staged(fuse(ops)), out, Window(0, 0, *out.shape[:2]), frame.guide)


def _runs(step: PlannedStep, frame: Frame) -> bool:
    """Whether a step runs on this frame; what it lacks is noted in words."""
    lost = list(dict.fromkeys(words for region in step.regions for words in region.lost(frame.found)))
    if not lost:
        return True
    runs = all(region.holds(frame.found) for region in step.regions) or step.fallback == "use the frame"
    what = " and ".join(lost)
    then = "ran without it" if runs else "was left out"
    frame.found.missing.add(f"No {what} was found here; the step “{step.name}” {then}.")
    return runs


@dataclass
class Compiled:
    """A plan's steps as operations for one frame: those of each step, and what the picture below it depends on. They
    work on the picture that the frame's base leaves.
    """

    ids: list[str] = field(default_factory=list)
    steps: list[list[Op]] = field(default_factory=list)
    histories: list[str] = field(default_factory=list)

    def stages(self, first: int = 0, last: int | None = None) -> Stages:
        """The program of the steps ``first … last - 1``."""
        return staged(fuse([op for ops in self.steps[first:last] for op in ops]))

    def at_size(self, fitted: "Fitted") -> "Compiled":
        """The same for a smaller picture, with planes no larger than it: each pixel meets the same numbers, since they
        are drawn out linearly here as there.
        """

        def small(op: Op) -> Op:
            return op if op.code is Code.LOCAL else replace(op, planes=tuple(fitted(p) for p in op.planes))

        return Compiled(self.ids, [[small(op) for op in ops] for ops in self.steps], self.histories)


def compile_plan(plan: Plan, frame: Frame) -> Stages:
    """The whole program of a plan for one frame, from the picture as it came: the frame's base, then the steps."""
    return whole_program(frame, compile_steps(plan, frame))


def whole_program(frame: Frame, compiled: Compiled) -> Stages:
    """The same of steps that were compiled already."""
    return staged(fuse([*frame.base, *(op for ops in compiled.steps for op in ops)]))


def compile_steps(plan: Plan, frame: Frame) -> Compiled:
    """The steps of a plan for one frame.

    Where an adjustment looks at the picture below it, the steps so far are run on the proxy; the cost is at most that
    of two renders at proxy size, and nothing where no adjustment looks.
    """
    out = Compiled()
    pending: list[Op] = []
    picture, history = frame.proxy, ""
    for step in plan.steps:
        if not _runs(step, frame):
            continue
        if pending and any(a.needs_picture for a in step.adjustments):
            start, todo = picture, pending
            picture = frame.kept.get("below" + history, lambda: _run(frame, start, todo))  # noqa: B023
            pending = []
        inside = _adjusted(step, frame, picture, history)
        planes, fine = blend_planes(frame, *step.regions)
        ops = [Op(Code.BELOW), *inside, Op(Code.BLEND, (step.opacity,), planes, mode=MODES[step.blend], fine=fine)]
        out.ids.append(step.id)
        out.steps.append(ops)
        out.histories.append(history)
        pending = pending + ops
        history = content_key(history, *step.regions, *step.adjustments, step.opacity, step.blend)
    return out


def _adjusted(step: PlannedStep, frame: Frame, picture: LinearRGB, history: str) -> list[Op]:
    """The operations of a step's adjustments; what wide filters found is kept by all it depends on."""
    inside: list[Op] = []
    for place, adjustment in enumerate(step.adjustments):
        below = Below(
            picture,
            frame.found.facts,
            frame.width / frame.height,
            lambda: region_alpha(frame, *step.regions),
            frame.proxy,
            frame.found.mask,
            frame.found.missing.add,
            frame.letters,
            frame.found.assets,
        )
        if not adjustment.needs_picture:
            inside += adjustment.operations(below)
            continue

        def find(
            below: Below = below, adjustment: Adjustment = adjustment, before: tuple[Op, ...] = tuple(inside)
        ) -> list[Op]:
            below.picture = _run(frame, below.picture, list(before))
            return adjustment.operations(below)

        own = step.regions if adjustment.needs_region else ()
        inside += frame.kept.get("wide" + content_key(history, *own, *step.adjustments[: place + 1]), find)
    return inside


def render_rows(stages: Stages, rgb: LinearRGB, guides: Float | None = None) -> LinearRGB:
    """Run a program on a whole picture (h, w, 3), which it may change in place, and return the finished one."""
    return run_stages(stages, rgb, Window(0, 0, *rgb.shape[:2]), guides)


def render(
    stages: Stages,
    read: RowReader,
    height: int,
    width: int,
    threads: int = 1,
    guides: Float | None = None,
    space: OutputSpace = "srgb",
    encoder: Encoder = EIGHT_BITS,
) -> Numbers:
    """The finished frame (height, width, 3) as ``encoder`` writes ``space``, rendered in strips by ``threads`` threads.

    ``read`` gives new arrays. ``guides`` (height, width) is what masks follow, if that is not what is read.
    """
    whole = Cut(0, 0, width, height)
    return _rendered(
        stages, lambda a, b, _left, _right: read(a, b), whole, height, width, threads, guides, space, encoder
    )


def render_cut(
    stages: Stages,
    read: CutReader,
    cut: Cut,
    height: int,
    width: int,
    threads: int = 1,
    space: OutputSpace = "srgb",
    encoder: Encoder = EIGHT_BITS,
) -> Numbers:
    """A part (cut.height, cut.width, 3) of what ``render`` makes of the frame, and nothing beside it: the same bits."""
    return _rendered(stages, read, cut, height, width, threads, None, space, encoder)


def _rendered(
    stages: Stages,
    read: CutReader,
    cut: Cut,
    height: int,
    width: int,
    threads: int,
    guides: Float | None,
    space: OutputSpace,
    encoder: Encoder,
) -> Numbers:
    out = np.empty((cut.height, cut.width, 3), encoder.dtype)
    around = halo(stages, max(height, width))
    # vectors of the processor lie as they do in whole rows, so that a cut rounds as these do
    left, right = in_lanes(max(cut.x - around, 0), cut.x + cut.width + around, width)

    # a small picture in as many strips as there are threads, so that none waits for the other
    tall = min(STRIP_ROWS, -(-cut.height // threads))

    def strip(first: int) -> None:
        last = min(first + tall, cut.y + cut.height)
        top, bottom = max(first - around, 0), min(last + around, height)
        follow = None if guides is None else guides[top:bottom, left:right]
        rows = run_stages(stages, read(top, bottom, left, right), Window(top, left, height, width), follow)
        target = out[first - cut.y : last - cut.y]
        made = target if right - left == cut.width else np.empty((last - first, right - left, 3), encoder.dtype)
        encoder.rows(rows[first - top : last - top], made, space)
        if made is not target:
            target[:] = made[:, cut.x - left : cut.x - left + cut.width]

    starts = range(cut.y, cut.y + cut.height, tall)
    if threads == 1:
        for first in starts:
            strip(first)
    else:
        list(_pool(threads).map(strip, starts))
    return out


@cache
def _pool(threads: int) -> ThreadPoolExecutor:
    """Threads for strips, which wait for nothing: kept, since starting them takes longer than a small strip."""
    return ThreadPoolExecutor(threads, thread_name_prefix="strips")

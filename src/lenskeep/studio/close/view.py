"""Looking closely: cuts of a frame's original, rendered as the delivery renders it, bit for bit, before it is
packed.
"""

import os
from dataclasses import dataclass
from threading import BoundedSemaphore
from typing import Any, Literal

import numpy as np

from lenskeep.core.colour.spaces import OutputSpace
from lenskeep.core.engine.ops import Code, Op
from lenskeep.core.engine.planes import PROXY_SIDE, smaller
from lenskeep.core.engine.program import Stages, staged
from lenskeep.core.engine.run import guides_of, run_stages
from lenskeep.core.plan import Plan, make_plan
from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.regions.contours import grey, tinted
from lenskeep.core.render import Cut, Frame, blend_planes, compile_plan, render_cut
from lenskeep.core.types import SRGB8, Alpha, LinearRGB, Window
from lenskeep.files.reading.photo import Photo
from lenskeep.store import frames
from lenskeep.store.frames import FrameRow
from lenskeep.studio.bench.found_frame import found_frame
from lenskeep.studio.bench.lane_colours import colour_of
from lenskeep.studio.bench.ready_frames import ReadyFrames
from lenskeep.studio.bench.stage import DRAFT_PROXY
from lenskeep.studio.library import Library
from lenskeep.studio.problems import Gone
from lenskeep.studio.tasks.frame_files import files_of
from lenskeep.studio.tasks.originals import checked_original
from lenskeep.work.engines.carried import InFile

View = Literal["finished", "original", "tint", "grey"]
MOST_SIDE = 4096
"""Pixels of a cut a side: a screen, and a margin around it."""
THREADS = 2


@dataclass
class Opened:
    """An original, decoded, and its frame as a delivery makes it ready; ``draft`` has less detail, for what moves under
    the hand. ``told`` is the program last asked for.
    """

    photo: Photo
    frame: Frame
    draft: Frame
    told: tuple[str, Stages] | None = None

    def program(self, plan: Plan, moving: bool) -> Stages:
        """The plan's program; that of the same plan is found once."""
        key, told = f"{plan.key()} {moving}", self.told  # read once: another request may set it meanwhile
        if told is None or told[0] != key:
            told = self.told = (key, compile_plan(plan, self.draft if moving else self.frame))
        return told[1]


class CloseView:
    """Keeps the originals that were looked at last open, in the room that the Bench's frames share."""

    def __init__(self, library: Library, ready: ReadyFrames[Any]) -> None:
        self._library, self._ready = library, ready
        self._cores = BoundedSemaphore(max(1, (os.cpu_count() or 2) // 2))

    def cut(
        self,
        frame_id: int,
        look: Recipe | Plan,
        cut: Cut,
        view: View = "finished",
        step_id: str | None = None,
        tint: tuple[int, int, int] | None = None,
        space: OutputSpace = "srgb",
        moving: bool = False,
    ) -> SRGB8:
        """The pixels (h, w, 3) of a cut: finished, untouched, or with the region of one step of a recipe. While it is
        ``moving``, wide filters are found with less detail, in a fraction of the time.

        Raises UserProblem where the cut does not lie on the frame, or the frame is gone or not ready.
        """
        key = self._key(frame_id)
        opened: Opened = self._ready.get(key, lambda: self._open(frame_id))
        check(cut, opened.photo)
        with self._cores:
            pixels = self._cut(opened, look, cut, view, step_id, tint, space, moving)
        self._ready.weigh(key)
        return pixels

    def open_ahead(self, frame_id: int) -> None:
        """Decode a frame's original, so that a cut of it comes at once."""
        self._ready.get(self._key(frame_id), lambda: self._open(frame_id))

    def _key(self, frame_id: int) -> tuple[str, int, str, str, str]:
        now = frames.content(self._library.db, frame_id)
        if now is None:
            raise Gone("This frame is no longer in the library.")
        return ("close", frame_id, *now)

    def _open(self, frame_id: int) -> Opened:
        row, facts, computed = found_frame(self._library, frame_id)
        photo, proxy = self._decoded(row)
        files = files_of(computed, row.content, facts, {}, row.override, row.raw_base)
        if (clean := files.cleaned()) is not None:
            photo = clean.photo(photo)
            proxy = photo.reduced(PROXY_SIDE)
        frame, draft = files.ready(proxy), files.ready(smaller(proxy, DRAFT_PROXY))
        frame.found.assets = draft.found.assets = self._library.assets
        return Opened(photo, frame, draft)

    def photo(self, row: FrameRow) -> Photo:
        """A frame's original, decoded, as it came in. Raises UserProblem."""
        return self._decoded(row)[0]

    def _decoded(self, row: FrameRow) -> tuple[Photo, LinearRGB]:
        """The original and its proxy, which stay as they are when masks are found again or repaired."""

        def read() -> tuple[Photo, LinearRGB]:
            original = InFile(self._library.original(row.sha256, row.suffix))
            photo = checked_original(original, row.file_name, row.sha256, row.raw_base, row.turn)
            return photo, photo.reduced(PROXY_SIDE)

        decoded: tuple[Photo, LinearRGB] = self._ready.get(("original", row.id, row.content), read)
        return decoded

    def _cut(
        self,
        opened: Opened,
        look: Recipe | Plan,
        cut: Cut,
        view: View,
        step_id: str | None,
        tint: tuple[int, int, int] | None,
        space: OutputSpace,
        moving: bool,
    ) -> SRGB8:
        photo = opened.photo
        recipe = look if isinstance(look, Recipe) else None
        if view == "grey" and recipe and step_id:
            return grey(alpha_there(opened, recipe, step_id, cut), cut.height, cut.width)
        plan = Plan(()) if view == "original" else make_plan(recipe) if recipe else look
        assert isinstance(plan, Plan)
        stages = opened.program(plan, moving) if view != "original" else staged([])
        pixels = render_cut(stages, photo.block, cut, photo.height, photo.width, THREADS, space)
        if view == "tint" and recipe and step_id:
            lane = colour_of([s.id for s in recipe.steps].index(step_id))
            pixels = tinted(pixels, alpha_there(opened, recipe, step_id, cut), tint or lane.tint)
        return np.asarray(pixels, np.uint8)


def check(cut: Cut, photo: Photo) -> None:
    """Raises UserProblem when a cut is no part of the photograph, or larger than any screen."""
    if cut.width < 1 or cut.height < 1 or cut.x < 0 or cut.y < 0:
        raise UserProblem("A cut is at least one pixel wide and high, and lies on the frame.")
    if cut.x + cut.width > photo.width or cut.y + cut.height > photo.height:
        raise UserProblem(
            f"The cut reaches over the edge of the frame, which is {photo.width} × {photo.height} pixels."
        )
    if max(cut.width, cut.height) > MOST_SIDE:
        raise UserProblem(f"A cut is at most {MOST_SIDE} pixels a side.")


def alpha_there(opened: Opened, recipe: Recipe, step_id: str, cut: Cut) -> Alpha:
    """Where a step works on a cut, as it is mixed in there, (h, w) 0…1: white laid over black by its region."""
    photo, step = opened.photo, recipe.step(step_id)
    regions = (recipe.region_of(step), recipe.limit_of(step))
    held = all(region.holds(opened.frame.found) for region in regions)
    if not held and step.fallback == "leave the step out":
        return np.zeros((cut.height, cut.width), np.float32)
    planes, fine = blend_planes(opened.frame, *(r for r in regions if not r.is_whole))
    if not planes:
        return np.ones((cut.height, cut.width), np.float32)
    white = np.ones(512, np.float32)
    fill = Op(Code.FILL, (0.0, 0.0, 0.0, 1.0), tables=(white, white, white))
    stages = staged([Op(Code.BELOW), fill, Op(Code.BLEND, (1.0,), planes, mode=0, fine=fine)])
    guides = guides_of(photo.block(cut.y, cut.y + cut.height, cut.x, cut.x + cut.width))
    black = np.zeros((cut.height, cut.width, 3), np.float32)
    window = Window(cut.y, cut.x, photo.height, photo.width)
    return np.ascontiguousarray(run_stages(stages, black, window, guides)[..., 0])

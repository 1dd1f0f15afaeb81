"""Pictures for the Bench: frames kept ready in memory, rendered with a recipe that is being changed."""

import os
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from threading import BoundedSemaphore
from typing import Any, Literal

import cv2
import numpy as np

from lenskeep.core.colour.spaces import OutputSpace
from lenskeep.core.engine.ops import fuse
from lenskeep.core.engine.planes import PROXY_SIDE, smaller
from lenskeep.core.engine.program import staged as staged_ops
from lenskeep.core.engine.run import guides_of
from lenskeep.core.measure.pull import Pull, pull
from lenskeep.core.plan import make_plan
from lenskeep.core.recipes.keys import content_key
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.regions.contours import contour_paths, grey, tinted
from lenskeep.core.render import Compiled, Frame, compile_plan, compile_steps, region_alpha, render, render_rows
from lenskeep.core.types import SRGB8, Alpha, Float, LinearRGB
from lenskeep.files.reading.photo import encoded
from lenskeep.files.working import read_working
from lenskeep.files.writing.jpeg import preview_jpeg, screen_jpeg
from lenskeep.store import frames
from lenskeep.studio.bench.found_frame import found_frame
from lenskeep.studio.bench.lane_colours import colour_of
from lenskeep.studio.bench.ready_frames import ReadyFrames
from lenskeep.studio.bench.shared_work import OneAtATime
from lenskeep.studio.library import Library
from lenskeep.studio.problems import Gone
from lenskeep.studio.tasks.frame_files import files_of

View = Literal["finished", "original", "tint", "grey"]
KEY_SIDE, WITNESS_SIDE = 1100, 460
TWO_THREADS_FROM = 150_000
"""Pixels; witnesses are below it, of which two are drawn at once anyhow."""
DRAFT_SIDE = 460
"""A picture under a moving slider is drawn at about the size it is seen at, and in full when the hand rests."""
WITNESS_PROXY, DRAFT_PROXY = 400, 256
QUALITY, DRAFT_QUALITY = 88, 82


def step_alpha(frame: Frame, recipe: Recipe, step_id: str) -> Alpha:
    """Where a step works on a frame, as it is rendered; nowhere when the frame lacks what it needs."""
    step = recipe.step(step_id)
    region, limit = recipe.region_of(step), recipe.limit_of(step)
    held = region.holds(frame.found) and limit.holds(frame.found)
    if not held and step.fallback == "leave the step out":
        return np.zeros(frame.found.shape, np.float32)
    return region_alpha(frame, region) if limit.is_whole else region_alpha(frame, region, limit)


@dataclass
class Staged:
    """A frame ready for rendering at one size: its picture as it came, and as its base leaves it for the steps.
    ``under`` keeps what lies below the step that was changed last.
    """

    picture: LinearRGB
    frame: Frame
    under: tuple[str, LinearRGB] | None = None
    guides: Float = field(init=False)
    based: LinearRGB = field(init=False)

    def __post_init__(self) -> None:
        self.guides = guides_of(self.picture)
        base = staged_ops(fuse(list(self.frame.base)))
        self.based = render_rows(base, self.picture.copy(), self.guides) if self.frame.base else self.picture

    def sized(self, alpha: Alpha) -> Alpha:
        """A region at the picture's size."""
        h, w = self.picture.shape[:2]
        return np.asarray(cv2.resize(alpha, (w, h), interpolation=cv2.INTER_LINEAR), np.float32)

    def below(self, compiled: Compiled, first: int) -> LinearRGB:
        """The picture below step ``first``, rendered once for as long as the steps below stay as they are."""
        if first == 0:
            return self.based
        key = compiled.histories[first]
        held = self.under
        if held is None or held[0] != key:
            held = (key, render_rows(compiled.stages(0, first), self.based.copy(), self.guides))
            self.under = held
        return held[1]


class Stage:
    """Keeps the frames that were used last ready, within a bound in bytes. Safe from several threads: at most as many
    of them render at once as there are cores, and equal requests are answered by one rendering.
    """

    def __init__(self, library: Library) -> None:
        self._library = library
        self.room: ReadyFrames[Any] = ReadyFrames()
        """Where frames are kept ready; originals that are looked at closely share it."""
        self._cores = BoundedSemaphore(max(2, os.cpu_count() or 2))
        self._pictures = OneAtATime()

    def ready(self, frame_id: int, side: int, draft: bool = False) -> Staged:
        """A frame at one size. Raises UserProblem when it is gone or has no masks.

        A ``draft`` computes masks and wide filters with less detail, in a fraction of the time.
        """
        staged: Staged = self.room.get(self._key(frame_id, side, draft), lambda: self._staged(frame_id, side, draft))
        return staged

    def _key(self, frame_id: int, side: int, draft: bool) -> tuple[int, str, str, str, int, int]:
        """A picture depends on what the frame is and on when its masks were found, not on its number alone."""
        now = frames.content(self._library.db, frame_id)
        if now is None:
            raise Gone("This frame is no longer in the library.")
        return (frame_id, *now, side, self._proxy_side(side, draft))

    @staticmethod
    def _proxy_side(side: int, draft: bool) -> int:
        return DRAFT_PROXY if draft else WITNESS_PROXY if side <= WITNESS_SIDE else PROXY_SIDE

    def _staged(self, frame_id: int, side: int, draft: bool) -> Staged:
        row, facts, computed = found_frame(self._library, frame_id)
        files = files_of(computed, row.content, facts, {}, row.override, row.raw_base)
        base = read_working(computed.working)
        if (clean := files.cleaned()) is not None:
            base = clean.working(base)
        proxy = smaller(base, self._proxy_side(side, draft))
        frame = files.ready(proxy)
        frame.found.assets = self._library.assets
        return Staged(smaller(base, side), frame)

    @contextmanager
    def at_work(self, frame_id: int, side: int, draft: bool = False) -> Iterator[Staged]:
        """A frame to work with, while one of the cores is taken for it."""
        with self._cores:
            key = self._key(frame_id, side, draft)
            staged: Staged = self.room.get(key, lambda: self._staged(frame_id, side, draft))
            yield staged
            self.room.weigh(key)

    def held_bytes(self) -> int:
        """What the frames that are kept ready take."""
        return self.room.held_bytes()

    def picture(
        self,
        frame_id: int,
        recipe: Recipe,
        side: int,
        view: View = "finished",
        step_id: str | None = None,
        draft: bool = False,
        tint: tuple[int, int, int] | None = None,
        space: OutputSpace = "srgb",
    ) -> bytes:
        """A JPEG of a frame in ``space``: finished, untouched, or with one step's region as tint (by default in its
        lane's colour) or as grey mask. Where the step does not run on this frame, its region is empty.
        """
        size = min(side, DRAFT_SIDE) if draft else side

        def made() -> bytes:
            with self.at_work(frame_id, size, draft) as staged:
                return self._picture(staged, recipe, view, step_id, draft, tint, space)

        asked = (self._key(frame_id, size, draft), content_key(recipe), view, step_id, tint, space)
        return self._pictures.get(asked, made)

    def _picture(
        self,
        staged: Staged,
        recipe: Recipe,
        view: View,
        step_id: str | None,
        draft: bool,
        tint: tuple[int, int, int] | None,
        space: OutputSpace,
    ) -> bytes:
        quality = DRAFT_QUALITY if draft else QUALITY
        if view == "original":
            return screen_jpeg(encoded(staged.picture, space), QUALITY, space)
        if view == "grey" and step_id:
            alpha = step_alpha(staged.frame, recipe, step_id)
            return preview_jpeg(grey(alpha, *staged.picture.shape[:2]), QUALITY)
        pixels = self.finished(staged, recipe, step_id, space)
        if view == "tint" and step_id:
            index = [s.id for s in recipe.steps].index(step_id)
            alpha = step_alpha(staged.frame, recipe, step_id)
            pixels = tinted(pixels, alpha, tint or colour_of(index).tint)
        return screen_jpeg(pixels, quality, space)

    def contours(self, frame_id: int, recipe: Recipe, side: int, step_id: str) -> dict[str, str]:
        """SVG path data of one step's region, by level."""
        with self.at_work(frame_id, side) as staged:
            return contour_paths(step_alpha(staged.frame, recipe, step_id))

    def pulls(self, frame_id: int, recipe: Recipe) -> tuple[Pull | None, Pull | None]:
        """The subject's pull before and after the recipe, measured at the witnesses' size."""
        with self.at_work(frame_id, WITNESS_SIDE) as staged:
            h, w = staged.picture.shape[:2]
            mask = np.asarray(cv2.resize(staged.frame.found.subject, (w, h), interpolation=cv2.INTER_AREA), np.float32)
            after = render_rows(compile_plan(make_plan(recipe), staged.frame), staged.picture.copy())
            return pull(staged.based, mask), pull(after, mask)

    @staticmethod
    def finished(staged: Staged, recipe: Recipe, changing: str | None = None, space: OutputSpace = "srgb") -> SRGB8:
        """The finished picture in ``space``; what lies below the step that is ``changing`` is kept for the next
        time.
        """
        compiled = compile_steps(make_plan(recipe), staged.frame)
        first = compiled.ids.index(changing) if changing in compiled.ids else 0
        base = staged.below(compiled, first)
        h, w = staged.picture.shape[:2]
        threads = 2 if h * w > TWO_THREADS_FROM else 1
        return render(compiled.stages(first), lambda a, b: base[a:b].copy(), h, w, threads, staged.guides, space)

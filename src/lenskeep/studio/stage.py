"""Pictures for the Bench: frames kept ready in memory, rendered with a recipe that is being changed."""

from collections import OrderedDict
from dataclasses import dataclass, field
from threading import Lock
from typing import Literal

import cv2
import numpy as np

from lenskeep.core.detect.find import DETECTOR
from lenskeep.core.engine.planes import PROXY_SIDE
from lenskeep.core.engine.run import guides_of
from lenskeep.core.measure.pull import Pull, pull
from lenskeep.core.plan import make_plan
from lenskeep.core.recipe import Recipe
from lenskeep.core.regions.contours import contour_paths, grey, tinted
from lenskeep.core.render import Compiled, Frame, compile_plan, compile_steps, region_alpha, render, render_rows
from lenskeep.core.types import SRGB8, Alpha, Float, LinearRGB
from lenskeep.files.jpeg import preview_jpeg
from lenskeep.files.photo import read_photo, to_srgb8
from lenskeep.store import frames
from lenskeep.studio.library import Library
from lenskeep.studio.prepared import ready_frame, smaller

View = Literal["finished", "original", "tint", "grey"]
KEY_SIDE, WITNESS_SIDE = 1100, 460
DRAFT_SIDE = 640
"""A picture under a moving slider is drawn at about the size it is seen at, and in full when the hand rests."""
WITNESS_PROXY, DRAFT_PROXY = 400, 400
ROOM = 20
QUALITY, DRAFT_QUALITY = 88, 82
LANE_COLOURS = (
    (230, 159, 0), (86, 180, 233), (0, 158, 115), (240, 228, 66),
    (0, 114, 178), (213, 94, 0), (204, 121, 167), (140, 140, 140),
)  # fmt: skip
"""Okabe & Ito 2008, black replaced by grey; the interface uses the same."""
TINTS = (*LANE_COLOURS[:-1], (216, 27, 96))
"""The lanes' colours, but for grey, which would not show as a tint."""


def step_alpha(frame: Frame, recipe: Recipe, step_id: str) -> Alpha:
    """Where a step works on a frame, as it is rendered; nowhere when the frame lacks what it needs."""
    step = recipe.step(step_id)
    region = recipe.region_of(step)
    if not region.holds(frame.found) and step.fallback == "leave the step out":
        return np.zeros(frame.found.shape, np.float32)
    return region_alpha(frame, region)


@dataclass
class Staged:
    """A frame ready for rendering at one size; ``under`` keeps what lies below the step that was changed last."""

    picture: LinearRGB
    frame: Frame
    under: tuple[str, LinearRGB] | None = None
    guides: Float = field(init=False)

    def __post_init__(self) -> None:
        self.guides = guides_of(self.picture)

    def below(self, compiled: Compiled, first: int) -> LinearRGB:
        """The picture below step ``first``, rendered once for as long as the steps below stay as they are."""
        if first == 0:
            return self.picture
        key = compiled.histories[first]
        held = self.under
        if held is None or held[0] != key:
            held = (key, render_rows(compiled.stages(0, first), self.picture.copy(), self.guides))
            self.under = held
        return held[1]


class Stage:
    """Keeps the last frames ready. Safe from several threads."""

    def __init__(self, library: Library) -> None:
        self._library = library
        self._ready: OrderedDict[tuple[int, int, int], Staged] = OrderedDict()
        self._lock = Lock()

    def ready(self, frame_id: int, side: int, draft: bool = False) -> Staged:
        """A frame at one size. Raises ValueError when it is gone or has no masks yet.

        A ``draft`` computes masks and wide filters with less detail, in a fraction of the time.
        """
        proxy_side = DRAFT_PROXY if draft else WITNESS_PROXY if side <= WITNESS_SIDE else PROXY_SIDE
        key = (frame_id, side, proxy_side)
        with self._lock:
            if key in self._ready:
                self._ready.move_to_end(key)
                return self._ready[key]
        row = frames.frame(self._library.db, frame_id, DETECTOR)
        if row is None or row.facts is None:
            raise ValueError("This frame is not ready yet.")
        computed = self._library.computed(row.content)
        base = read_photo(computed.base).rows(0, 1 << 30)
        staged = Staged(smaller(base, side), ready_frame(smaller(base, proxy_side), computed, row.facts))
        with self._lock:
            self._ready[key] = staged
            while len(self._ready) > ROOM:
                self._ready.popitem(last=False)
        return staged

    def picture(
        self,
        frame_id: int,
        recipe: Recipe,
        side: int,
        view: View = "finished",
        step_id: str | None = None,
        draft: bool = False,
        tint: tuple[int, int, int] | None = None,
    ) -> bytes:
        """A JPEG of a frame: finished, untouched, or with one step's region as tint (by default in its lane's colour)
        or as grey mask. Where the step does not run on this frame, its region is empty.
        """
        staged = self.ready(frame_id, min(side, DRAFT_SIDE) if draft else side, draft)
        if view == "original":
            return preview_jpeg(to_srgb8(staged.picture), QUALITY)
        if view == "grey" and step_id:
            alpha = step_alpha(staged.frame, recipe, step_id)
            return preview_jpeg(grey(alpha, *staged.picture.shape[:2]), QUALITY)
        pixels = self.finished(staged, recipe, step_id)
        if view == "tint" and step_id:
            index = [s.id for s in recipe.steps].index(step_id)
            alpha = step_alpha(staged.frame, recipe, step_id)
            pixels = tinted(pixels, alpha, tint or TINTS[index % len(TINTS)])
        return preview_jpeg(pixels, DRAFT_QUALITY if draft else QUALITY)

    def contours(self, frame_id: int, recipe: Recipe, side: int, step_id: str) -> dict[str, str]:
        """SVG path data of one step's region, by level."""
        return contour_paths(step_alpha(self.ready(frame_id, side).frame, recipe, step_id))

    def pulls(self, frame_id: int, recipe: Recipe) -> tuple[Pull | None, Pull | None]:
        """The subject's pull before and after the recipe, measured at the witnesses' size."""
        staged = self.ready(frame_id, WITNESS_SIDE)
        h, w = staged.picture.shape[:2]
        mask = np.asarray(cv2.resize(staged.frame.found.subject, (w, h), interpolation=cv2.INTER_AREA), np.float32)
        program = compile_plan(make_plan(recipe), staged.frame)
        after = render_rows(program, staged.picture.copy())
        return pull(staged.picture, mask), pull(after, mask)

    @staticmethod
    def finished(staged: Staged, recipe: Recipe, changing: str | None = None) -> SRGB8:
        """The finished picture; what lies below the step that is ``changing`` is kept for the next time."""
        compiled = compile_steps(make_plan(recipe), staged.frame)
        first = compiled.ids.index(changing) if changing in compiled.ids else 0
        base = staged.below(compiled, first)
        h, w = staged.picture.shape[:2]
        threads = 2 if h * w > 200_000 else 1
        return render(compiled.stages(first), lambda a, b: base[a:b].copy(), h, w, threads, staged.guides)

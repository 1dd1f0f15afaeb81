"""The look of a shoot: giving it, what single frames change of it, and rendering every frame with it."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from lenskeep.core.detect.find import DETECTOR
from lenskeep.core.plan import Plan, make_plan
from lenskeep.core.recipe import FrameOverride, StepOverride, content_key
from lenskeep.store import frames, jobs, recipes
from lenskeep.store.frames import FrameRow
from lenskeep.store.recipes import Look
from lenskeep.studio import tasks
from lenskeep.studio.library import Library

KIND = "apply"
ENGINE = "engine-3"
"""Part of every result's key: changes when the renderer draws differently."""


@dataclass(frozen=True)
class Wanted:
    """The finished picture a frame should have: its plan and the key of its file."""

    plan: Plan
    key: str


def wanted(frame: FrameRow, look: Look) -> Wanted:
    """What ``frame`` should look like under ``look`` and its own overrides."""
    key = content_key(ENGINE, DETECTOR, frame.content, look.version.recipe, look.strength, frame.override)
    return Wanted(make_plan(look.version.recipe, look.strength, frame.override), key)


def give_look(
    library: Library, shoot_id: int, version_id: int, strength: float, frame_ids: list[int] | None = None
) -> int:
    """Give a shoot a recipe's version at a strength 0…2 and queue its frames, or only some; returns the job.

    Raises ValueError.
    """
    if recipes.version(library.db, version_id) is None:
        raise ValueError("This version of the recipe is gone. Choose another one.")
    if not 0.0 <= strength <= 2.0:
        raise ValueError("The strength of a look goes from 0 to 2.")
    with library.db.writing():
        recipes.give_look(library.db, shoot_id, version_id, strength)
        for job in jobs.jobs(library.db, shoot_id):
            if job.kind == KIND and job.active:
                jobs.cancel(library.db, job.id)
        rows = frames.frames(library.db, shoot_id, DETECTOR)
        ids = [f.id for f in rows if f.state != "failed" and (frame_ids is None or f.id in frame_ids)]
        return jobs.add_job(library.db, KIND, shoot_id, ids)


def change_frame(
    library: Library,
    frame_id: int,
    *,
    strength: float | None = None,
    step_id: str | None = None,
    step: StepOverride | None = None,
    reset: bool = False,
) -> FrameRow:
    """Change one frame's strength, or one step on it, and render it at once. Raises ValueError."""
    frame = _frame(library, frame_id)
    override = FrameOverride() if reset else frame.override
    if strength is not None:
        override = FrameOverride(strength=strength, steps=override.steps)
    if step_id is not None and step is not None:
        steps = {k: v for k, v in {**override.steps, step_id: step}.items() if v != StepOverride()}
        override = FrameOverride(strength=override.strength, steps=steps)
    frames.set_override(library.db, frame_id, override)
    render_frame(library, frame_id)
    return _frame(library, frame_id)


def render_frame(library: Library, frame_id: int) -> None:
    """Bring one frame's finished picture up to date, here and now. Does nothing without a look or masks."""
    frame = _frame(library, frame_id)
    look = recipes.look(library.db, frame.shoot_id)
    if look is None or frame.facts is None:
        return
    want = wanted(frame, look)
    missing = tasks.render_on_screen(_task(library, frame, want))
    frames.keep_result(library.db, frame.id, want.key, missing)


def _task(library: Library, frame: FrameRow, want: Wanted) -> tasks.RenderTask:
    assert frame.facts is not None
    return tasks.RenderTask(
        library.computed(frame.content), frame.facts, want.plan, library.result(want.key), library.tile(want.key)
    )


def _frame(library: Library, frame_id: int) -> FrameRow:
    frame = frames.frame(library.db, frame_id, DETECTOR)
    if frame is None:
        raise ValueError("This frame is no longer in the library.")
    return frame


class Applying:
    """Handler of "apply" jobs."""

    def __init__(self, library: Library) -> None:
        self.library = library

    @property
    def run(self) -> Callable[[Any], Any]:
        return tasks.render_on_screen

    def _wanted(self, frame: FrameRow) -> Wanted | None:
        look = recipes.look(self.library.db, frame.shoot_id)
        return wanted(frame, look) if look else None

    def prepare(self, job: jobs.Job, frame_id: int | None) -> tasks.RenderTask | None:
        frame = frames.frame(self.library.db, frame_id or 0, DETECTOR)
        if frame is None or (want := self._wanted(frame)) is None:
            return None
        if frame.facts is None:
            raise ValueError(f"{frame.file_name} has no masks yet. Let the finding end first, then resume.")
        if frame.result_key == want.key and self.library.result(want.key).is_file():
            return None
        return _task(self.library, frame, want)

    def record(self, job: jobs.Job, frame_id: int | None, result: list[str]) -> None:
        frame = frames.frame(self.library.db, frame_id or 0, DETECTOR)
        want = self._wanted(frame) if frame else None
        # the look may have changed meanwhile; then the file waits under its own key and is not this frame's result
        if frame is not None and want is not None and self.library.result(want.key).is_file():
            frames.keep_result(self.library.db, frame.id, want.key, result)

    def failed(self, job: jobs.Job, frame_id: int | None, message: str) -> None:
        """The reason stays on the item; the frame keeps its last result."""

    def finish(self, job: jobs.Job) -> str:
        return f"The look is on {job.done} of {job.total} frames."

"""The look of a shoot: giving it, what single frames change of it, and rendering every frame with it."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from pydantic import BaseModel

from lenskeep.core.detect.find import DETECTOR
from lenskeep.core.plan import Plan, make_plan
from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.models import FrameOverride, Keyed, Recipe, StepOverride
from lenskeep.files.reading.photo import Base
from lenskeep.store import frames, jobs, recipes
from lenskeep.store.frames import FrameRow
from lenskeep.store.recipes import Look
from lenskeep.studio.library import Library
from lenskeep.studio.problems import ChangedMeanwhile
from lenskeep.studio.space import SCREEN_BYTES, check_room
from lenskeep.studio.tasks import frame as tasks

KIND = "apply"
ENGINE = "engine-3"
"""Part of every result's key: changes when the renderer draws differently."""
NO_MASKS = "{} has no masks, or some of their files are gone. Find its masks again, then resume."


class Given(BaseModel):
    """What a frame's item keeps of the moment it was queued in."""

    override: FrameOverride = FrameOverride()
    base: Base = ""


@dataclass(frozen=True)
class Wanted:
    """The finished picture a frame should have: its plan and the key of its file."""

    plan: Plan
    key: str


class Wanting:
    """What frames should look like under one look: the recipe is read and written out once for all of them."""

    def __init__(self, recipe: Recipe, strength: float) -> None:
        self._recipe, self._strength = recipe, strength
        self._keyed = Keyed(recipe)

    def key(self, content: str, override: FrameOverride) -> str:
        """The key of the file of a frame with this content and override."""
        return self._keyed.key((ENGINE, DETECTOR, content), (self._strength, override))

    def plan(self, override: FrameOverride) -> Plan:
        return make_plan(self._recipe, self._strength, override)

    def of(self, frame: FrameRow) -> Wanted:
        return Wanted(self.plan(frame.override), self.key(frame.content, frame.override))


def wanting(look: Look) -> Wanting:
    """Raises UnreadableRecipe."""
    return Wanting(look.version.recipe, look.strength)


def wanted(frame: FrameRow, look: Look) -> Wanted:
    """What ``frame`` should look like under ``look`` and its own overrides. Raises UnreadableRecipe."""
    return wanting(look).of(frame)


def pinned(look: Look | None) -> dict[str, Any]:
    """A look as a job keeps it."""
    return {"version": look.version.id, "strength": look.strength} if look else {}


def pinned_look(library: Library, job: jobs.Job) -> Look | None:
    """The look that a job was queued with; of a job of an older library, the shoot's. Raises UserProblem when it is
    gone from the book.
    """
    kept = job.options.get("look")
    if kept is None:
        return recipes.look(library.db, job.shoot_id or 0)
    if not kept:
        return None
    version = recipes.version(library.db, int(kept["version"]))
    if version is None:
        raise UserProblem("The recipe that this was queued with was removed from the book. Start it anew.")
    return Look(version, float(kept["strength"]))


def give_look(
    library: Library, shoot_id: int, version_id: int, strength: float, frame_ids: list[int] | None = None
) -> int:
    """Give a shoot a recipe's version at a strength 0…2 and queue its frames, or only some; returns the job.

    Raises UserProblem.
    """
    version = recipes.version(library.db, version_id)
    if version is None:
        raise UserProblem("This version of the recipe is gone. Choose another one.")
    if not 0.0 <= strength <= 2.0:
        raise UserProblem("The strength of a look goes from 0 to 200 %.")
    look = Look(version, strength)
    wanting(look)  # an unreadable one is refused here
    with library.db.writing():
        recipes.give_look(library.db, shoot_id, version_id, strength)
        for job in jobs.jobs(library.db, shoot_id):
            if job.kind == KIND and job.active:
                jobs.cancel(library.db, job.id)
        return queue_frames(library, shoot_id, look, frame_ids)


def queue_frames(
    library: Library, shoot_id: int, look: Look, frame_ids: list[int] | None, also_failed: bool = False
) -> int:
    """Queue rendering frames of a shoot, all or some, with the look and each frame's own changes as they are now."""
    with library.db.writing():
        rows = [
            f
            for f in frames.frames(library.db, shoot_id, DETECTOR)
            if (also_failed or f.state != "failed") and (frame_ids is None or f.id in frame_ids)
        ]
        check_room(library.home, len(rows) * SCREEN_BYTES, "applying the look")
        given = {f.id: Given(override=f.override, base=f.base).model_dump_json() for f in rows}
        return jobs.add_job(library.db, KIND, shoot_id, [f.id for f in rows], {"look": pinned(look)}, given)


def change_frame(
    library: Library,
    frame_id: int,
    *,
    strength: float | None = None,
    step_id: str | None = None,
    step: StepOverride | None = None,
    reset: bool = False,
    seen: StepOverride | None = None,
) -> FrameRow:
    """Change one frame's strength, or one step on it, and render it at once.

    ``seen`` is what the step had on this frame where the change was made. Raises UserProblem; ChangedMeanwhile when the
    step has something else by now.
    """
    with library.db.writing():
        frame = _frame(library, frame_id)
        override = FrameOverride() if reset else frame.override
        if strength is not None:
            override = FrameOverride(strength=strength, steps=override.steps)
        if step_id is not None and step is not None:
            if seen is not None and override.steps.get(step_id, StepOverride()) != seen:
                raise ChangedMeanwhile("This step was changed on this frame meanwhile. Look again, then change it.")
            steps = {k: v for k, v in {**override.steps, step_id: step}.items() if v != StepOverride()}
            override = FrameOverride(strength=override.strength, steps=steps)
        frames.set_override(library.db, frame_id, override)
    render_frame(library, frame_id)
    return _frame(library, frame_id)


def render_frame(library: Library, frame_id: int) -> None:
    """Bring one frame's finished picture up to date, here and now. Does nothing without a look or masks."""
    frame = _frame(library, frame_id)
    look = recipes.look(library.db, frame.shoot_id)
    if look is None or not library.computed(frame.content).holds(frame.facts):
        return
    want = wanted(frame, look)
    missing = tasks.render_on_screen(_task(library, frame, want))
    with library.db.writing():
        newest = frames.frame(library.db, frame_id, DETECTOR)
        if newest is not None and wanted(newest, look).key == want.key:  # else a later change renders its own
            frames.keep_result(library.db, frame.id, want.key, missing)


def _task(library: Library, frame: FrameRow, want: Wanted) -> tasks.RenderTask:
    assert frame.facts is not None
    return tasks.RenderTask(
        library.computed(frame.content), frame.facts, want.plan, library.result(want.key), library.tile(want.key)
    )


def _frame(library: Library, frame_id: int) -> FrameRow:
    frame = frames.frame(library.db, frame_id, DETECTOR)
    if frame is None:
        raise UserProblem("This frame is no longer in the library.")
    return frame


def given_of(item: jobs.Item, frame: FrameRow) -> Given:
    """What an item was queued with; of a job of an older library, what the frame has now."""
    if item.given == "{}":
        return Given(override=frame.override, base=frame.base)
    return Given.model_validate_json(item.given)


class Applying:
    """Handler of "apply" jobs."""

    def __init__(self, library: Library) -> None:
        self.library = library

    @property
    def run(self) -> Callable[[Any], Any]:
        return tasks.render_on_screen

    def _wanted(self, job: jobs.Job, item: jobs.Item, frame: FrameRow) -> Wanted | None:
        look = pinned_look(self.library, job)
        if look is None:
            return None
        own, want = given_of(item, frame), wanting(look)
        return Wanted(want.plan(own.override), want.key(frames.content_of(frame.sha256, own.base), own.override))

    def prepare(self, job: jobs.Job, item: jobs.Item) -> tasks.RenderTask | None:
        frame = frames.frame(self.library.db, item.frame_id or 0, DETECTOR)
        if frame is None or (want := self._wanted(job, item, frame)) is None:
            return None
        if given_of(item, frame).base != frame.base:
            return None  # the raw file is brought to a picture in another way by now, and rendered for that
        if not self.library.computed(frame.content).holds(frame.facts):
            frames.set_state(self.library.db, frame.id, "waiting")
            raise UserProblem(NO_MASKS.format(frame.file_name))
        there = self.library.result(want.key).is_file() and self.library.tile(want.key).is_file()
        if frame.result_key == want.key and there:
            frames.set_render_problem(self.library.db, frame.id, "")
            return None
        return _task(self.library, frame, want)

    def record(self, job: jobs.Job, item: jobs.Item, result: list[str]) -> None:
        frame = frames.frame(self.library.db, item.frame_id or 0, DETECTOR)
        look = recipes.look(self.library.db, frame.shoot_id) if frame else None
        if frame is None or look is None:
            return
        # look and frame may have changed meanwhile; then the file waits under its own key and is not its result
        want, made = wanted(frame, look), self._wanted(job, item, frame)
        if made is not None and made.key == want.key and self.library.result(want.key).is_file():
            frames.keep_result(self.library.db, frame.id, want.key, result)

    def failed(self, job: jobs.Job, item: jobs.Item, message: str) -> None:
        """The frame keeps its last result, and says why there is no newer one."""
        if item.frame_id is not None:
            frames.set_render_problem(self.library.db, item.frame_id, message)

    def finish(self, job: jobs.Job) -> str:
        return f"The look is on {job.done} of {job.total} frames."

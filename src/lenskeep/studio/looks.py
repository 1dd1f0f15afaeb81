"""The look of a shoot: giving it, what single frames change of it, and rendering every frame with it."""

import time
from collections.abc import Callable
from functools import lru_cache
from typing import Any

from pydantic import BaseModel

from lenskeep.core.plan import Plan
from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.overrides import FrameOverride, StepOverride
from lenskeep.files.reading.photo import Base
from lenskeep.store import findings, finished, frames, jobs, recipes, scenes
from lenskeep.store import looks as kept
from lenskeep.store.frames import FrameRow
from lenskeep.store.looks import Look, LookLayer
from lenskeep.studio.library import Library
from lenskeep.studio.problems import ChangedMeanwhile
from lenskeep.studio.space import SCREEN_BYTES, check_room
from lenskeep.studio.tasks.frame_files import files_of
from lenskeep.studio.tasks.render import RenderResult, RenderTask, render_on_screen
from lenskeep.studio.tidy import queue_when_due
from lenskeep.studio.wanting import Wanting, read_override, settle_scene, wanted_by
from lenskeep.work.engines.carried import InFile, OutFolder, land
from lenskeep.work.runner import Runner

KIND = "apply"
TIDYING = "sweep"
WAIT_SECONDS = 4.0
"""How long a page waits for the picture of a frame that was changed on it; then it shows the one before."""
NO_MASKS = "{} has no masks, or some of their files are gone. Find its masks again, then resume."


class Given(BaseModel):
    """What a frame's item keeps of the moment it was queued in."""

    override: FrameOverride = FrameOverride()
    base: Base = ""


def look_of_shoot(library: Library, shoot_id: int) -> Look | None:
    """The look of a shoot's first scene."""
    scene = scenes.first_scene(library.db, shoot_id)
    return kept.look(library.db, scene.id) if scene else None


def pinned(look: Look | None) -> dict[str, Any]:
    """A look as a job keeps it."""
    if look is None:
        return {}
    layers = [{"id": e.id, "version": e.version.id, "strength": e.strength, "on": e.enabled} for e in look.layers]
    return {"layers": layers}


def pinned_look(library: Library, job: jobs.Job) -> Look | None:
    """The look that a job was queued with; of a job of an older library, the shoot's. Raises UserProblem when it is
    gone from the book.
    """
    held = job.options.get("look")
    if held is None:
        return look_of_shoot(library, job.shoot_id or 0)
    if not held:
        return None
    layers = []
    for each in held.get("layers") or [held]:  # one layer alone was kept by itself before there were several
        version = recipes.version(library.db, int(each["version"]))
        if version is None:
            raise UserProblem("The recipe that this was queued with was removed from the book. Start it anew.")
        layers.append(LookLayer(int(each.get("id", 0)), version, float(each["strength"]), bool(each.get("on", True))))
    return Look(tuple(layers))


def give_look(
    library: Library, shoot_id: int, version_id: int, strength: float, frame_ids: list[int] | None = None
) -> int:
    """Give every scene of a shoot a recipe's version at a strength 0…2 and queue its frames, or only some; returns the
    job. Raises UserProblem.
    """
    version = recipes.version(library.db, version_id)
    if version is None:
        raise UserProblem("This version of the recipe is gone. Choose another one.")
    if not 0.0 <= strength <= 2.0:
        raise UserProblem("The strength of a look goes from 0 to 200 %.")
    _ = version.recipe  # an unreadable one is refused here
    with library.db.writing():
        for scene in scenes.scenes(library.db, shoot_id):
            kept.give_look(library.db, scene.id, [(version_id, strength)])
            settle_scene(library.db, scene.id)
        for job in jobs.jobs(library.db, shoot_id):
            if job.kind == KIND and job.active:
                jobs.cancel(library.db, job.id)
        look = look_of_shoot(library, shoot_id)
        assert look is not None
        return queue_frames(library, shoot_id, look, frame_ids)


def queue_frames(
    library: Library,
    shoot_id: int,
    look: Look,
    frame_ids: list[int] | None,
    also_failed: bool = False,
    lane: int = jobs.BATCH,
) -> int:
    """Queue rendering frames of a shoot, all or some, with the look and each frame's own changes as they are now."""
    with library.db.writing():
        chosen = None if frame_ids is None else set(frame_ids)
        rows = frames.to_render(library.db, shoot_id, chosen, also_failed)
        check_room(library.home, len(rows) * SCREEN_BYTES, "applying the look")
        given = {i: _given_text(override, base) for i, override, base in rows}
        return jobs.add_job(library.db, KIND, shoot_id, list(given), {"look": pinned(look)}, given, lane)


def _given_text(override: str, base: Base) -> str:
    """What an item keeps; most frames change nothing, which needs no reading."""
    own = FrameOverride() if override == "{}" else read_override(override)
    return Given(override=own, base=base).model_dump_json()


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
    """Change one frame's strength, or one step on it; it wants another picture from then on (``render_now``).

    ``seen`` is what the step had on this frame where the change was made. Raises UserProblem; ChangedMeanwhile when the
    step has something else by now.
    """
    with library.db.writing():
        frame = frame_there(library, frame_id)
        override = frame.override.with_look_kept() if reset else frame.override
        if strength is not None:
            override = override.model_copy(update={"strength": FrameOverride(strength=strength).strength})
        if step_id is not None and step is not None:
            if seen is not None and override.of_step("", step_id) != seen:
                raise ChangedMeanwhile("This step was changed on this frame meanwhile. Look again, then change it.")
            steps = {k: v for k, v in {**override.steps, step_id: step}.items() if v != StepOverride()}
            override = override.model_copy(update={"steps": steps})
        frames.set_override(library.db, frame_id, override, wanted_by(library.db, frame, override))
        return frame_there(library, frame_id)


def queue_now(library: Library, frame_id: int) -> int | None:
    """Queue one frame before everything else; None without a look or masks, or when it is finished."""
    frame = frame_there(library, frame_id)
    look = kept.look(library.db, frame.scene_id)
    if look is None or look.unreadable or not frame.stale:
        return None
    with library.db.writing():
        return queue_frames(library, frame.shoot_id, look, [frame_id], also_failed=True, lane=jobs.NOW)


def bring_up_to_date(library: Library, runner: Runner, frame_id: int) -> None:
    """Have one frame's picture made before everything else, and wait a moment for it; without a running queue it is
    made here.
    """
    if not runner.alive:
        render_frame(library, frame_id)
        return
    if queue_now(library, frame_id) is None:
        return
    runner.wake()
    end = time.monotonic() + WAIT_SECONDS
    while time.monotonic() < end:
        now = frames.summary(library.db, frame_id)
        if now is None or not now.stale or now.render_problem:
            return
        time.sleep(0.02)


def render_frame(library: Library, frame_id: int) -> None:
    """Bring one frame's finished picture up to date, here and now. Does nothing without a look or masks."""
    frame = frame_there(library, frame_id)
    look = kept.look(library.db, frame.scene_id)
    if look is None or not library.computed(frame.content, frame.found_by).holds(frame.found_facts):
        return
    want = Wanting(look)
    key = want.key(frame.content, frame.override, frame.found_by)
    result = render_on_screen(_task(library, frame, want, frame.override, key))
    finished.keep_result(library.db, frame_id, key, list(result.missing))  # else a later change renders its own


def plan_of_frame(library: Library, frame: FrameRow) -> Plan:
    """What a frame's look and its own changes do to it; nothing without a look. Raises UnreadableRecipe."""
    look = kept.look(library.db, frame.scene_id)
    return Plan(()) if look is None else Wanting(look).plan(frame.override)


def _task(library: Library, frame: FrameRow, want: Wanting, override: FrameOverride, key: str) -> RenderTask:
    assert frame.found_facts is not None
    plan, computed = want.plan(override), library.computed(frame.content, frame.found_by)
    picture = library.result(key)
    assets = library.asset_files(plan.assets())
    files = files_of(computed, frame.content, frame.found_facts, assets, override.repairs)
    out = OutFolder(picture.parent)
    return RenderTask(InFile(computed.working), files, plan, out, picture.name, library.tile(key).name)


def frame_there(library: Library, frame_id: int) -> FrameRow:
    """A frame with all that is known of it. Raises UserProblem when it is gone."""
    frame = frames.frame(library.db, frame_id)
    if frame is None:
        raise UserProblem("This frame is no longer in the library.")
    return frame


def given_of(item: jobs.Item, frame: FrameRow) -> Given:
    """What an item was queued with; of a job of an older library, what the frame has now."""
    if item.given == "{}":
        return Given(override=frame.override, base=frame.raw_base)
    return Given.model_validate_json(item.given)


class JobLooks:
    """The looks that jobs were queued with, each read once for all of its items."""

    def __init__(self, library: Library) -> None:
        @lru_cache(maxsize=8)
        def look(job_id: int) -> tuple[Look | None, Wanting | None]:
            job = jobs.job(library.db, job_id)
            found = pinned_look(library, job) if job else None
            return found, Wanting(found) if found else None

        self._look = look

    def of(self, job: jobs.Job) -> tuple[Look | None, Wanting | None]:
        """Raises UserProblem, UnreadableRecipe."""
        if job.options.get("look") is None:  # of an older library: the shoot's, as it is now
            return self._look.__wrapped__(job.id)
        return self._look(job.id)


class Applying:
    """Handler of "apply" jobs."""

    run: Callable[[Any], Any] = staticmethod(render_on_screen)

    def __init__(self, library: Library) -> None:
        self.library = library
        self._looks = JobLooks(library)

    def _wanted(self, job: jobs.Job, item: jobs.Item, frame: FrameRow) -> tuple[Wanting, Given, str] | None:
        _, want = self._looks.of(job)
        if want is None:
            return None
        own = given_of(item, frame)
        return want, own, want.key(frames.content_of(frame.sha256, own.base), own.override, frame.found_by)

    def prepare(self, job: jobs.Job, item: jobs.Item) -> RenderTask | None:
        frame = frames.frame(self.library.db, item.frame_id or 0)
        if frame is None or (wanted := self._wanted(job, item, frame)) is None:
            return None
        want, own, key = wanted
        if own.base != frame.raw_base:
            return None  # the raw file is brought to a picture in another way by now, and rendered for that
        if not frame.found_by or not self.library.computed(frame.content, frame.found_by).holds(frame.found_facts):
            findings.mark_waiting(self.library.db, frame.id)
            raise UserProblem(NO_MASKS.format(frame.file_name))
        there = self.library.result(key).is_file() and self.library.tile(key).is_file()
        if frame.result_key == key and there:
            finished.set_render_problem(self.library.db, frame.id, "")
            return None
        return _task(self.library, frame, want, own.override, key)

    def record(self, job: jobs.Job, item: jobs.Item, result: RenderResult) -> None:
        frame = frames.frame(self.library.db, item.frame_id or 0)
        wanted = self._wanted(job, item, frame) if frame else None
        if frame is None or wanted is None:
            return
        key = wanted[2]
        land(result.made, self.library.result(key).parent)
        # look and frame may have changed meanwhile; then the file waits under its own key and is not its result
        if self.library.result(key).is_file():
            finished.keep_result(self.library.db, frame.id, key, list(result.missing))

    def failed(self, job: jobs.Job, item: jobs.Item, message: str) -> None:
        """The frame keeps its last result, and says why there is no newer one."""
        if item.frame_id is not None:
            finished.set_render_problem(self.library.db, item.frame_id, message)

    def finish(self, job: jobs.Job) -> str:
        queue_when_due(self.library, TIDYING)
        return f"The look is on {job.done} of {job.total} frames."

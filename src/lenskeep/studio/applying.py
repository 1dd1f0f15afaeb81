"""Rendering frames with their looks: the jobs, and one frame here and now."""

import time
from collections.abc import Callable, Collection
from typing import Any

from lenskeep.core.plan import Plan
from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.overrides import FrameOverride
from lenskeep.store import findings, finished, frames, jobs, looks
from lenskeep.store.frames import FrameRow
from lenskeep.store.looks import NO_LOOK
from lenskeep.studio.cleaned import clean_files
from lenskeep.studio.library import Library
from lenskeep.studio.pinned import Given, JobLooks, given_of, given_text, pinned
from lenskeep.studio.space import SCREEN_BYTES, check_room
from lenskeep.studio.tasks.frame_files import files_of
from lenskeep.studio.tasks.render import RenderResult, RenderTask, render_on_screen
from lenskeep.studio.tidy import queue_when_due
from lenskeep.studio.wanting import Wanting
from lenskeep.work.engines.carried import InFile, OutFolder, land
from lenskeep.work.runner import Runner

KIND = "apply"
TIDYING = "sweep"
WAIT_SECONDS = 0.6
"""How long an answer waits for the picture of a frame; then it says that there is none yet, and is asked again."""
NO_MASKS = "{} has no masks, or some of their files are gone. Find its masks again, then resume."


def queue_frames(
    library: Library,
    shoot_id: int,
    frame_ids: Collection[int] | None,
    also_failed: bool = False,
    lane: int = jobs.BATCH,
) -> int:
    """Queue rendering frames of a shoot, all or some, with their scenes' looks and their own changes as they are now;
    returns the job. Raises UserProblem when there is no room for them.
    """
    with library.db.writing():
        chosen = None if frame_ids is None else set(frame_ids)
        rows = frames.to_render(library.db, shoot_id, chosen, also_failed)
        check_room(library.home, len(rows) * SCREEN_BYTES, "applying the look")
        given = {i: given_text(override, base, scene, turn) for i, override, base, scene, turn in rows}
        options = pinned(library, (scene for _, _, _, scene, _ in rows))
        return jobs.add_job(library.db, KIND, shoot_id, list(given), options, given, lane)


def queue_now(library: Library, frame_id: int) -> int | None:
    """Queue one frame before everything else; None when it is finished, or nothing is to be made of it."""
    frame = frame_there(library, frame_id)
    if not frame.stale or frame.wanted_key == "?":
        return None
    if frame.render_problem:
        finished.set_render_problem(library.db, frame_id, "")  # that was of the picture before
    return queue_frames(library, frame.shoot_id, [frame_id], also_failed=True, lane=jobs.NOW)


def queue_stale(library: Library, shoot_id: int, frame_ids: Collection[int], lane: int = jobs.NEXT) -> int | None:
    """Have the pictures of frames made that want others than they have; None when there are none."""
    stale = [f.id for f in frames.some(library.db, frame_ids) if f.stale and f.wanted_key != "?"]
    return queue_frames(library, shoot_id, stale, also_failed=True, lane=lane) if stale else None


def have_made(library: Library, runner: Runner, frame_id: int) -> None:
    """Have one frame's picture made before everything else, without waiting for it; without a running queue it is made
    here.
    """
    if not runner.alive:
        render_frame(library, frame_id)
    else:
        ask_for(library, runner, frame_id)


def ask_for(library: Library, runner: Runner, frame_id: int) -> None:
    """Queue one frame before everything else, if anything is to be made of it, and have the queue begin at once."""
    if queue_now(library, frame_id) is not None:
        runner.wake()


def wait_for_picture(library: Library, runner: Runner, frame_id: int) -> None:
    """Wait a moment for the picture of a frame that is queued."""
    if not runner.alive:
        render_frame(library, frame_id)
        return
    end = time.monotonic() + WAIT_SECONDS
    while time.monotonic() < end:
        now = frames.summary(library.db, frame_id)
        if now is None or not now.awaited:
            return
        time.sleep(0.02)


def render_frame(library: Library, frame_id: int) -> None:
    """Bring one frame's finished picture up to date, here and now. Does nothing where none is wanted, or no masks are
    there.
    """
    frame = frame_there(library, frame_id)
    if not frame.wanted_key or not library.computed(frame.content, frame.found_by).holds(frame.found_facts):
        return
    want = wanting_of(library, frame)
    key = want.key(frame.content, frame.override, frame.found_by)
    result = render_on_screen(task_of(library, frame, want, frame.override, key))
    keep_result(library, frame_id, key, result)  # else a later change renders its own


def keep_result(library: Library, frame_id: int, key: str, result: RenderResult) -> None:
    """A frame's picture is there, with what was found on it."""
    pulled = "" if result.pull is None else " ".join(f"{v:.2f}" for v in result.pull.model_dump().values())
    finished.keep_result(library.db, frame_id, key, list(result.missing), list(result.guards), pulled)


def wanting_of(library: Library, frame: FrameRow) -> Wanting:
    """What the look of a frame's scene asks for; nothing without one."""
    return Wanting(looks.look(library.db, frame.scene_id) or NO_LOOK)


def plan_of_frame(library: Library, frame: FrameRow) -> Plan:
    """What a frame's look and its own changes do to it; nothing without a look. Raises UnreadableRecipe."""
    return wanting_of(library, frame).plan(frame.override)


def frame_there(library: Library, frame_id: int) -> FrameRow:
    """A frame with all that is known of it. Raises UserProblem when it is gone."""
    frame = frames.frame(library.db, frame_id)
    if frame is None:
        raise UserProblem("This frame is no longer in the library.")
    return frame


def task_of(library: Library, frame: FrameRow, want: Wanting, override: FrameOverride, key: str) -> RenderTask:
    """What makes the finished picture ``key`` of a frame with masks at screen size."""
    assert frame.found_facts is not None
    plan, computed = want.plan(override), library.computed(frame.content, frame.found_by)
    picture = library.result(key)
    assets = library.asset_files(plan.assets())
    clean = clean_files(library, frame, override.clean)
    files = files_of(computed, frame.content, frame.found_facts, assets, override, frame.raw_base, clean)
    out = OutFolder(picture.parent)
    return RenderTask(InFile(computed.working), files, plan, out, picture.name, library.tile(key).name)


class Applying:
    """Handler of "apply" jobs."""

    run: Callable[[Any], Any] = staticmethod(render_on_screen)

    def __init__(self, library: Library) -> None:
        self.library = library
        self._looks = JobLooks(library)

    def _wanted(self, job: jobs.Job, item: jobs.Item, frame: FrameRow) -> tuple[Wanting, Given, str] | None:
        own = given_of(item, frame)
        look, want = self._looks.of(job, own.scene)
        if look is None and not own.override.draws:
            return None
        return want, own, want.key(frames.content_of(frame.sha256, own.base, own.turn), own.override, frame.found_by)

    def prepare(self, job: jobs.Job, item: jobs.Item) -> RenderTask | None:
        frame = frames.frame(self.library.db, item.frame_id or 0)
        if frame is None or (wanted := self._wanted(job, item, frame)) is None:
            return None
        want, own, key = wanted
        if (own.base, own.turn) != (frame.raw_base, frame.turn):
            return None  # the file is brought to a picture in another way by now, and rendered for that
        if not frame.found_by or not self.library.computed(frame.content, frame.found_by).holds(frame.found_facts):
            findings.mark_waiting(self.library.db, frame.id)
            raise UserProblem(NO_MASKS.format(frame.file_name))
        there = self.library.result(key).is_file() and self.library.tile(key).is_file()
        if frame.result_key == key and there:
            finished.set_render_problem(self.library.db, frame.id, "")
            return None
        return task_of(self.library, frame, want, own.override, key)

    def record(self, job: jobs.Job, item: jobs.Item, result: RenderResult) -> None:
        frame = frames.frame(self.library.db, item.frame_id or 0)
        wanted = self._wanted(job, item, frame) if frame else None
        if frame is None or wanted is None:
            return
        key = wanted[2]
        land(result.made, self.library.result(key).parent)
        # look and frame may have changed meanwhile; then the file waits under its own key and is not its result
        if self.library.result(key).is_file():
            keep_result(self.library, frame.id, key, result)

    def failed(self, job: jobs.Job, item: jobs.Item, message: str) -> None:
        """The frame keeps its last result, and says why there is no newer one."""
        if item.frame_id is not None:
            finished.set_render_problem(self.library.db, item.frame_id, message)

    def finish(self, job: jobs.Job) -> str:
        queue_when_due(self.library, TIDYING)
        return f"The look is on {job.done} of {job.total} frames."

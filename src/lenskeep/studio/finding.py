"""Finding masks on every frame of a shoot: the job, and how it is queued."""

from collections.abc import Callable
from datetime import datetime
from typing import Any

from lenskeep.core.detect.find import DETECTOR
from lenskeep.core.detect.neighbours import out_of_line
from lenskeep.core.facts import Facts
from lenskeep.files.photo import Base
from lenskeep.store import frames, jobs, recipes, shoots
from lenskeep.studio import looks, tasks
from lenskeep.studio.library import Library

KIND = "find"
BURST_SECONDS = 12.0
"""Frames this near in time show the same thing; a subject that jumps between them was found wrongly."""


def queue_finding(library: Library, shoot_id: int) -> int | None:
    """Queue the frames that still need their masks; None when there are none or it is under way already."""
    todo = [f.id for f in frames.frames(library.db, shoot_id, DETECTOR) if f.state != "ready" or f.facts is None]
    if not todo:
        return None
    active = jobs.active_job(library.db, shoot_id, KIND)
    if active is not None and active.state == "queued":
        jobs.cancel(library.db, active.id)  # a longer list takes its place
    return jobs.add_job(library.db, KIND, shoot_id, todo)


def set_raw_base(library: Library, shoot_id: int, base: Base) -> None:
    """Bring the raw files of a shoot to pictures in another way: find their masks again, then render its look again."""
    frames.set_base(library.db, shoot_id, base)
    frames.drop_results(library.db, shoot_id)
    queue_finding(library, shoot_id)
    look = recipes.look(library.db, shoot_id)
    if look is not None:
        looks.give_look(library, shoot_id, look.version.id, look.strength)


def compare_neighbours(library: Library, shoot_id: int) -> None:
    """Note on each frame whether its subject is out of line with those of the frames taken just before and after."""
    found = [(f, f.facts) for f in frames.frames(library.db, shoot_id, DETECTOR) if f.facts is not None]
    taken = [moment(f.taken_at) for f, _ in found]
    for i, (frame, facts) in enumerate(found):
        when = taken[i]
        near = [
            other
            for k, (_, other) in enumerate(found)
            if k != i and when is not None and taken[k] is not None and abs(taken[k] - when) <= BURST_SECONDS
        ]
        words = out_of_line(facts, near)
        if words != facts.out_of_line:
            frames.keep_facts(library.db, frame.content, facts.model_copy(update={"out_of_line": words}))


def moment(text: str | None) -> float | None:
    """Seconds of an ISO time; None without one."""
    try:
        return datetime.fromisoformat(text).timestamp() if text else None
    except ValueError:
        return None


class Finding:
    """Handler of "find" jobs."""

    def __init__(self, library: Library) -> None:
        self.library = library

    @property
    def run(self) -> Callable[[Any], Any]:
        return tasks.find_on_frame

    def prepare(self, job: jobs.Job, frame_id: int | None) -> tasks.FindTask | None:
        frame = frames.frame(self.library.db, frame_id or 0, DETECTOR)
        if frame is None:
            return None
        computed = self.library.computed(frame.content)
        if frame.facts is not None and computed.complete:
            frames.set_state(self.library.db, frame.id, "ready")
            return None
        original = self.library.original(frame.sha256, frame.suffix)
        return tasks.FindTask(original, frame.file_name, frame.sha256, computed, frame.base)

    def record(self, job: jobs.Job, frame_id: int | None, result: Facts) -> None:
        frame = frames.frame(self.library.db, frame_id or 0, DETECTOR)
        if frame is None:
            return
        frames.keep_facts(self.library.db, frame.content, result)
        frames.set_state(self.library.db, frame.id, "ready")
        shoot = shoots.shoot(self.library.db, frame.shoot_id)
        if shoot is not None and shoot.key_frame_id is None:
            shoots.set_key_frame(self.library.db, frame.shoot_id, frame.id)

    def failed(self, job: jobs.Job, frame_id: int | None, message: str) -> None:
        if frame_id is not None:
            frames.set_state(self.library.db, frame_id, "failed", message)

    def finish(self, job: jobs.Job) -> str:
        compare_neighbours(self.library, job.shoot_id)
        return f"Masks found on {job.done} of {job.total} frames."

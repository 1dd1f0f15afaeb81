"""Finding masks on every frame of a shoot: the job, and how it is queued."""

from collections.abc import Callable
from datetime import datetime
from typing import Any

from lenskeep.core.detect.find import DETECTOR
from lenskeep.core.detect.neighbours import out_of_line
from lenskeep.core.facts import Facts
from lenskeep.files.reading.photo import Base
from lenskeep.store import frames, jobs, recipes, shoots
from lenskeep.store.frames import FrameRow
from lenskeep.studio import looks
from lenskeep.studio.library import Library
from lenskeep.studio.space import FOUND_BYTES, check_room
from lenskeep.studio.tasks import frame as tasks

KIND = "find"
BURST_SECONDS = 12.0
"""Frames this near in time show the same thing; a subject that jumps between them was found wrongly."""


def wants_finding(library: Library, frame: FrameRow) -> bool:
    """Whether its masks are not found, or some of their files are gone from the disk."""
    return frame.state != "ready" or not library.computed(frame.content).holds(frame.facts)


def queue_finding(library: Library, shoot_id: int, everything: bool = False) -> int | None:
    """Queue the frames that still need their masks, or ``everything`` anew; None when there are none or it is under way
    already. Raises UserProblem when the disk has no room for it.
    """
    with library.db.writing():
        rows = frames.frames(library.db, shoot_id, DETECTOR)
        todo = [f.id for f in rows if everything or wants_finding(library, f)]
        if not todo:
            return None
        check_room(library.home, len(todo) * FOUND_BYTES, "finding masks")
        active = jobs.active_job(library.db, shoot_id, KIND)
        if active is not None and active.state == "queued":
            jobs.cancel(library.db, active.id)  # a longer list takes its place
        if everything:
            frames.forget_facts(library.db, todo, DETECTOR)
        return jobs.add_job(library.db, KIND, shoot_id, todo)


def try_again(library: Library, shoot_id: int) -> None:
    """Try everything once more that failed on a shoot's frames: finding, and rendering the look."""
    queue_finding(library, shoot_id)
    failed = [f.id for f in frames.frames(library.db, shoot_id, DETECTOR) if f.render_problem or f.state == "failed"]
    look = recipes.look(library.db, shoot_id)
    if look is not None and failed:
        looks.queue_frames(library, shoot_id, look, failed, also_failed=True)


def set_raw_base(library: Library, shoot_id: int, base: Base) -> None:
    """Bring the raw files of a shoot to pictures in another way: find their masks again, then render its look again."""
    with library.db.writing():
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
            if k != i and when is not None and (then := taken[k]) is not None and abs(then - when) <= BURST_SECONDS
        ]
        words = out_of_line(facts, near)
        if words != facts.out_of_line:
            frames.keep_facts(library.db, frame.content, facts.model_copy(update={"out_of_line": words}))


def moment(text: str | None) -> float | None:
    """Seconds of an ISO time; None without one."""
    try:
        return datetime.fromisoformat(text).timestamp() if text else None
    except (ValueError, OverflowError):
        return None


class Finding:
    """Handler of "find" jobs."""

    def __init__(self, library: Library) -> None:
        self.library = library

    @property
    def run(self) -> Callable[[Any], Any]:
        return tasks.find_on_frame

    def prepare(self, job: jobs.Job, item: jobs.Item) -> tasks.FindTask | None:
        frame = frames.frame(self.library.db, item.frame_id or 0, DETECTOR)
        if frame is None:
            return None
        computed = self.library.computed(frame.content)
        if computed.holds(frame.facts):
            frames.set_state(self.library.db, frame.id, "ready")
            return None
        original = self.library.original(frame.sha256, frame.suffix)
        return tasks.FindTask(original, frame.file_name, frame.sha256, computed, frame.base)

    def record(self, job: jobs.Job, item: jobs.Item, result: Facts) -> None:
        frame = frames.frame(self.library.db, item.frame_id or 0, DETECTOR)
        if frame is None:
            return
        frames.keep_facts(self.library.db, frame.content, result)
        frames.set_state(self.library.db, frame.id, "ready")
        shoot = shoots.shoot(self.library.db, frame.shoot_id)
        if shoot is not None and shoot.key_frame_id is None:
            shoots.set_key_frame(self.library.db, frame.shoot_id, frame.id)

    def failed(self, job: jobs.Job, item: jobs.Item, message: str) -> None:
        if item.frame_id is not None:
            frames.set_state(self.library.db, item.frame_id, "failed", message)

    def finish(self, job: jobs.Job) -> str:
        if job.shoot_id is not None:
            compare_neighbours(self.library, job.shoot_id)
        return f"Masks found on {job.done} of {job.total} frames."

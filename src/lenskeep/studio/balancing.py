"""Balancing many frames by measure, as a job: each is measured by itself, and then all change as one deed.

What was measured lies in the library until then, so that a kill costs nothing and nothing changes half.
"""

import json
from collections.abc import Callable, Collection
from typing import Any

from lenskeep.core.problems import UserProblem
from lenskeep.store import frames, jobs
from lenskeep.studio import basing
from lenskeep.studio.applying import queue_stale
from lenskeep.studio.gathered import Gathered
from lenskeep.studio.library import Library
from lenskeep.studio.tasks.balance import BalanceTask, balance_frame
from lenskeep.work.engines.carried import InFile

KIND = "balance"
MEASURED = Gathered(KIND, "measured")


def queue(library: Library, shoot_id: int, frame_ids: Collection[int]) -> int:
    """Queue measuring frames of a shoot; returns the job."""
    return jobs.add_job(library.db, KIND, shoot_id, list(frame_ids), lane=jobs.NEXT)


class Balancing:
    """Handler of "balance" jobs: a frame an item."""

    run: Callable[[Any], Any] = staticmethod(balance_frame)

    def __init__(self, library: Library) -> None:
        self.library = library

    def prepare(self, job: jobs.Job, item: jobs.Item) -> BalanceTask | None:
        frame = frames.summary(self.library.db, item.frame_id or 0)
        if frame is None:
            return None
        working = basing.working_of(self.library, frame)
        return BalanceTask(InFile(working), basing.camera_curve(self.library, frame))

    def record(self, job: jobs.Job, item: jobs.Item, result: dict[str, float]) -> None:
        MEASURED.keep(self.library, job, item.frame_id or 0, json.dumps(result).encode())

    def failed(self, job: jobs.Job, item: jobs.Item, message: str) -> None:
        """The frame stays as it is; the item keeps the reason."""

    def finish(self, job: jobs.Job) -> str:
        """Change all that were measured. Raises UserProblem where none could be."""
        values = {i: json.loads(data) for i, data in MEASURED.read(self.library, job).items()}
        own = {f.id: f for f in frames.some(self.library.db, values)}
        if not own or job.shoot_id is None:
            raise UserProblem("None of these frames could be measured. Find their masks again.")
        bases = {i: f.own_base.model_copy(update=values[i]) for i, f in own.items()}
        with self.library.db.writing():
            words = f"balancing {len(bases):,} frames by measure"
            changed = basing.set_bases(self.library, job.shoot_id, bases, words)
            queue_stale(self.library, job.shoot_id, changed)
        MEASURED.drop(self.library, job)
        return f"{len(changed):,} of {job.total:,} frames were balanced; Undo on the wall takes all of it back."

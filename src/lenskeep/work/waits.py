"""Jobs that wait by themselves, while all others go on: for room on a disk that they alone write to, or for an earlier
one into the same folder.
"""

import time
from pathlib import Path

from lenskeep.files.archive import free_space, nearest_there
from lenskeep.store import claims, jobs
from lenskeep.store.database import Database, full_words

PAUSES = (2.0, 5.0, 15.0)
"""Seconds between tries."""
ENOUGH_BYTES = 20_000_000
"""A library whose disk has less than this has none left for anybody."""


def same_disk(one: Path, other: Path) -> bool:
    """Whether two folders lie, or would lie, on one disk."""
    return nearest_there(one).stat().st_dev == nearest_there(other).stat().st_dev


class Waits:
    """Which jobs of a library wait, and until when."""

    def __init__(self, db: Database) -> None:
        self._db = db
        self._until: dict[int, tuple[float, int]] = {}

    def for_room(self, job: jobs.Job) -> bool:
        """A job ran out of room: it waits, and says for which disk. False where it writes to no other disk than the
        library is on, or that one is full itself.
        """
        folder, home = Path(job.target), self._db.path.parent
        if not job.target or same_disk(folder, home) or free_space(home) < ENOUGH_BYTES:
            return False
        _, tries = self._until.get(job.id, (0.0, 0))
        self._until[job.id] = (time.monotonic() + PAUSES[min(tries, len(PAUSES) - 1)], tries + 1)
        jobs.say(self._db, job.id, full_words(folder))
        return True

    def holds(self, waiting: claims.Waiting) -> bool:
        """Whether a job waits still; says for what."""
        if waiting.behind and waiting.job_id not in self._until:
            self._until[waiting.job_id] = (0.0, 0)
            jobs.say(self._db, waiting.job_id, "Waits for an earlier hand-over into the same folder.")
        return bool(waiting.behind) or self.for_now(waiting.job_id)

    def for_now(self, job_id: int) -> bool:
        """Whether a job waits for room."""
        return job_id in self._until and time.monotonic() < self._until[job_id][0]

    def over(self, job_id: int) -> None:
        """Something of a job was done: there is room."""
        if self._until.pop(job_id, None) is not None:
            jobs.say(self._db, job_id, "")

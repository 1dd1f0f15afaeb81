"""What is under way: items claimed in bunches, lane by lane, from all jobs that run, and recorded as they land."""

import math
import sqlite3
import time
from collections import Counter
from collections.abc import Callable
from concurrent.futures import Future
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from lenskeep.core.problems import UserProblem
from lenskeep.files.problems import no_room
from lenskeep.store import jobs
from lenskeep.store.database import Database
from lenskeep.work.bunch import Bunch, Outcome, run_bunch
from lenskeep.work.defects import defect
from lenskeep.work.engines import Engine, WorkerDied
from lenskeep.work.handlers import Handler

BUNCH_SECONDS = 0.2
"""About how long a bunch takes: items that are quicker go several at a time."""
MOST_IN_A_BUNCH = 24


class DiskFull(Exception):
    """There is no room left; what was under way is put back."""


@dataclass
class Flight:
    """Items of one job under way together."""

    job: jobs.Job
    items: list[jobs.Item]
    begun: float = field(default_factory=time.monotonic)


class Flights:
    """Everything under way for one library."""

    def __init__(self, db: Database, handlers: dict[str, Handler], engine: Engine, landed: Callable[[], None]) -> None:
        """``landed`` is called, from some thread, whenever something has ended."""
        self._db, self._handlers, self._engine, self._landed = db, handlers, engine, landed
        self._up: dict[Future[Any], Flight] = {}
        self._seconds: dict[str, float] = {}
        self._turns: dict[int, int] = {}

    def __len__(self) -> int:
        return len(self._up)

    def of_job(self, job_id: int) -> int:
        """How many items of a job are under way."""
        return sum(len(f.items) for f in self._up.values() if f.job.id == job_id)

    def fill(self) -> None:
        """Start bunches until every worker has one: lane by lane, jobs of one lane in turn. Suspects run alone, when
        their job has nothing else left.
        """
        while len(self._up) < self._engine.slots() + self._engine.ahead():
            if any(item.suspect for flight in self._up.values() for item in flight.items):
                return
            waiting = jobs.waiting(self._db)
            lonely = [w for w in waiting if w.only_suspects and not self.of_job(w.job_id)]
            if lonely and self._up:
                return  # what is under way lands first
            if not self._start(lonely or [w for w in waiting if not w.only_suspects], alone=bool(lonely)):
                return

    def _start(self, waiting: list[jobs.Waiting], alone: bool) -> bool:
        """Claim and start one bunch: of the first lane, of the job whose turn it is. False when nothing can begin."""
        busy = Counter(flight.job.id for flight in self._up.values())
        order = sorted(waiting, key=lambda w: (w.lane, busy[w.job_id], self._turns.get(w.job_id, 0), w.job_id))
        for each in order:
            job = jobs.job(self._db, each.job_id)
            size = 0 if job is None else 1 if alone or each.lane == jobs.NOW else self._size(job)
            if job is None or job.kind not in self._handlers:
                continue
            with self._db.writing():
                items = jobs.claim(self._db, job.id, size, alone)
                ready, tasks = self._prepared(job, items)
            if ready:
                self._submit(job, ready, tasks)
            if items:
                self._turns[job.id] = max(self._turns.values(), default=0) + 1
                return True
        return False

    def _size(self, job: jobs.Job) -> int:
        """How many items go together: by how long this kind takes, and so that all workers have some at the end."""
        quick = BUNCH_SECONDS / max(self._seconds.get(job.kind, BUNCH_SECONDS), 1e-4)
        share = math.ceil((job.total - job.done - job.failed - job.running) / self._engine.slots())
        return max(1, min(int(quick), MOST_IN_A_BUNCH, share))

    def _prepared(self, job: jobs.Job, items: list[jobs.Item]) -> tuple[list[jobs.Item], list[Any]]:
        """The items that have something to do, and their tasks; the others are finished or failed."""
        handler, ready, tasks = self._handlers[job.kind], [], []
        for item in items:
            try:
                task = handler.prepare(job, item)
            except UserProblem as problem:
                self._fail(job, item, str(problem))
                continue
            except Exception as error:
                if isinstance(error, sqlite3.Error) or no_room(error):
                    raise
                self._fail(job, item, _went_wrong(item, error))
                continue
            if task is None:
                jobs.finish_item(self._db, item.id)
            else:
                ready.append(item)
                tasks.append(task)
        return ready, tasks

    def _submit(self, job: jobs.Job, items: list[jobs.Item], tasks: list[Any]) -> None:
        future = self._engine.submit(run_bunch, Bunch(self._handlers[job.kind].run, tuple(tasks)))
        self._up[future] = Flight(job, items)
        future.add_done_callback(lambda _: self._landed())

    def land(self) -> bool:
        """Record what has ended; returns whether something had. Raises DiskFull, sqlite3.Error."""
        ended = [future for future in self._up if future.done()]
        for future in ended:
            if future in self._up:
                self._land(self._up.pop(future), future)
        return bool(ended)

    def _land(self, flight: Flight, future: "Future[Any]") -> None:
        try:
            outcomes: list[Outcome] = future.result()
        except WorkerDied as died:
            self._after_crash(flight, died.all_lost)
            return
        except Exception as error:
            outcomes = [Outcome(error=error) for _ in flight.items]
        seconds = (time.monotonic() - flight.begun) / len(flight.items)
        before = self._seconds.get(flight.job.kind, seconds)
        self._seconds[flight.job.kind] = 0.7 * before + 0.3 * seconds
        try:
            with self._db.writing():
                for item, outcome in zip(flight.items, outcomes, strict=True):
                    self._record(flight.job, item, outcome)
        except (DiskFull, sqlite3.Error):
            raise
        except Exception as error:
            if no_room(error):
                raise DiskFull from error
            self._record_one_by_one(flight, outcomes)

    def _record_one_by_one(self, flight: Flight, outcomes: list[Outcome]) -> None:
        """A result that can't be written down costs its own item."""
        for item, outcome in zip(flight.items, outcomes, strict=True):
            try:
                with self._db.writing():
                    self._record(flight.job, item, outcome)
            except (DiskFull, sqlite3.Error):
                raise
            except Exception as error:
                if no_room(error):
                    raise DiskFull from error
                words = str(error) if isinstance(error, UserProblem) else _went_wrong(item, error)
                self._fail(flight.job, item, words)

    def _record(self, job: jobs.Job, item: jobs.Item, outcome: Outcome) -> None:
        error = outcome.error
        if error is None:
            self._handlers[job.kind].record(job, item, outcome.result)
            jobs.finish_item(self._db, item.id)
        elif isinstance(error, UserProblem):
            self._fail(job, item, str(error))
        elif no_room(error):
            raise DiskFull from error
        elif isinstance(error, OSError):
            self._fail(job, item, f"{Path(error.filename or 'A file').name}: {error.strerror or error}.")
        else:
            self._fail(job, item, _went_wrong(item, error))

    def _fail(self, job: jobs.Job, item: jobs.Item, message: str) -> None:
        with self._db.writing():
            jobs.fail_item(self._db, item.id, message)
            self._handlers[job.kind].failed(job, item, message)

    def _after_crash(self, flight: Flight, all_lost: bool) -> None:
        """A worker died. Alone, the item did it; of several, each is suspected and tried again by itself."""
        lost = [flight, *self._up.values()] if all_lost else [flight]
        items = [item for each in lost for item in each.items]
        if all_lost:
            self._up.clear()
            self._engine.end()
        if len(items) == 1 and items[0].suspect:
            if jobs.note_crash(self._db, items[0].id):
                self._fail(flight.job, items[0], jobs.CRASHED)
            return
        with self._db.writing():
            for item in items:
                jobs.put_back(self._db, item.id, suspect=True)


def _went_wrong(item: jobs.Item, error: BaseException) -> str:
    return f"Something went wrong with this frame ({defect(f'item {item.id}', error)})."

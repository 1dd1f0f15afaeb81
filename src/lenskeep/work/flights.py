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
from lenskeep.store import claims, jobs
from lenskeep.store.database import Database
from lenskeep.work.bunch import Bunch, Outcome, run_bunch
from lenskeep.work.defects import defect
from lenskeep.work.engines import Engine, WorkerDied
from lenskeep.work.handlers import Handler, Receives
from lenskeep.work.waits import Waits

BUNCH_SECONDS = 0.2
"""About how long a bunch takes: items that are quicker go several at a time."""
MOST_IN_A_BUNCH = 24
MOST_KILLS = 8
"""How often a worker may be killed by somebody under one item alone before the item is blamed after all."""


class DiskFull(Exception):
    """There is no room left for the library; what was under way is put back."""


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
        self._killed: Counter[int] = Counter()
        self.waits = Waits(db)

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
            waiting = [w for w in claims.waiting(self._db) if not self.waits.holds(w)]
            lonely = [w for w in waiting if w.only_suspects and not self.of_job(w.job_id)]
            if lonely and self._up:
                return  # what is under way lands first
            if not self._start(lonely or [w for w in waiting if not w.only_suspects], alone=bool(lonely)):
                return

    def _start(self, waiting: list[claims.Waiting], alone: bool) -> bool:
        """Claim and start one bunch: of the first lane, of the job whose turn it is. False when nothing can begin."""
        busy = Counter(flight.job.id for flight in self._up.values())
        order = sorted(waiting, key=lambda w: (w.lane, busy[w.job_id], self._turns.get(w.job_id, 0), w.job_id))
        for each in order:
            job = jobs.job(self._db, each.job_id)
            size = 0 if job is None else 1 if alone or each.lane == jobs.NOW else self._size(job)
            if job is None or job.kind not in self._handlers:
                continue
            items = claims.claim(self._db, job.id, size, alone)
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
        """The items that have something to do, and their tasks; the others are finished or failed. Outside of a
        transaction, since it may take long; whoever is stopped here finds the items claimed, and puts them back.
        """
        handler, ready, tasks, over = self._handlers[job.kind], [], [], []
        for item in items:
            try:
                task = handler.prepare(job, item)
            except UserProblem as problem:
                self._fail(job, item, str(problem))
                continue
            except Exception as error:
                if _of_database(error):
                    raise
                if no_room(error):
                    self._no_room(job, item, error)
                elif jobs.item_there(self._db, item.id):
                    self._fail(job, item, _went_wrong(item, error))
                continue
            if task is None:
                over.append(item.id)
            else:
                ready.append(item)
                tasks.append(task)
        if over:
            with self._db.writing():
                for item_id in over:
                    jobs.finish_item(self._db, item_id)
        return ready, tasks

    def _no_room(self, job: jobs.Job, item: jobs.Item, error: BaseException) -> None:
        """A full disk that a job alone writes to holds that job. Raises DiskFull for the library's own."""
        if not self.waits.for_room(job):
            raise DiskFull from error
        jobs.put_back(self._db, item.id)

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
            self._after_crash(flight, died)
            return
        except Exception as error:
            outcomes = [Outcome(error=error) for _ in flight.items]
        seconds = (time.monotonic() - flight.begun) / len(flight.items)
        before = self._seconds.get(flight.job.kind, seconds)
        self._seconds[flight.job.kind] = 0.7 * before + 0.3 * seconds
        outcomes = [self._received(flight.job, i, o) for i, o in zip(flight.items, outcomes, strict=True)]
        durable = bool(getattr(self._handlers[flight.job.kind], "durable", False))
        try:
            with self._db.writing(durable):
                for item, outcome in zip(flight.items, outcomes, strict=True):
                    self._record(flight.job, item, outcome)
        except Exception as error:
            if isinstance(error, DiskFull) or _of_database(error):
                raise
            self._record_one_by_one(flight, outcomes)

    def _received(self, job: jobs.Job, item: jobs.Item, outcome: Outcome) -> Outcome:
        """What came back, with its files in their place."""
        handler = self._handlers[job.kind]
        if outcome.error is None and isinstance(handler, Receives):
            try:
                handler.receive(job, item, outcome.result)
            except Exception as error:
                if _of_database(error):
                    raise
                return Outcome(error=error)
        return outcome

    def _record_one_by_one(self, flight: Flight, outcomes: list[Outcome]) -> None:
        """A result that can't be written down costs its own item; of what was removed meanwhile nothing is."""
        for item, outcome in zip(flight.items, outcomes, strict=True):
            if not jobs.item_there(self._db, item.id):
                continue
            try:
                with self._db.writing():
                    self._record(flight.job, item, outcome)
            except Exception as error:
                if isinstance(error, DiskFull) or _of_database(error):
                    raise
                if no_room(error):
                    self._no_room(flight.job, item, error)
                elif jobs.item_there(self._db, item.id):
                    words = str(error) if isinstance(error, UserProblem) else _went_wrong(item, error)
                    self._fail(flight.job, item, words)

    def _record(self, job: jobs.Job, item: jobs.Item, outcome: Outcome) -> None:
        error = outcome.error
        if error is None:
            self._handlers[job.kind].record(job, item, outcome.result)
            jobs.finish_item(self._db, item.id)
            self.waits.over(job.id)
        elif isinstance(error, UserProblem):
            self._fail(job, item, str(error))
        elif no_room(error):
            self._no_room(job, item, error)
        elif isinstance(error, OSError):
            self._fail(job, item, f"{Path(error.filename or 'A file').name}: {error.strerror or error}.")
        else:
            self._fail(job, item, _went_wrong(item, error))

    def _fail(self, job: jobs.Job, item: jobs.Item, message: str) -> None:
        with self._db.writing():
            jobs.fail_item(self._db, item.id, message)
            self._handlers[job.kind].failed(job, item, message)

    def _after_crash(self, flight: Flight, died: WorkerDied) -> None:
        """A worker died. Alone, the item did it, unless somebody killed the worker; of several, each is suspected and
        tried again by itself.
        """
        lost = [flight, *self._up.values()] if died.all_lost else [flight]
        items = [item for each in lost for item in each.items]
        if died.all_lost:
            self._up.clear()
            self._engine.end()
        if len(items) == 1 and items[0].suspect:
            self._killed[items[0].id] += died.by_somebody
            if died.by_somebody and self._killed[items[0].id] < MOST_KILLS:
                jobs.put_back(self._db, items[0].id, suspect=True)
            elif jobs.note_crash(self._db, items[0].id):
                self._fail(flight.job, items[0], jobs.CRASHED)
            return
        with self._db.writing():
            for item in items:
                jobs.put_back(self._db, item.id, suspect=True)


def _of_database(error: BaseException) -> bool:
    """Whether the database as a whole does not answer. A row that refers to what was removed meanwhile is no such
    thing: it costs the item that it is about.
    """
    return isinstance(error, sqlite3.Error) and not isinstance(error, sqlite3.IntegrityError)


def _went_wrong(item: jobs.Item, error: BaseException) -> str:
    return f"Something went wrong with this frame ({defect(f'item {item.id}', error)})."

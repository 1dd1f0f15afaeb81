"""Runs the queue: claims items, hands them to an executor, records what comes back. One runner a library at a time."""

import errno
import fcntl
import sqlite3
import threading
import time
from collections.abc import Callable, Iterator
from concurrent.futures import FIRST_COMPLETED, Future, wait
from concurrent.futures.process import BrokenProcessPool
from contextlib import contextmanager
from pathlib import Path
from typing import Any, Protocol

from lenskeep.core.problems import UserProblem
from lenskeep.store import jobs
from lenskeep.store.database import FULL_WORDS, Database, database_words, is_full
from lenskeep.work.defects import defect
from lenskeep.work.executors import Pool, Processes

POLL_SECONDS = 0.4
LANDING_SECONDS = 1.2
"""How long a stop waits for items that are nearly done, so that their work is not thrown away."""
PAUSES = (1.0, 2.0, 5.0, 15.0)
"""Between tries while the disk is full or the database does not answer."""
_FULL = {errno.ENOSPC, errno.EDQUOT}


class ItemProblem(UserProblem):
    """An item that can't be done, with a message for the photographer. Any UserProblem counts as one, too."""


class DiskFull(Exception):
    """There is no room left; what was under way is put back."""


class Handler(Protocol):
    """How one kind of job is done. ``prepare`` and ``record`` run beside the database, ``run`` maybe elsewhere."""

    def prepare(self, job: jobs.Job, item: jobs.Item) -> Any | None:
        """What ``run`` needs; None when there is nothing left to do. Raises UserProblem."""

    @property
    def run(self) -> Callable[[Any], Any]:
        """A function at the top level of a module: payload -> result. It writes files whole or not at all."""

    def record(self, job: jobs.Job, item: jobs.Item, result: Any) -> None:
        """Write the result down; runs in the transaction that finishes the item."""

    def failed(self, job: jobs.Job, item: jobs.Item, message: str) -> None:
        """Note on the frame that its item failed."""

    def finish(self, job: jobs.Job) -> str:
        """After the last item; returns a message. Raises UserProblem when the job as a whole failed."""


Flights = dict[Future[Any], jobs.Item]


class Runner:
    """A thread that runs jobs one after another, each on several items at once."""

    def __init__(
        self,
        db: Database,
        handlers: dict[str, Handler],
        make_executor: Callable[[], Pool],
        workers: int,
        tidy: Callable[[], None] = lambda: None,
    ) -> None:
        """``tidy`` is called before the first job, when no other runner can be writing."""
        self._db, self._handlers, self._workers = db, handlers, workers
        self._tidy = tidy
        self._make_executor = make_executor
        self._executor: Pool | None = None
        self._stop, self._wake = threading.Event(), threading.Event()
        self._thread: threading.Thread | None = None
        self._lock_path: Path = db.path.with_name("runner.lock")
        self.trouble = ""
        """What holds the whole queue up at the moment, in words; "" when nothing does."""

    def start(self) -> None:
        """Run in the background until ``stop``."""
        self._thread = threading.Thread(target=self._background, name="runner", daemon=True)
        self._thread.start()

    def wake(self) -> None:
        """Look for work now."""
        self._wake.set()

    def begin_stop(self) -> None:
        """Ask for an end without waiting for it."""
        self._stop.set()
        self._wake.set()

    def stop(self) -> None:
        """Stop: what lands within a moment is recorded, the rest is put back, and the next start goes on from there."""
        self.begin_stop()
        if self._thread:
            self._thread.join(timeout=LANDING_SECONDS + 2.0)
        self._drop_executor()

    def run_until_idle(self) -> bool:
        """Run everything queued in this thread. False when another process runs this library's jobs."""
        with self._alone(wait=False) as mine:
            if not mine:
                return False
            self._go(until_idle=True)
            return True

    @contextmanager
    def _alone(self, wait: bool) -> Iterator[bool]:
        """Hold the library's runner lock; yields whether it was got."""
        with self._lock_path.open("w") as handle:
            mine = False
            while not mine and not self._stop.is_set():
                try:
                    fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
                    mine = True
                except BlockingIOError:
                    if not wait:
                        break
                    self._stop.wait(1.0)
            yield mine

    def _background(self) -> None:
        while not self._stop.is_set():
            try:
                with self._alone(wait=True) as mine:
                    if mine:
                        self._go(until_idle=False)
            except Exception:
                defect("the queue's lock")
                self._stop.wait(2.0)

    def _go(self, until_idle: bool) -> None:
        """Work through the queue. Survives everything: it waits and goes on by itself."""
        pauses, tidied, idle = 0, False, 0
        while not self._stop.is_set():
            try:
                jobs.recover(self._db)
                if not tidied:
                    self._tidy()
                    tidied = True
                while not self._stop.is_set():
                    job = jobs.start_next(self._db)
                    if job is not None:
                        idle = 0
                        self._run_job(job)
                        pauses, self.trouble = 0, ""
                        continue
                    pauses, self.trouble = 0, ""
                    if until_idle:
                        return
                    idle += 1
                    if idle == 50:  # some 20 seconds: give the memory back
                        self._drop_executor()
                    self._wake.wait(POLL_SECONDS)
                    self._wake.clear()
            except Exception as error:
                self._hold_up(error, pauses)
                pauses += 1
            finally:
                if until_idle or self._stop.is_set():
                    self._drop_executor()
        self._recover_at_the_end()

    def _hold_up(self, error: Exception, pauses: int) -> None:
        """Say what holds the queue up, and wait before the next try."""
        if isinstance(error, DiskFull) or is_full(error) or no_room(error):
            self.trouble = FULL_WORDS
        elif isinstance(error, sqlite3.Error):
            self.trouble = database_words(error, self._db.path)
        else:
            self.trouble = f"Something unexpected holds the queue up ({defect('the queue')}); it is tried again."
        self._drop_executor()
        self._stop.wait(PAUSES[min(pauses, len(PAUSES) - 1)])

    def _recover_at_the_end(self) -> None:
        try:
            jobs.recover(self._db)
        except sqlite3.Error:
            defect("the end of the queue")  # the next start recovers

    def _run_job(self, job: jobs.Job) -> None:
        handler = self._handlers.get(job.kind)
        if handler is None:
            jobs.fail_job(self._db, job.id, "This version of Lens Keep does not know this kind of job.")
            return
        flights: Flights = {}
        try:
            while True:
                self._fill(handler, job, flights)
                if self._stop.is_set():
                    self._last_landings(handler, job, flights)
                    return
                if not flights:
                    break
                done, _ = wait(flights, timeout=POLL_SECONDS, return_when=FIRST_COMPLETED)
                for future in done:
                    if future in flights:
                        self._land(handler, job, future, flights)
            self._close(handler, job)
        except Exception as error:
            if isinstance(error, DiskFull | sqlite3.Error) or no_room(error):
                raise  # not the job's fault: it goes on when there is room
            name = defect(f"job {job.id}")
            jobs.fail_job(self._db, job.id, f"Something unexpected stopped this job ({name}). Resume it to go on.")

    def _fill(self, handler: Handler, job: jobs.Job, flights: Flights) -> None:
        """Start items until every worker has one. A suspect runs alone."""
        while len(flights) < self._workers and not self._stop.is_set():
            if any(item.suspect for item in flights.values()):
                return
            item = jobs.claim(self._db, job.id, alone=not flights)
            if item is None:
                return
            try:
                payload = handler.prepare(job, item)
            except UserProblem as problem:
                self._fail(handler, job, item, str(problem))
                continue
            if payload is None:
                jobs.finish_item(self._db, item.id)
                continue
            try:
                flights[self._submit(handler.run, payload)] = item
            except BrokenProcessPool:
                self._after_crash(handler, job, flights, item)

    def _land(self, handler: Handler, job: jobs.Job, future: Future[Any], flights: Flights) -> None:
        item = flights.pop(future)
        try:
            result = future.result()
        except BrokenProcessPool:
            self._after_crash(handler, job, flights, item)
            return
        except UserProblem as problem:
            self._fail(handler, job, item, str(problem))
            return
        except OSError as error:
            if no_room(error):
                raise DiskFull from error
            self._fail(handler, job, item, f"{Path(error.filename or 'A file').name}: {error.strerror or error}.")
            return
        except Exception as error:
            name = defect(f"item {item.id}", error)
            self._fail(handler, job, item, f"Something went wrong with this frame ({name}).")
            return
        with self._db.writing():
            handler.record(job, item, result)
            jobs.finish_item(self._db, item.id)

    def _last_landings(self, handler: Handler, job: jobs.Job, flights: Flights) -> None:
        """At a stop: record what is done within a moment. What is not goes back by ``recover``."""
        end = time.monotonic() + LANDING_SECONDS
        while flights and (left := end - time.monotonic()) > 0:
            done, _ = wait(flights, timeout=left, return_when=FIRST_COMPLETED)
            for future in done:
                if future in flights:
                    self._land(handler, job, future, flights)

    def _close(self, handler: Handler, job: jobs.Job) -> None:
        now = jobs.job(self._db, job.id)
        if now is None:
            return
        if now.state != "running":
            jobs.close_job(self._db, job.id, f"Stopped after {now.done} of {now.total}.")
            return
        try:
            message = handler.finish(now)
        except UserProblem as problem:
            jobs.fail_job(self._db, job.id, str(problem))
            return
        except OSError as error:
            if no_room(error):
                raise DiskFull from error
            jobs.fail_job(self._db, job.id, f"{Path(error.filename or 'A file').name}: {error.strerror or error}.")
            return
        jobs.close_job(self._db, job.id, message)

    def _fail(self, handler: Handler, job: jobs.Job, item: jobs.Item, message: str) -> None:
        with self._db.writing():
            jobs.fail_item(self._db, item.id, message)
            handler.failed(job, item, message)

    def _submit(self, run: Callable[[Any], Any], payload: Any) -> Future[Any]:
        if self._executor is None:
            self._executor = self._make_executor()
        return self._executor.submit(run, payload)

    def _after_crash(self, handler: Handler, job: jobs.Job, flights: Flights, item: jobs.Item) -> None:
        """A worker died. Alone, the item did it; of several, each is suspected and tried again by itself."""
        if not flights and item.suspect:
            if jobs.note_crash(self._db, item.id):
                self._fail(handler, job, item, jobs.CRASHED)
        else:
            for each in [item, *flights.values()]:
                jobs.put_back(self._db, each.id, suspect=True)
        flights.clear()
        self._drop_executor()

    def _drop_executor(self) -> None:
        executor, self._executor = self._executor, None
        if isinstance(executor, Processes):
            executor.kill()
        elif executor is not None:
            executor.shutdown(wait=False, cancel_futures=True)


def no_room(error: BaseException) -> bool:
    """Whether something failed for want of room on the disk."""
    return isinstance(error, OSError) and error.errno in _FULL

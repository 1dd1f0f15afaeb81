"""Runs the queue: all jobs of a library, side by side, on an engine. One runner a library at a time."""

import fcntl
import sqlite3
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from lenskeep.core.problems import UserProblem
from lenskeep.files.problems import no_room
from lenskeep.store import jobs
from lenskeep.store.database import Database, database_words, full_words, is_full
from lenskeep.work.defects import defect
from lenskeep.work.engines import Engine, EngineProblem
from lenskeep.work.flights import DiskFull, Flights
from lenskeep.work.handlers import Handler

__all__ = ["Handler", "Runner"]
POLL_SECONDS = 0.4
LANDING_SECONDS = 1.2
"""How long a stop waits for items that are nearly done, so that their work is not thrown away."""
PAUSES = (1.0, 2.0, 5.0, 15.0)
"""Between tries while the disk is full, or the database or the engine does not answer."""
IDLE_SECONDS, EXPECTED_SECONDS = 20.0, 120.0
"""After so long without work, and since work was expected last, the engine is ended, which gives its memory back."""
UNKNOWN = "This version of Lens Keep does not know this kind of job."


class Runner:
    """A thread that runs the queue until it is stopped."""

    def __init__(
        self,
        db: Database,
        handlers: dict[str, Handler],
        make_engine: Callable[[], Engine],
        tidy: Callable[[], None] = lambda: None,
    ) -> None:
        """``tidy`` is called before the first job, when no other runner can be writing."""
        self._db, self._handlers, self._make_engine, self._tidy = db, handlers, make_engine, tidy
        self._engine: Engine | None = None
        self._stop, self._wake = threading.Event(), threading.Event()
        self._thread: threading.Thread | None = None
        self._rousing: Callable[[Any], Any] | None = None
        self._kept_until = 0.0
        self._lock_path: Path = db.path.with_name("runner.lock")
        self.alive = False
        """Whether this runner is the one that runs the library's jobs, and runs."""
        self.trouble = ""
        """What holds the whole queue up at the moment, in words; "" when nothing does."""

    @property
    def stopping(self) -> bool:
        """Whether an end was asked for."""
        return self._stop.is_set()

    def start(self, after: threading.Event | None = None) -> None:
        """Run in the background until ``stop``; from when ``after`` is set on."""
        self._thread = threading.Thread(target=self._background, args=(after,), name="runner", daemon=True)
        self._thread.start()

    def wake(self) -> None:
        """Look for work now."""
        self._wake.set()

    def expect(self, run: Callable[[Any], Any]) -> None:
        """Somebody is about to ask for work that must not wait: start workers, each with ``run`` of nothing, and keep
        them for a while after this was said last.
        """
        self._kept_until = time.monotonic() + EXPECTED_SECONDS
        self._rousing = run
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
        self._end_engine()

    def run_until_idle(self) -> bool:
        """Run everything queued in this thread. False when another process runs this library's jobs."""
        with self.alone(wait=False) as mine:
            if not mine:
                return False
            self._go(until_idle=True)
            return True

    @contextmanager
    def alone(self, wait: bool = False) -> Iterator[bool]:
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
            try:
                yield mine
            finally:
                self.alive = False

    def _background(self, after: threading.Event | None) -> None:
        while after is not None and not self._stop.is_set() and not after.wait(POLL_SECONDS):
            pass
        while not self._stop.is_set():
            try:
                with self.alone(wait=True) as mine:
                    if mine:
                        self._go(until_idle=False)
            except Exception:
                defect("the queue's lock")
                self._stop.wait(2.0)

    def _go(self, until_idle: bool) -> None:
        """Work through the queue. Survives everything: it waits and goes on by itself."""
        pauses, tidied = 0, False
        while not self._stop.is_set():
            try:
                jobs.recover(self._db)
                if not tidied:
                    self._tidy()
                    tidied = True
                self.alive = True
                self._engine = self._engine or self._make_engine()
                flights = Flights(self._db, self._handlers, self._engine, self._wake.set)
                if self._work(flights, until_idle):
                    return
            except Exception as error:
                self._hold_up(error, pauses, until_idle)
                pauses += 1
            finally:
                if until_idle or self._stop.is_set():
                    self._end_engine()
        self._recover_at_the_end()

    def _work(self, flights: Flights, until_idle: bool) -> bool:
        """Until a stop; True when there is nothing left and that is what was waited for."""
        busy = time.monotonic()
        while not self._stop.is_set():
            self._wake.clear()
            for job in jobs.start_queued(self._db):
                if job.kind not in self._handlers:
                    jobs.fail_job(self._db, job.id, UNKNOWN)
            flights.fill()
            closed = self._close_ended(flights)
            if flights.land():
                self.trouble = ""
                continue
            if len(flights):
                busy = time.monotonic()
                self._wake.wait(POLL_SECONDS)
                continue
            if closed:
                continue
            self.trouble = ""
            if until_idle:
                return True
            if self._engine is not None:
                rousing, self._rousing = self._rousing, None
                if rousing is not None:
                    self._engine.rouse(rousing)
                if time.monotonic() > max(busy + IDLE_SECONDS, self._kept_until):
                    self._engine.end()
                    busy = time.monotonic()
            self._wake.wait(POLL_SECONDS)
        self._last_landings(flights)
        return False

    def _close_ended(self, flights: Flights) -> bool:
        """Close jobs none of whose items waits or is under way; returns whether there was one."""
        ended = [job for job in jobs.under_way(self._db) if not flights.of_job(job.id)]
        ended = [job for job in ended if job.state == "cancelling" or job.done + job.failed >= job.total]
        ended = [job for job in ended if job.state == "cancelling" or not flights.waits.for_now(job.id)]
        closed = [self._close(job, flights) for job in ended]
        return any(closed)

    def _close(self, job: jobs.Job, flights: Flights) -> bool:
        """Returns whether it is over; else it waits for room on the disk that it writes to."""
        if job.state != "running":
            jobs.close_job(self._db, job.id, f"Stopped after {job.done} of {job.total}.")
            return True
        try:
            message = self._handlers[job.kind].finish(job)
        except UserProblem as problem:
            jobs.fail_job(self._db, job.id, str(problem))
        except Exception as error:
            if no_room(error):
                if flights.waits.for_room(job):
                    return False
                raise DiskFull from error
            if isinstance(error, sqlite3.Error) and not isinstance(error, sqlite3.IntegrityError):
                raise
            if jobs.job(self._db, job.id) is not None:  # else it was removed meanwhile, and nobody asks
                jobs.fail_job(self._db, job.id, _stopped(job, error))
        else:
            jobs.close_job(self._db, job.id, message)
        return True

    def _last_landings(self, flights: Flights) -> None:
        """At a stop: record what is done within a moment. What is not goes back by ``recover``."""
        end = time.monotonic() + LANDING_SECONDS
        while len(flights) and (left := end - time.monotonic()) > 0:
            self._wake.clear()
            if not flights.land():
                self._wake.wait(left)

    def _hold_up(self, error: Exception, pauses: int, until_idle: bool) -> None:
        """Say what holds the queue up, and wait before the next try."""
        if isinstance(error, DiskFull) or is_full(error) or no_room(error):
            self.trouble = full_words(self._db.path.parent)
        elif isinstance(error, sqlite3.Error):
            self.trouble = database_words(error, self._db.path)
        elif isinstance(error, EngineProblem):
            self.trouble = str(error)
        else:
            self.trouble = f"Something unexpected holds the queue up ({defect('the queue')}); it is tried again."
        self._end_engine()
        self._stop.wait(PAUSES[min(pauses, len(PAUSES) - 1)])

    def _recover_at_the_end(self) -> None:
        try:
            jobs.recover(self._db)
        except sqlite3.Error:
            defect("the end of the queue")  # the next start recovers

    def _end_engine(self) -> None:
        engine, self._engine = self._engine, None
        if engine is not None:
            engine.end()


def _stopped(job: jobs.Job, error: Exception) -> str:
    """Why a job could not be closed, in words."""
    if isinstance(error, OSError):
        return f"{Path(error.filename or 'A file').name}: {error.strerror or error}."
    return f"Something unexpected stopped this job ({defect(f'job {job.id}')}). Resume it to go on."

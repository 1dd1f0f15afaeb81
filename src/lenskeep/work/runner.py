"""Runs the queue: claims items, hands them to an executor, records what comes back. One runner a library at a time."""

import fcntl
import logging
import threading
from collections.abc import Callable
from concurrent.futures import FIRST_COMPLETED, Executor, Future, wait
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Protocol

from lenskeep.store import jobs
from lenskeep.store.database import Database

log = logging.getLogger("lenskeep.work")
POLL_SECONDS = 0.4


class ItemProblem(Exception):
    """An item that can't be done, with a message for the photographer. Any ValueError counts as one, too."""


class Handler(Protocol):
    """How one kind of job is done. ``prepare`` and ``record`` run beside the database, ``run`` maybe elsewhere."""

    def prepare(self, job: jobs.Job, frame_id: int | None) -> Any | None:
        """What ``run`` needs; None when there is nothing left to do. Raises ItemProblem."""

    @property
    def run(self) -> Callable[[Any], Any]:
        """A function at the top level of a module: payload -> result. It writes files whole or not at all."""

    def record(self, job: jobs.Job, frame_id: int | None, result: Any) -> None:
        """Write the result down; runs in the transaction that finishes the item."""

    def failed(self, job: jobs.Job, frame_id: int | None, message: str) -> None:
        """Note on the frame that its item failed."""

    def finish(self, job: jobs.Job) -> str:
        """After the last item; returns a message. Raises ItemProblem when the job as a whole failed."""


@dataclass
class _Flight:
    item: jobs.Item
    frame_id: int | None


class Runner:
    """A thread that runs jobs one after another, each on several items at once."""

    def __init__(
        self,
        db: Database,
        handlers: dict[str, Handler],
        make_executor: Callable[[], Executor],
        workers: int,
        tidy: Callable[[], None] = lambda: None,
    ) -> None:
        """``tidy`` is called before the first job, when no other runner can be writing."""
        self._db, self._handlers, self._workers = db, handlers, workers
        self._tidy = tidy
        self._make_executor = make_executor
        self._executor: Executor | None = None
        self._stop, self._wake = threading.Event(), threading.Event()
        self._thread: threading.Thread | None = None
        self._lock_path: Path = db.path.with_name("runner.lock")

    def start(self) -> None:
        """Run in the background until ``stop``."""
        self._thread = threading.Thread(target=self._loop, name="runner", daemon=True)
        self._thread.start()

    def wake(self) -> None:
        """Look for work now."""
        self._wake.set()

    def stop(self) -> None:
        """Stop after what is under way is put back; the next start goes on from there."""
        self._stop.set()
        self._wake.set()
        if self._thread:
            self._thread.join(timeout=20)
        self._drop_executor(wait=True)

    def run_until_idle(self) -> bool:
        """Run everything queued in this thread. False when another process runs this library's jobs."""
        with self._lock_path.open("w") as handle:
            try:
                fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except BlockingIOError:
                return False
            jobs.recover(self._db)
            self._tidy()
            while (job := jobs.start_next(self._db)) and not self._stop.is_set():
                self._run_job(job)
            self._drop_executor()
            return True

    def _loop(self) -> None:
        with self._lock_path.open("w") as handle:
            while not self._stop.is_set():
                try:
                    fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
                    break
                except BlockingIOError:
                    self._stop.wait(1.0)
            if self._stop.is_set():
                return
            jobs.recover(self._db)
            self._tidy()
            idle = 0
            while not self._stop.is_set():
                job = jobs.start_next(self._db)
                if job is None:
                    idle += 1
                    if idle == 50:  # some 20 seconds: give the memory back
                        self._drop_executor()
                    self._wake.wait(POLL_SECONDS)
                    self._wake.clear()
                    continue
                idle = 0
                try:
                    self._run_job(job)
                except Exception:
                    log.exception("job %s stopped", job.id)
                    jobs.fail_job(self._db, job.id, "Something unexpected stopped this job. Resume it to go on.")
            jobs.recover(self._db)

    def _run_job(self, job: jobs.Job) -> None:
        handler = self._handlers[job.kind]
        flights: dict[Future[Any], _Flight] = {}
        while True:
            while len(flights) < self._workers and not self._stop.is_set():
                item = jobs.claim(self._db, job.id)
                if item is None:
                    break
                try:
                    payload = handler.prepare(job, item.frame_id)
                except (ItemProblem, ValueError) as error:
                    self._fail(handler, job, item, str(error))
                    continue
                if payload is None:
                    jobs.finish_item(self._db, item.id)
                    continue
                try:
                    flights[self._submit(handler.run, payload)] = _Flight(item, item.frame_id)
                except BrokenProcessPool:
                    self._after_crash(flights, item)
            if not flights:
                break
            done, _ = wait(flights, timeout=POLL_SECONDS, return_when=FIRST_COMPLETED)
            for future in done:
                if future in flights:
                    self._land(handler, job, future, flights)
            if self._stop.is_set():
                for flight in flights.values():
                    jobs.put_back(self._db, flight.item.id)
                return
        self._close(handler, job)

    def _land(self, handler: Handler, job: jobs.Job, future: Future[Any], flights: dict[Future[Any], _Flight]) -> None:
        flight = flights.pop(future)
        try:
            result = future.result()
        except BrokenProcessPool:
            self._after_crash(flights, flight.item)
            return
        except (ItemProblem, ValueError, OSError) as error:
            self._fail(handler, job, flight.item, str(error))
            return
        except Exception as error:
            log.exception("item %s failed", flight.item.id)
            self._fail(handler, job, flight.item, f"Unexpected: {error}")
            return
        with self._db.writing():
            handler.record(job, flight.frame_id, result)
            jobs.finish_item(self._db, flight.item.id)

    def _close(self, handler: Handler, job: jobs.Job) -> None:
        now = jobs.job(self._db, job.id)
        if now is None or self._stop.is_set():
            return
        if now.state != "running":
            jobs.close_job(self._db, job.id, f"Stopped after {now.done} of {now.total}.")
            return
        try:
            message = handler.finish(now)
        except (ItemProblem, ValueError, OSError) as error:
            jobs.fail_job(self._db, job.id, str(error))
            return
        jobs.close_job(self._db, job.id, message)

    def _fail(self, handler: Handler, job: jobs.Job, item: jobs.Item, message: str) -> None:
        with self._db.writing():
            jobs.fail_item(self._db, item.id, message)
            handler.failed(job, item.frame_id, message)

    def _submit(self, run: Callable[[Any], Any], payload: Any) -> Future[Any]:
        if self._executor is None:
            self._executor = self._make_executor()
        return self._executor.submit(run, payload)

    def _after_crash(self, flights: dict[Future[Any], _Flight], item: jobs.Item) -> None:
        """A worker died: everything under way goes back, and a new pool is made for the next item."""
        for waiting in [item, *(flight.item for flight in flights.values())]:
            jobs.put_back(self._db, waiting.id)
        flights.clear()
        self._drop_executor()

    def _drop_executor(self, wait: bool = False) -> None:
        if self._executor is not None:
            self._executor.shutdown(wait=wait, cancel_futures=True)
            self._executor = None

"""The engine of this machine: processes, or this very thread for tests and single commands."""

import multiprocessing
import os
import signal
import threading
import time
from collections.abc import Callable
from concurrent.futures import Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from pathlib import Path
from typing import Any

from lenskeep.work.engines import WorkerDied

LOOK_FOR_PARENT_EVERY = 1.0
ONE_THREAD = "LENSKEEP_TASK_THREADS"
"""Set to 1 where every core has a worker of its own; read by what would start threads."""


def end_with(parent: int) -> None:
    """Let this process end when ``parent`` is gone, even when that was killed."""

    def watch() -> None:
        while True:
            time.sleep(LOOK_FOR_PARENT_EVERY)
            try:
                os.kill(parent, 0)
            except OSError:
                os._exit(1)

    threading.Thread(target=watch, daemon=True).start()


def one_thread() -> None:
    """Let libraries use one thread in this process, which is one of several."""
    import cv2

    cv2.setNumThreads(1)
    os.environ[ONE_THREAD] = "1"


def quiet_worker(parent: int) -> None:
    """Give way to the interface, use one core, and end with the server."""
    os.nice(10)
    one_thread()
    end_with(parent)


def forkserver(preload: list[str]) -> "multiprocessing.context.ForkServerContext":
    """The way processes are started: forked from one that is small, has no threads, and has imported ``preload``."""
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload(preload)
    return context


class Processes:
    """So many processes, started when they are needed, that have the ``preload`` modules imported before."""

    def __init__(self, workers: int, preload: list[str]) -> None:
        self._workers, self._preload = workers, preload
        self._pool: ProcessPoolExecutor | None = None
        self._oom = 0

    def slots(self) -> int:
        return self._workers

    def ahead(self) -> int:
        return 1

    def submit(self, run: Callable[[Any], Any], task: Any) -> "Future[Any]":
        out: Future[Any] = Future()
        try:
            if self._pool is None:
                context, self._oom = forkserver(self._preload), oom_kills()
                self._pool = ProcessPoolExecutor(
                    self._workers, context, initializer=quiet_worker, initargs=(os.getpid(),)
                )
            inner = self._pool.submit(run, task)
        except BrokenProcessPool:
            self.end()
            out.set_exception(WorkerDied(all_lost=True))
            return out
        pool, oom = self._pool, self._oom
        inner.add_done_callback(lambda done: _pass_on(done, out, lambda: _by_somebody(pool, oom)))
        return out

    def rouse(self, run: Callable[[Any], Any]) -> None:
        if self._pool is None:
            for _ in range(self._workers):
                self.submit(run, None)

    def end(self) -> None:
        """End the workers at once, whatever they do; files are written whole or not at all, so nothing is half."""
        pool, self._pool = self._pool, None
        if pool is None:
            return
        for process in list((pool._processes or {}).values()):
            process.kill()
        pool.shutdown(wait=False, cancel_futures=True)


def oom_kills() -> int:
    """How many processes the system has killed for want of memory since it started; 0 where that is not told."""
    try:
        lines = Path("/proc/vmstat").read_text().splitlines()
    except OSError:
        return 0
    return sum(int(line.split()[1]) for line in lines if line.startswith("oom_kill "))


def _by_somebody(pool: ProcessPoolExecutor, oom: int) -> bool:
    """Whether a worker was killed from outside: not by what it did, and not by the system for want of memory."""
    codes = [process.exitcode for process in list((pool._processes or {}).values())]
    return any(code in (-signal.SIGKILL, -signal.SIGTERM) for code in codes) and oom_kills() == oom


def _pass_on(done: "Future[Any]", out: "Future[Any]", by_somebody: Callable[[], bool]) -> None:
    if done.cancelled():
        out.cancel()
        return
    error = done.exception()
    if isinstance(error, BrokenProcessPool):
        out.set_exception(WorkerDied(all_lost=True, by_somebody=by_somebody()))
    elif error is not None:
        out.set_exception(error)
    else:
        out.set_result(done.result())


class Here:
    """Runs each task at once, in the calling thread."""

    def slots(self) -> int:
        return 1

    def ahead(self) -> int:
        return 1

    def submit(self, run: Callable[[Any], Any], task: Any) -> "Future[Any]":
        future: Future[Any] = Future()
        try:
            future.set_result(run(task))
        except Exception as error:
            future.set_exception(error)
        return future

    def rouse(self, run: Callable[[Any], Any]) -> None:
        """There is nobody to be roused."""

    def end(self) -> None:
        """There is nothing under way."""

"""Where items run: local processes by default, or in this thread for tests and single commands."""

import multiprocessing
import os
import threading
import time
from concurrent.futures import Executor, Future, ProcessPoolExecutor
from typing import Any, Protocol

LOOK_FOR_PARENT_EVERY = 1.0


class Pool(Protocol):
    """What runs items: futures out of calls, and an end, if need be at once."""

    def submit(self, fn: Any, /, *args: Any, **kwargs: Any) -> Future[Any]: ...

    def shutdown(self, wait: bool = True, *, cancel_futures: bool = False) -> None: ...


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


def _quiet_worker(parent: int) -> None:
    """Give way to the interface, and end with the server."""
    os.nice(10)
    end_with(parent)


class Processes(ProcessPoolExecutor):
    """A pool of processes that have the ``preload`` modules imported before the first item."""

    def __init__(self, workers: int, preload: list[str]) -> None:
        super().__init__(workers, forkserver(preload), initializer=_quiet_worker, initargs=(os.getpid(),))

    def kill(self) -> None:
        """End the workers at once, whatever they do; files are written whole or not at all, so nothing is half."""
        for process in list((self._processes or {}).values()):
            process.kill()
        self.shutdown(wait=False, cancel_futures=True)


def forkserver(preload: list[str]) -> "multiprocessing.context.ForkServerContext":
    """The way processes are started: forked from one that is small, has no threads, and has imported ``preload``."""
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload(preload)
    return context


class Here(Executor):
    """Runs each call at once, in the calling thread."""

    def submit(self, fn: Any, /, *args: Any, **kwargs: Any) -> Future[Any]:
        future: Future[Any] = Future()
        try:
            future.set_result(fn(*args, **kwargs))
        except Exception as error:
            future.set_exception(error)
        return future

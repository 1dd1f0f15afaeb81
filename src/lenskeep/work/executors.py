"""Where items run: local processes by default, or in this thread for tests and single commands."""

import multiprocessing
import os
import threading
import time
from concurrent.futures import Executor, Future, ProcessPoolExecutor
from typing import Any

LOOK_FOR_PARENT_EVERY = 1.0


def _quiet_worker(parent: int) -> None:
    """Give way to the interface, and end with the server even when it was killed."""
    os.nice(10)

    def watch() -> None:
        while True:
            time.sleep(LOOK_FOR_PARENT_EVERY)
            try:
                os.kill(parent, 0)
            except OSError:
                os._exit(1)

    threading.Thread(target=watch, daemon=True).start()


def processes(workers: int, preload: list[str]) -> Executor:
    """A pool of processes that have the ``preload`` modules imported before the first item."""
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload(preload)
    return ProcessPoolExecutor(workers, context, initializer=_quiet_worker, initargs=(os.getpid(),))


class Here(Executor):
    """Runs each call at once, in the calling thread."""

    def submit(self, fn: Any, /, *args: Any, **kwargs: Any) -> Future[Any]:
        future: Future[Any] = Future()
        try:
            future.set_result(fn(*args, **kwargs))
        except Exception as error:
            future.set_exception(error)
        return future

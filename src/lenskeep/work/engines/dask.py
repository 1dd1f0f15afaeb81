"""The engine of several machines: a Dask distributed cluster (Rocklin 2015). An optional extra of the package.

Workers must have the same versions of what computes; they are asked before they are given work. Where they do not see
the library's folder, files travel as bytes with the tasks, and what is made travels back.
"""

import logging
import secrets
import threading
from collections.abc import Callable
from concurrent.futures import Future
from dataclasses import replace
from pathlib import Path
from typing import Any

from lenskeep.core.versions import DETECTOR, ENGINE
from lenskeep.work.bunch import Bunch
from lenskeep.work.engines import EngineProblem, WorkerDied
from lenskeep.work.engines.carried import packed
from lenskeep.work.engines.here import one_thread

CONNECT_SECONDS = 6.0
LOST = ("CancelledError", "FutureCancelledError", "FuturesCancelledError", "CommClosedError")
"""Errors of the cluster's own that say that a task went with its worker."""
MISSING = "This Lens Keep was installed without the cluster's extra. Install it with: pip install 'lenskeep[cluster]'."


def versions() -> dict[str, str]:
    """What must be the same on every machine for the same pictures to come out."""
    import cv2
    import numba
    import numpy as np

    from lenskeep import __version__

    return {
        "Lens Keep": __version__, "engine": ENGINE, "detectors": DETECTOR,
        "numpy": np.__version__, "numba": numba.__version__, "opencv": cv2.__version__,
    }  # fmt: skip


def _introduced(marker: str, token: str, dask_worker: Any = None) -> tuple[dict[str, str], bool]:
    """On a worker: its versions, and whether it sees a file of the library. It uses one thread from then on, and is not
    looked into a hundred times a second by the cluster's profiler, which costs a tenth of its time.
    """
    one_thread()
    for name in ("profile", "profile-cycle"):
        if dask_worker is not None and name in dask_worker.periodic_callbacks:
            dask_worker.periodic_callbacks[name].stop()
    try:
        sees = Path(marker).read_text("utf-8") == token
    except OSError:
        sees = False
    return versions(), sees


class Dask:
    """Tasks on the workers of a cluster. Its methods raise EngineProblem when it can't be reached or does not fit."""

    def __init__(self, address: str, home: Path) -> None:
        self._address, self._home = address, home
        self._client: Any = None
        self._known: dict[str, bool] = {}
        self._lock = threading.Lock()

    def slots(self) -> int:
        """The threads of all workers."""
        workers = self._workers()
        return sum(int(each["nthreads"]) for each in workers.values())

    def ahead(self) -> int:
        """One for each that runs: files travel to a worker while it works on others."""
        return self.slots()

    def submit(self, run: Callable[[Any], Any], task: Any) -> "Future[Any]":
        workers = self._workers()
        if not all(self._known.get(name) for name in workers):
            task = self._taken_along(task)
        inner = self._connected().submit(run, task, pure=False)
        out: Future[Any] = Future()
        inner.add_done_callback(lambda done: _pass_on(done, out))
        return out

    def rouse(self, run: Callable[[Any], Any]) -> None:
        """A cluster's workers are there, or are not ours to start."""

    def end(self) -> None:
        client, self._client = self._client, None
        self._known = {}
        if client is not None:
            client.close(timeout=2)

    @staticmethod
    def _taken_along(task: Any) -> Any:
        if isinstance(task, Bunch):
            return replace(task, tasks=tuple(packed(each) for each in task.tasks))
        return packed(task)

    def _connected(self) -> Any:
        with self._lock:
            if self._client is None:
                try:
                    from distributed import Client
                except ImportError as error:
                    raise EngineProblem(MISSING) from error
                logging.getLogger("distributed").setLevel(logging.ERROR)
                try:
                    connect: Any = Client
                    how = {"timeout": CONNECT_SECONDS, "set_as_default": False, "direct_to_workers": True}
                    self._client = connect(self._address, **how)
                except (OSError, TimeoutError, ValueError) as error:
                    raise EngineProblem(
                        f"The cluster at {self._address} does not answer. Start its scheduler, or start Lens Keep "
                        "without --cluster; the queue goes on by itself then."
                    ) from error
            return self._client

    def _workers(self) -> dict[str, Any]:
        """The workers that are there, each asked for its versions when it is new."""
        client = self._connected()
        workers: dict[str, Any] = client.scheduler_info(n_workers=-1)["workers"]
        if not workers:
            raise EngineProblem(
                f"No worker is connected to the cluster at {self._address}. Start one: dask worker {self._address}"
            )
        if fresh := [name for name in workers if name not in self._known]:
            self._introduce(client, fresh)
        return workers

    def _introduce(self, client: Any, fresh: list[str]) -> None:
        marker, token = self._home / ".seen", secrets.token_hex(16)
        marker.write_text(token, "utf-8")
        try:
            answers = client.run(_introduced, str(marker), token, workers=fresh)
        finally:
            marker.unlink(missing_ok=True)
        ours = versions()
        for name, (theirs, sees) in answers.items():
            if other := [
                f"{what} {theirs.get(what)} (here {ours[what]})" for what in ours if theirs.get(what) != ours[what]
            ]:
                raise EngineProblem(
                    f"The worker at {name} has other versions: {', '.join(other)}. Install the same on it, then the "
                    "queue goes on by itself."
                )
            self._known[name] = sees


def _pass_on(done: Any, out: "Future[Any]") -> None:
    from distributed import KilledWorker

    if out.done():
        return
    try:
        result = done.result(timeout=60)
    except KilledWorker:
        out.set_exception(WorkerDied(all_lost=False))
    except Exception as error:
        lost = type(error).__name__ in LOST
        out.set_exception(WorkerDied(all_lost=False) if lost else error)
    else:
        out.set_result(result)

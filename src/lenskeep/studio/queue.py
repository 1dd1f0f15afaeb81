"""The runner with its handlers: what the server and the command line start."""

import os

from lenskeep.studio import applying, balancing, card, dusting, evening, sweep
from lenskeep.studio import find as finding
from lenskeep.studio.hand_over import deliver
from lenskeep.studio.library import Library
from lenskeep.studio.untrusted import PRELOAD
from lenskeep.work.engines import Engine
from lenskeep.work.engines.dask import Dask
from lenskeep.work.engines.here import Here, Processes
from lenskeep.work.runner import Handler, Runner


def workers_from_environment() -> int:
    """``LENSKEEP_WORKERS``, or the number of cores. 0 runs everything in the calling process."""
    text = os.environ.get("LENSKEEP_WORKERS", "")
    return max(0, int(text)) if text.isdigit() else max(1, os.cpu_count() or 1)


def cluster_from_environment() -> str:
    """``LENSKEEP_CLUSTER``, the address of a cluster's scheduler; "" for this machine alone."""
    return os.environ.get("LENSKEEP_CLUSTER", "").strip()


def make_runner(library: Library, workers: int | None = None, cluster: str | None = None) -> Runner:
    """A runner for this library, on ``workers`` processes here (0: in the calling one) or on a ``cluster``; it does
    nothing until it is started.
    """
    count = workers_from_environment() if workers is None else workers
    handlers: dict[str, Handler] = {
        finding.KIND: finding.Finding(library),
        applying.KIND: applying.Applying(library),
        deliver.KIND: deliver.Delivering(library),
        card.KIND: card.BringingIn(library),
        sweep.KIND: sweep.Sweeping(library),
        balancing.KIND: balancing.Balancing(library),
        dusting.SEARCH: dusting.Searching(library),
        dusting.HEAL: dusting.Healing(library),
        evening.CAMERA: evening.Camera(library),
        evening.DESCRIBING: evening.Describing(library),
        evening.EVENING: evening.Evening(library),
    }

    address = cluster_from_environment() if cluster is None else cluster

    def engine() -> Engine:
        if address:
            return Dask(address, library.home)
        return Processes(count, PRELOAD) if count else Here()

    def tidy() -> None:
        sweep.sweep_drafts(library)
        sweep.sweep_unused(library)
        evening.sweep_described(library)
        balancing.MEASURED.sweep(library)
        dusting.DUSTED.sweep(library)

    return Runner(library.db, handlers, engine, tidy)

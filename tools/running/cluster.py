"""A cluster on this machine, for tests and benchmarks: a scheduler and workers, each a process."""

import os
import signal
import subprocess
import sys
from pathlib import Path
from types import TracebackType

from tools.running.server import free_port


class Cluster:
    """A scheduler and workers of one thread each; with ``hidden``, in mount namespaces of their own where that folder
    is empty.
    """

    def __init__(self, folder: Path, hidden: Path | None = None, workers: int = 2) -> None:
        self.folder, self.hidden, self.workers = folder, hidden, workers
        self.address = f"tcp://127.0.0.1:{free_port()}"
        self.processes: list[subprocess.Popen[bytes]] = []

    def __enter__(self) -> "Cluster":
        port = self.address.rsplit(":", 1)[1]
        scheduler = ["-m", "distributed.cli.dask_scheduler", "--host", "127.0.0.1", "--port", port, "--no-dashboard"]
        self._start([sys.executable, *scheduler])
        for _ in range(self.workers):
            self.worker()
        return self

    def worker(self) -> None:
        """One worker more."""
        scratch = str(self.folder / "scratch")
        more = ["--nthreads", "1", "--no-nanny", "--no-dashboard", "--memory-limit", "0", "--local-directory", scratch]
        command = [sys.executable, "-m", "distributed.cli.dask_worker", self.address, *more]
        if self.hidden is not None:
            hide = f"mount -t tmpfs none '{self.hidden}' && exec \"$@\""
            command = ["unshare", "--mount", "sh", "-c", hide, "sh", *command]
        self._start(command)

    def _start(self, command: list[str]) -> None:
        quiet = subprocess.DEVNULL
        self.processes.append(subprocess.Popen(command, stdout=quiet, stderr=quiet, start_new_session=True))

    def kill_a_worker(self) -> None:
        os.killpg(self.processes[-1].pid, signal.SIGKILL)

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        for process in self.processes:
            if process.poll() is None:
                os.killpg(process.pid, signal.SIGKILL)
            process.wait()


def may_hide() -> bool:
    """Whether this system lets a process hide a folder from itself."""
    return subprocess.run(["unshare", "--mount", "true"], capture_output=True).returncode == 0

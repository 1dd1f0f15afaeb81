"""The real server as a process of its own, for tests that need it whole."""

import os
import signal
import socket
import subprocess
import sys
import tempfile
import time
import urllib.request
from pathlib import Path

START_SECONDS = 60


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


class Server:
    """``lenskeep serve`` on a free port; use as a context manager."""

    def __init__(self, home: Path, workers: int = 2) -> None:
        self.home, self.workers, self.port = home, workers, free_port()
        self.address = f"http://127.0.0.1:{self.port}"

    def __enter__(self) -> "Server":
        environment = os.environ | {
            "LENSKEEP_HOME": str(self.home),
            "LENSKEEP_WORKERS": str(self.workers),
            "LENSKEEP_OPEN": "1",
            "LENSKEEP_TARGETS": os.environ.get("LENSKEEP_TARGETS", tempfile.gettempdir()),
        }
        command = [sys.executable, "-m", "lenskeep.cli", "serve", "--port", str(self.port)]
        self.process = subprocess.Popen(command, env=environment, stdout=subprocess.DEVNULL)
        end = time.monotonic() + START_SECONDS
        while time.monotonic() < end:
            assert self.process.poll() is None, "the server ended at once"
            try:
                urllib.request.urlopen(f"{self.address}/shoots.json", timeout=2).read()
                return self
            except OSError:
                time.sleep(0.1)
        raise AssertionError("the server did not answer")

    def kill(self) -> None:
        """As a power cut would: no chance to tidy up."""
        self.process.send_signal(signal.SIGKILL)
        self.process.wait()

    def __exit__(self, *_: object) -> None:
        if self.process.poll() is None:
            self.process.terminate()
            try:
                self.process.wait(15)
            except subprocess.TimeoutExpired:
                self.kill()

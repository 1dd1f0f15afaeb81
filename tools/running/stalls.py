"""Moments in which the machine itself stood still: its host gave its processors to somebody else, or everything waited
for its disk. A process that does nothing but look at the clock, before all others, sees them; no program does better.

``python -m tools.running.stalls CPU`` prints a line for each of one processor: when it ended (seconds since 1970) and
how long it was (ms).
"""

import os
import subprocess
import sys
import time
from contextlib import suppress
from pathlib import Path

TICK_SECONDS, LEAST_MS = 0.004, 15.0
HURRY = -15


class Stalls:
    """Watches while it is entered; ``within`` says how long the machine stood still in a stretch of time."""

    def __init__(self, folder: Path) -> None:
        self._told = {cpu: folder / f"stalls-{cpu}.txt" for cpu in sorted(os.sched_getaffinity(0))}
        self._processes: list[subprocess.Popen[bytes]] = []

    def __enter__(self) -> "Stalls":
        for cpu, path in self._told.items():
            with path.open("w") as sink:
                command = [sys.executable, "-m", "tools.running.stalls", str(cpu)]
                self._processes.append(subprocess.Popen(command, stdout=sink))
        return self

    def __exit__(self, *_: object) -> None:
        for process in self._processes:
            process.terminate()
            process.wait()

    def within(self, begin: float, end: float) -> float:
        """Milliseconds between two moments (seconds since 1970) for which a processor stood still: the one that did so
        for longest.
        """
        return max(
            sum(_shared(line, begin, end) for line in path.read_text().splitlines()) for path in self._told.values()
        )


def _shared(line: str, begin: float, end: float) -> float:
    over, ms = map(float, line.split())
    return 1000.0 * max(0.0, min(end, over) - max(begin, over - ms / 1000.0))


def main(cpu: int) -> None:
    os.sched_setaffinity(0, {cpu})
    with suppress(PermissionError):
        os.nice(HURRY)
    last = time.time()
    while True:
        time.sleep(TICK_SECONDS)
        now = time.time()
        late = 1000.0 * (now - last - TICK_SECONDS)
        if late > LEAST_MS:
            print(f"{now:.3f} {late:.0f}", flush=True)
        last = now


if __name__ == "__main__":
    main(int(sys.argv[1]))

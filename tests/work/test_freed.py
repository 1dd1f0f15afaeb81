"""What a worker keeps of freed memory, told by what the system takes back."""

import subprocess
import sys

import pytest

HELD = """
import os, resource, sys
import numpy as np
from lenskeep.work.engines.freed import keep_freed
if sys.argv[1] == "worker":
    os.environ["LENSKEEP_TASK_THREADS"] = "1"
for word in sys.argv[2:]:
    keep_freed(word == "much")

def resident():
    return int(open("/proc/self/statm").read().split()[1]) * resource.getpagesize() / 2**20

before = resident()
pieces = [np.ones(12 << 20, np.uint8) for _ in range(12)]
pieces.clear()
small = np.ones(1 << 20, np.uint8)
del small
print(resident() - before)
"""


def held(*words: str) -> float:
    """Megabytes that a process still takes after it freed 144."""
    done = subprocess.run([sys.executable, "-c", HELD, *words], check=True, capture_output=True, text=True)
    return float(done.stdout)


@pytest.mark.skipif(not sys.platform.startswith("linux"), reason="mallopt is glibc's")
def test_a_worker_that_hands_over_keeps_what_it_freed_until_it_finds_again():
    assert held("worker", "much") > 100
    assert held("worker", "much", "usual") < 90
    assert held("worker", "usual") < 90
    assert held("server", "much") < 90

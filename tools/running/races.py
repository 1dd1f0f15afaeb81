"""A pytest plugin that runs tests under a scheduler which may change threads at every statement of the store, the
studio and the queue: what is read, thought over and written in two steps meets what comes in between.

``pytest -p tools.running.races --races 7 tests/store tests/studio``; the number seeds what is drawn.
"""

import os
import random
import sys
import threading
import time
from collections.abc import Callable
from pathlib import Path
from types import FrameType
from typing import Any

import pytest

import lenskeep

ROOMS = tuple(str(Path(lenskeep.__path__[0]) / room) + os.sep for room in ("store", "studio", "work"))
YIELDS, RESTS = 0.5, 0.01
"""Share of statements after which another thread may run, and after which this one waits so long that it does."""
LONGEST_REST = 0.002

Trace = Callable[[FrameType, str, Any], Any]


def scheduler(seed: int) -> Trace:
    """A trace function for threads. Each thread draws by itself, so that what it does hangs on the seed and its order
    among threads alone.
    """
    own = threading.local()
    count = iter(range(10**9))

    def statement(frame: FrameType, event: str, _: Any) -> Any:
        if event == "line":
            if not hasattr(own, "chance"):
                own.chance = random.Random(seed * 1_000_003 + next(count))
            drawn = own.chance.random()
            if drawn < RESTS:
                time.sleep(own.chance.uniform(0.0, LONGEST_REST))
            elif drawn < YIELDS:
                time.sleep(0)
        return statement

    def call(frame: FrameType, event: str, _: Any) -> Any:
        return statement if frame.f_code.co_filename.startswith(ROOMS) else None

    return call


def pytest_addoption(parser: pytest.Parser) -> None:
    parser.addoption("--races", type=int, default=None, metavar="SEED", help="change threads at every statement")


@pytest.fixture(autouse=True)
def _races(request: pytest.FixtureRequest) -> Any:
    seed = request.config.getoption("--races")
    if seed is None:
        yield
        return
    trace = scheduler(seed)
    before = sys.gettrace()
    threading.settrace(trace)
    sys.settrace(trace)
    try:
        yield
    finally:
        sys.settrace(before)
        threading.settrace(None)  # type: ignore[arg-type]

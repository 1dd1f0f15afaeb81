"""Calls in processes that may die: what they do harms nobody but themselves."""

import os
import signal
import threading
import time

import numpy as np
import pytest

from lenskeep.core.problems import UserProblem
from lenskeep.work.apart import Apart, Lost


def double(x):
    return 2 * x


def die(_):
    os._exit(11)


def hang(_):
    time.sleep(600)


def swell(_):
    return float(np.ones((40_000, 40_000)).sum())


def refuse(words):
    raise UserProblem(words)


def unsendable(_):
    return threading.Lock()


def own_number(_):
    return os.getpid()


@pytest.fixture(scope="module")
def apart():
    pool = Apart([], most=2, memory=800_000_000)
    yield pool
    pool.close()


def test_a_helper_is_kept_for_the_next_call(apart):
    assert apart.call(double, 21, seconds=30) == 42
    assert apart.call(own_number, 0, seconds=30) == apart.call(own_number, 0, seconds=30) != os.getpid()


def test_what_the_call_raises_is_raised(apart):
    with pytest.raises(UserProblem, match="in words"):
        apart.call(refuse, "in words", seconds=30)
    with pytest.raises(RuntimeError, match="could not be sent"):
        apart.call(unsendable, 0, seconds=30)
    assert apart.call(double, 1, seconds=30) == 2


def test_a_crash_is_told_and_the_next_call_is_fine(apart):
    with pytest.raises(Lost) as lost:
        apart.call(die, 0, seconds=30)
    assert not lost.value.slow
    assert apart.call(double, 2, seconds=30) == 4


def test_what_hangs_is_ended_in_time(apart):
    apart.call(double, 1, seconds=30)
    began = time.monotonic()
    with pytest.raises(Lost) as lost:
        apart.call(hang, 0, seconds=0.5)
    assert lost.value.slow and time.monotonic() - began < 5
    assert apart.call(double, 3, seconds=30) == 6


def test_what_swells_is_stopped_at_its_bound(apart):
    with pytest.raises((MemoryError, Lost)):
        apart.call(swell, 0, seconds=30)
    assert apart.call(double, 4, seconds=30) == 8


def test_many_at_once_share_the_helpers(apart):
    answers = []
    threads = [
        threading.Thread(target=lambda n=n: answers.append(apart.call(double, n, seconds=60))) for n in range(12)
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(60)
    assert sorted(answers) == [2 * n for n in range(12)] and len(apart._free) <= 2


def once_dead(mark):
    """Its process is killed the first time; the second time it answers."""
    if not mark.exists():
        mark.touch()
        os.kill(os.getpid(), signal.SIGKILL)
    return "well"


def answer_and_end(_):
    """As a helper that has swollen does: it ends right after its answer."""
    threading.Timer(0.05, os._exit, (0,)).start()
    return "well"


def test_a_good_call_is_not_blamed_for_a_helper_that_was_killed(apart, tmp_path):
    assert apart.call(once_dead, tmp_path / "mark", seconds=30) == "well"


def test_nor_for_one_that_ended_after_its_last_answer(apart):
    for pause in (0.0, 0.03, 0.05, 0.06):
        assert apart.call(answer_and_end, None, seconds=30) == "well"
        time.sleep(pause)
        assert apart.call(double, 4, seconds=30) == 8

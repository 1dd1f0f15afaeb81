"""Memory of the Bench: bounded in bytes, the same made once, given back when nobody works."""

import threading
import time
from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest

from lenskeep.core.engine.kept import Kept, bytes_held
from lenskeep.store import frames
from lenskeep.studio.bench.ready_frames import ReadyFrames
from lenskeep.studio.bench.shared_work import OneAtATime
from lenskeep.studio.bench.stage import KEY_SIDE, WITNESS_SIDE, Stage
from tools.made_up import look_recipe, ready_shoot

MEGABYTE = 1_000_000


def block(megabytes):
    return np.zeros(megabytes * MEGABYTE, np.uint8)


def test_what_is_held_is_bounded_and_the_oldest_goes_first():
    held = ReadyFrames(10 * MEGABYTE)
    for key in "abc":
        held.get(key, lambda: block(4))
    assert held.held_bytes() == 8 * MEGABYTE
    made = []
    held.get("b", lambda: made.append("b") or block(4))
    held.get("a", lambda: made.append("a") or block(4))
    assert made == ["a"], "a was the oldest"


def test_what_grows_while_it_is_used_is_counted_anew():
    held = ReadyFrames(10 * MEGABYTE)
    held.get("old", lambda: [block(4)])
    grown = held.get("new", lambda: [block(2)])
    grown.append(block(7))
    held.weigh("new")
    assert held.held_bytes() == 9 * MEGABYTE


def test_one_that_is_larger_than_the_room_is_held_alone():
    held = ReadyFrames(1 * MEGABYTE)
    held.get("a", lambda: block(1))
    held.get("b", lambda: block(3))
    assert held.held_bytes() == 3 * MEGABYTE


def test_arrays_count_once_and_views_as_what_they_are_of():
    array = block(2)
    kept = Kept()
    kept.get("x", lambda: (array[:10], {"again": array}))
    assert bytes_held([array, array, array[5:], kept]) == 2 * MEGABYTE
    assert bytes_held(["text", 3, None]) == 0


def test_it_is_given_back_when_nobody_works():
    held = ReadyFrames(100 * MEGABYTE, idle_seconds=0.2)
    held.get("a", lambda: block(5))
    end = time.monotonic() + 5
    while held.held_bytes():
        assert time.monotonic() < end
        time.sleep(0.02)
    held.get("a", lambda: block(5))
    assert held.held_bytes() == 5 * MEGABYTE, "and it can be used again"


def test_equal_requests_at_once_are_made_once_and_all_get_the_answer():
    made, go, shared = [], threading.Event(), OneAtATime()

    def make():
        made.append(1)
        go.wait(5)
        return "picture"

    with ThreadPoolExecutor(8) as pool:
        asked = [pool.submit(shared.get, "key", make) for _ in range(8)]
        while not made:
            time.sleep(0.01)
        time.sleep(0.05)
        go.set()
        assert [a.result(5) for a in asked] == ["picture"] * 8
    assert len(made) == 1
    assert shared.get("key", lambda: "anew") == "anew", "nothing is kept beyond the moment"


def test_a_failure_reaches_everybody_who_asked_and_is_not_kept():
    shared = OneAtATime()
    with pytest.raises(KeyError):
        shared.get("key", lambda: {}["nothing"])
    assert shared.get("key", lambda: 1) == 1


def test_the_stage_stays_within_its_room_over_many_frames(library, tmp_path, monkeypatch):
    monkeypatch.setenv("LENSKEEP_BENCH_MB", "45")
    shoot = ready_shoot(library, tmp_path / "card", 8, 400, 600)
    stage = Stage(library)
    for frame in frames.frames(library.db, shoot):
        for side in (KEY_SIDE, WITNESS_SIDE):
            stage.picture(frame.id, look_recipe(), side)
            assert stage.held_bytes() <= 45 * MEGABYTE
    assert stage.held_bytes() > 10 * MEGABYTE, "something is kept, though"

"""Crashes are blamed on whoever is to blame; stops and full disks on nobody; and the queue survives all of it."""

import errno
import os
import signal
import sqlite3
import threading
import time
from pathlib import Path

import pytest

from lenskeep.store import jobs
from lenskeep.store.database import Database, full_words
from lenskeep.work import flights
from lenskeep.work import runner as running
from lenskeep.work.engines.here import Here, Processes
from lenskeep.work.runner import Runner
from tests.work.queues import Recorder, queued, run


@pytest.fixture
def db(tmp_path):
    return Database(tmp_path / "library.sqlite")


@pytest.fixture(autouse=True)
def no_waiting(monkeypatch):
    monkeypatch.setattr(running, "PAUSES", (0.01,))


def work_or_die(payload):
    """Dies for the frames named "dies", and once only for those named "once"."""
    folder, frame_id, bad = payload
    mark = Path(folder) / f"died-{frame_id}"
    if frame_id in bad.get("dies", ()) or (frame_id in bad.get("once", ()) and not mark.exists()):
        mark.touch()
        os._exit(9)
    time.sleep(0.02)
    return frame_id


class Deadly(Recorder):
    run = staticmethod(work_or_die)


def pool():
    return Processes(2, [])


def test_only_the_one_that_crashes_is_given_up_and_its_frame_says_why(db, tmp_path):
    job_id, handler = queued(db, 8), Deadly(tmp_path, dies={4})
    run(db, handler, pool)
    job = jobs.job(db, job_id)
    assert (job.state, job.done, job.failed) == ("done", 7, 1)
    assert jobs.failures(db, job_id) == [("4.jpg", jobs.CRASHED)]
    assert handler.told == [(4, jobs.CRASHED)], "the reason reaches the frame, not the item alone"
    assert sorted(handler.recorded) == [1, 2, 3, 5, 6, 7, 8]


def test_a_crash_that_does_not_come_again_costs_nothing(db, tmp_path):
    job_id, handler = queued(db, 6), Deadly(tmp_path, once={1, 2, 3, 5})
    run(db, handler, pool)
    job = jobs.job(db, job_id)
    assert (job.done, job.failed, handler.told) == (6, 0, [])


def test_many_clean_stops_give_up_no_frame(db, tmp_path):
    job_id, handler = queued(db, 6), Deadly(tmp_path)
    for _ in range(8):
        runner = Runner(db, {"apply": handler}, pool)
        runner.start()
        time.sleep(0.03)
        runner.stop()
    run(db, handler, pool)
    assert (jobs.job(db, job_id).done, jobs.job(db, job_id).failed) == (6, 0)


class Full(Recorder):
    """Its disk is full until room is made."""

    def __init__(self, folder, error):
        super().__init__(folder)
        self.error, self.full = error, True
        self.before = self.room

    def room(self, frame_id):
        if self.full and frame_id == 3:
            raise self.error

    run = staticmethod(lambda payload: payload[1])


ERRORS = [OSError(errno.ENOSPC, "No space left on device"), sqlite3.OperationalError("database or disk is full")]


@pytest.mark.parametrize("error", ERRORS, ids=["file", "database"])
def test_a_full_disk_holds_the_queue_up_and_it_goes_on_by_itself(db, tmp_path, error):
    job_id, handler = queued(db, 5), Full(tmp_path, error)
    runner = Runner(db, {"apply": handler}, Here)
    runner.start()
    try:
        wait(lambda: runner.trouble == full_words(db.path.parent))
        assert jobs.job(db, job_id).failed == 0 and jobs.job(db, job_id).active
        handler.full = False
        runner.wake()
        wait(lambda: jobs.job(db, job_id).state == "done")
        assert runner.trouble == ""
    finally:
        runner.stop()
    assert (jobs.job(db, job_id).done, sorted(set(handler.recorded))) == (5, [1, 2, 3, 4, 5])


class Unwritable(Recorder):
    """Even saying that the job failed fails: what ended the queue's thread for good."""

    def finish(self, job):
        raise RuntimeError("unforeseen")


def test_the_queue_survives_when_even_the_failure_cannot_be_written(db, tmp_path, monkeypatch):
    job_id = queued(db, 1)
    real, calls = jobs.fail_job, []

    def full_at_first(*words):
        calls.append(words)
        if len(calls) < 4:
            raise sqlite3.OperationalError("database or disk is full")
        real(*words)

    monkeypatch.setattr(jobs, "fail_job", full_at_first)
    runner = Runner(db, {"apply": Unwritable(tmp_path)}, Here)
    runner.start()
    try:
        wait(lambda: jobs.job(db, job_id).state == "failed")
    finally:
        runner.stop()
    assert "unexpected" in jobs.job(db, job_id).message and "defect" in jobs.job(db, job_id).message


def test_a_defect_costs_its_own_frame_and_is_shown_by_its_number_only(db, tmp_path):
    job_id, handler = queued(db, 3), Recorder(tmp_path)

    def broken(payload):
        if payload[1] == 2:
            raise KeyError("some inner thing")
        return payload[1]

    handler.run = broken
    run(db, handler)
    [(name, reason)] = jobs.failures(db, job_id)
    assert name == "2.jpg" and "defect" in reason and "inner thing" not in reason
    assert jobs.job(db, job_id).done == 2


def slow(payload):
    (Path(payload[0]) / f"started-{payload[1]}").touch()
    time.sleep(60 if payload[1] > 2 else 0.5)
    return payload[1]


def test_a_stop_takes_moments_and_records_what_is_nearly_done(db, tmp_path):
    job_id, handler = queued(db, 4), Recorder(tmp_path)
    handler.run = slow
    runner = Runner(db, {"apply": handler}, lambda: Processes(4, []))
    runner.start()
    wait(lambda: len(list(tmp_path.glob("started-*"))) == 4, 60)
    began = time.monotonic()
    runner.stop()
    assert time.monotonic() - began < 3.0
    assert sorted(handler.recorded) == [1, 2], "what was done is not thrown away"
    states = [state for _, state in jobs.items(db, job_id)]
    assert states == ["done", "done", "waiting", "waiting"]


def wait(condition, seconds=20):
    end = time.monotonic() + seconds
    while not condition():
        assert time.monotonic() < end, "it did not come to that"
        time.sleep(0.01)


def test_a_second_runner_takes_over_when_the_first_ends(db, tmp_path):
    first, second = (Runner(db, {"apply": Recorder(tmp_path)}, Here) for _ in range(2))
    first.start()
    wait(lambda: first._lock_path.exists())
    time.sleep(0.1)
    second.start()
    first.stop()
    job_id = queued(db, 2)
    try:
        wait(lambda: jobs.job(db, job_id).state == "done")
    finally:
        second.stop()
    assert threading.active_count() < 20


def work_or_be_killed(payload):
    """Killed as from outside: four times for the frame named "killed", always for the one named "hunted"."""
    folder, frame_id, bad = payload
    with (Path(folder) / f"begun-{frame_id}").open("a") as handle:
        handle.write("x")
    begun = (Path(folder) / f"begun-{frame_id}").stat().st_size
    if frame_id in bad.get("hunted", ()) or (frame_id in bad.get("killed", ()) and begun <= 4):
        os.kill(os.getpid(), signal.SIGKILL)
    return frame_id


class Hunted(Recorder):
    run = staticmethod(work_or_be_killed)


def test_an_item_is_not_blamed_for_workers_that_somebody_killed(db, tmp_path):
    job_id, handler = queued(db, 4), Hunted(tmp_path, killed={2})
    run(db, handler, pool)
    job = jobs.job(db, job_id)
    assert (job.state, job.done, job.failed) == ("done", 4, 0)
    assert (tmp_path / "begun-2").stat().st_size > jobs.MOST_CRASHES, "it had more tries than a crash of its own has"


def test_one_that_never_comes_through_is_given_up_all_the_same(db, tmp_path, monkeypatch):
    monkeypatch.setattr(flights, "MOST_KILLS", 2)
    job_id, handler = queued(db, 2), Hunted(tmp_path, hunted={1})
    run(db, handler, pool)
    assert jobs.failures(db, job_id) == [("1.jpg", jobs.CRASHED)]

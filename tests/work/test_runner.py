"""The runner: failures are told, cancelling stops, resuming goes on, a dying worker costs only its own item."""

import os
import sqlite3
import threading
import time
from contextlib import closing
from functools import partial
from pathlib import Path

import pytest

from lenskeep.core.problems import UserProblem
from lenskeep.store import jobs, shoots
from lenskeep.store.database import Database
from lenskeep.work.engines.here import Processes
from lenskeep.work.runner import Runner
from tests.work.queues import Recorder, queued, run, until


def there(told, _):
    """What roused workers run: they say who they are."""
    with Path(told).open("a") as handle:
        handle.write(f"{os.getpid()}\n")
    time.sleep(1.0)  # else one of them may do it all


@pytest.fixture
def db(tmp_path):
    return Database(tmp_path / "library.sqlite")


def test_one_damaged_frame_does_not_hold_up_the_rest(db, tmp_path):
    job_id, handler = queued(db, 5), Recorder(tmp_path, fails={3})
    assert run(db, handler)
    job = jobs.job(db, job_id)
    assert (job.state, job.done, job.failed, job.message) == ("done", 4, 1, "4 done")
    assert jobs.failures(db, job_id) == [("3.jpg", "the file is damaged")] and handler.told == [
        (3, "the file is damaged")
    ]
    handler.bad = {}
    jobs.resume(db, job_id)
    run(db, handler)
    assert jobs.job(db, job_id).done == 5 and sorted(handler.recorded) == [1, 2, 3, 4, 5]


def test_cancel_stops_after_what_is_under_way_and_resume_does_the_rest_once(db, tmp_path):
    job_id, handler = queued(db, 60), Recorder(tmp_path)
    handler.before = lambda frame_id: jobs.cancel(db, job_id) if frame_id == 3 else None
    run(db, handler)
    job = jobs.job(db, job_id)
    assert job.state == "cancelled" and 3 <= job.done < 30, "what was claimed together is done, the rest is not"
    assert job.message == f"Stopped after {job.done} of 60."
    handler.before = lambda frame_id: None
    jobs.resume(db, job_id)
    run(db, handler)
    assert sorted(map(int, (tmp_path / "done.txt").read_text().split())) == list(range(1, 61))


def test_a_worker_that_dies_is_replaced_and_only_its_item_is_given_up(db, tmp_path):
    job_id, handler = queued(db, 5), Recorder(tmp_path, dies={2})
    run(db, handler, lambda: Processes(2, []))
    job = jobs.job(db, job_id)
    assert job.state == "done" and job.done + job.failed == 5
    assert ("2.jpg", jobs.CRASHED) in jobs.failures(db, job_id)
    assert sorted(set((tmp_path / "done.txt").read_text().split())) == ["1", "3", "4", "5"]
    assert sorted(handler.recorded) == [1, 3, 4, 5] and job.failed == 1


def test_a_job_that_fails_at_its_end_says_why(db, tmp_path):
    job_id, handler = queued(db, 2), Recorder(tmp_path)
    handler.finish_problem = "the disk is full"
    run(db, handler)
    assert (jobs.job(db, job_id).state, jobs.job(db, job_id).message) == ("failed", "the disk is full")


def test_a_kind_of_job_that_nobody_knows_ends_and_says_why(db, tmp_path):
    """One that a newer version has queued."""
    strange = jobs.add_job(db, "of-a-newer-version", None, [None])
    known, handler = queued(db, 1), Recorder(tmp_path)
    assert run(db, handler)
    assert [jobs.job(db, job_id).state for job_id in (strange, known)] == ["failed", "done"]
    assert "does not know this kind of job" in jobs.job(db, strange).message


class Slow(Recorder):
    """Somebody else writes while an item is prepared, and while what came back is brought to its place."""

    durable = True

    def elsewhere(self, words):
        other = sqlite3.connect(self.folder / "library.sqlite", timeout=0.0)
        try:
            with closing(other), other:
                other.execute("INSERT INTO shoots (name, created_at) VALUES (?, '')", (words,))
        except sqlite3.OperationalError as error:
            raise UserProblem("somebody else has to wait") from error  # what the database says would be tried again

    def prepare(self, job, item):
        self.elsewhere("while one is prepared")
        return super().prepare(job, item)

    def receive(self, job, item, result):
        self.elsewhere("while one is received")


def test_nobody_who_writes_waits_for_what_takes_long(db, tmp_path):
    job_id = queued(db, 2)
    handler = Slow(tmp_path)
    assert run(db, handler)
    assert (jobs.job(db, job_id).state, sorted(handler.recorded), handler.told) == ("done", [1, 2], [])
    written = sorted(shoot.name for shoot in shoots.shoots(db))
    assert written == ["A", *["while one is prepared"] * 2, *["while one is received"] * 2]


def test_two_runners_never_run_one_library(db, tmp_path):
    queued(db, 2)
    reached, go = threading.Event(), threading.Event()
    handler = Recorder(tmp_path)

    def hold(frame_id):
        reached.set()
        go.wait(10)

    handler.before = hold
    first = threading.Thread(target=run, args=(db, handler))
    first.start()
    assert reached.wait(10)
    assert run(db, Recorder(tmp_path)) is False
    go.set()
    first.join(10)
    assert sorted(handler.recorded) == [1, 2]


def alive(pid):
    try:
        os.kill(pid, 0)
    except OSError:
        return False
    return Path(f"/proc/{pid}/stat").read_text().split()[2] != "Z"


def test_workers_are_there_before_the_work_that_was_expected_and_go_after_a_while(db, tmp_path, monkeypatch):
    rouse = partial(there, str(tmp_path / "roused"))
    monkeypatch.setattr("lenskeep.work.runner.IDLE_SECONDS", 0.3)
    monkeypatch.setattr("lenskeep.work.runner.EXPECTED_SECONDS", 4.0)
    runner = Runner(db, {"work": Recorder(tmp_path)}, lambda: Processes(2, []))

    def who():
        return {int(line) for line in (tmp_path / "roused").read_text().split()}

    runner.start()
    try:
        assert until(lambda: runner.alive)
        runner.expect(rouse)
        assert until(lambda: (tmp_path / "roused").exists() and len(who()) == 2)
        first = who()
        time.sleep(1.0)
        assert all(alive(pid) for pid in first), "they wait longer than others do"
        runner.expect(rouse)
        assert until(lambda: not any(alive(pid) for pid in first)), "but not for ever"
        assert who() == first, "who is there already is not roused"
        runner.expect(rouse)
        assert until(lambda: len(who()) == 4)
    finally:
        runner.stop()

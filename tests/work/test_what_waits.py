"""Who waits for whom: nobody for slow work, hand-overs into one folder for each other, a job for its own full disk."""

import sqlite3
import threading

import pytest

from lenskeep.files.problems import no_room
from lenskeep.store import jobs, shoots
from lenskeep.store.database import Database
from lenskeep.work import waits
from lenskeep.work.engines.here import Here
from lenskeep.work.runner import Runner
from tests.work.queues import Recorder, queued, until


@pytest.fixture
def db(tmp_path):
    return Database(tmp_path / "library.sqlite")


def writes_at_once(db):
    """Whether another program can write at this very moment."""
    other = Database(db.path)
    other.reader.execute("PRAGMA busy_timeout = 200")
    done = []

    def write():
        try:
            shoots.add_shoot(other, "Meanwhile")
            done.append(True)
        except sqlite3.OperationalError:
            done.append(False)

    thread = threading.Thread(target=write)
    thread.start()
    thread.join()
    return done == [True]


class Slow(Recorder):
    """Looks, while it prepares and receives, whether others are kept waiting."""

    def __init__(self, folder, db):
        super().__init__(folder)
        self.db, self.free = db, []

    def prepare(self, job, item):
        self.free.append(writes_at_once(self.db))
        return super().prepare(job, item)

    def receive(self, job, item, result):
        self.free.append(writes_at_once(self.db))


def test_nobody_waits_while_items_are_prepared_and_received(db, tmp_path):
    job_id, handler = queued(db, 3), Slow(tmp_path, db)
    Runner(db, {"apply": handler}, Here).run_until_idle()
    assert handler.free == [True] * 6 and jobs.job(db, job_id).done == 3 and handler.recorded == [1, 2, 3]


class Removing(Recorder):
    """Its shoot is removed while its second item is under way; what it then writes refers to nothing."""

    def __init__(self, folder, db):
        super().__init__(folder)
        self.db = db

    def receive(self, job, item, result):
        if item.frame_id == 2:
            shoots.remove_shoot(self.db, job.shoot_id)

    def record(self, job, item, result):
        super().record(job, item, result)
        with self.db.writing() as write:
            write.execute("INSERT INTO delivered VALUES (?, ?, 'x', 1, 1, 'x', '', '')", (job.id, item.id))


def test_a_shoot_removed_under_way_ends_no_other_work(db, tmp_path):
    first = queued(db, 3)
    second = jobs.add_job(db, "quick", None, [None] * 4)
    engines = []

    def engine():
        engines.append(Here())
        return engines[-1]

    other = Recorder(tmp_path)
    Runner(db, {"apply": Removing(tmp_path, db), "quick": other}, engine).run_until_idle()
    assert jobs.job(db, first) is None and jobs.job(db, second).done == 4
    assert len(engines) == 1, "no worker was ended for it"


def going_into(db, target, count=2):
    shoot = shoots.add_shoot(db, "B")
    return jobs.add_job(db, "export", shoot, [None] * count, {"folder": target}, target=target)


class Noting(Recorder):
    def __init__(self, folder, order):
        super().__init__(folder)
        self.order = order

    def record(self, job, item, result):
        self.order.append(job.id)

    def finish(self, job):
        self.order.append(-job.id)
        return "done"


def test_two_into_one_folder_follow_each_other_and_others_do_not_wait(db, tmp_path):
    order = []
    one, two, elsewhere = going_into(db, "/a"), going_into(db, "/a"), going_into(db, "/b")
    Runner(db, {"export": Noting(tmp_path, order)}, Here).run_until_idle()
    assert order.index(-one) < order.index(two), "the later one begins when the earlier one has ended"
    assert order.index(elsewhere) < order.index(-one)


class FullStick(Noting):
    def __init__(self, folder, order, bad):
        super().__init__(folder, order)
        self.bad_job, self.full = bad, True

    def prepare(self, job, item):
        if job.id == self.bad_job and self.full:
            raise OSError(28, "No space left on device")
        return super().prepare(job, item)


def test_a_full_stick_holds_one_hand_over_and_names_itself(db, tmp_path, monkeypatch):
    stick = tmp_path / "stick"
    stick.mkdir()
    monkeypatch.setattr(waits, "free_space", lambda folder: 10**9)
    monkeypatch.setattr(waits, "same_disk", lambda one, other: one != stick)
    monkeypatch.setattr(waits, "PAUSES", (0.1,))
    order = []
    held, others = going_into(db, str(stick)), going_into(db, "/b")
    handler = FullStick(tmp_path, order, held)
    runner = Runner(db, {"export": handler}, Here)
    runner.start()
    try:
        until(lambda: jobs.job(db, others).state == "done")
        until(lambda: str(stick) in jobs.job(db, held).message)
        assert jobs.job(db, held).active and runner.trouble == "" and jobs.job(db, held).failed == 0
        handler.full = False
        until(lambda: jobs.job(db, held).state == "done")
        assert jobs.job(db, held).done == 2
    finally:
        runner.stop()


def test_the_librarys_own_full_disk_holds_everything(db, tmp_path, monkeypatch):
    job = jobs.job(db, going_into(db, str(tmp_path)))
    assert not waits.Waits(db).for_room(job) and no_room(OSError(28, "")), "the folder is on the library's own disk"
    monkeypatch.setattr(waits, "same_disk", lambda one, other: False)
    assert waits.Waits(db).for_room(job)
    monkeypatch.setattr(waits, "free_space", lambda folder: 0)
    assert not waits.Waits(db).for_room(job), "that is full, too"

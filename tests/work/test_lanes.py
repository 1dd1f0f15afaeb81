"""Lanes and turns: what somebody looks at goes first, jobs go on side by side, and quick items go together."""

import statistics
import threading
import time

import pytest

from lenskeep.store import jobs, shoots
from lenskeep.store.database import Database
from lenskeep.work.engines.here import Here, Processes
from lenskeep.work.runner import Runner
from tests.work.queues import Recorder, queued

LONG = 0.05


def sleep(payload):
    time.sleep(LONG)
    return payload[1]


def quick(payload):
    return payload[1]


class Ordered(Recorder):
    """Notes in which order items of which jobs were recorded."""

    def __init__(self, folder, run):
        super().__init__(folder)
        self.run, self.order = run, []

    def record(self, job, item, result):
        self.order.append((job.id, item.frame_id))


@pytest.fixture
def db(tmp_path):
    return Database(tmp_path / "library.sqlite")


def more(db, count, lane=jobs.BATCH):
    """A job of items without a frame."""
    return jobs.add_job(db, "apply", shoots.add_shoot(db, "B"), [None] * count, lane=lane)


def run(db, handler, engine=lambda: Processes(2, [])):
    assert Runner(db, {"apply": handler}, engine).run_until_idle()


def test_a_frame_that_somebody_looks_at_is_done_before_the_rest_of_a_batch(db, tmp_path):
    batch, handler = queued(db, 500), Ordered(tmp_path, sleep)
    runner = Runner(db, {"apply": handler}, lambda: Processes(2, []))
    runner.start()
    try:
        wait(lambda: len(handler.order) >= 6)
        asked = len(handler.order)
        now = jobs.add_job(db, "apply", None, [None], lane=jobs.NOW)
        runner.wake()
        wait(lambda: jobs.job(db, now).state == "done")
        before = [job for job, _ in handler.order].index(now) - asked
        # what is under way or handed over lands first: two workers and a spare, each with a bunch of a few items
        assert before <= 3 * 6 and jobs.job(db, batch).done < 500
    finally:
        runner.stop()


def test_what_is_on_screen_goes_before_the_rest(db, tmp_path):
    job_id, handler = queued(db, 40), Ordered(tmp_path, quick)
    jobs.bring_forward(db, shoots.shoots(db)[0].id, [39, 40])
    run(db, handler, Here)
    assert [frame for _, frame in handler.order[:2]] == [39, 40]
    assert jobs.job(db, job_id).done == 40


def test_jobs_of_two_shoots_go_on_side_by_side(db, tmp_path):
    first, handler = queued(db, 40), Ordered(tmp_path, sleep)
    second = more(db, 40)
    run(db, handler)
    places = {job: [i for i, (j, _) in enumerate(handler.order) if j == job] for job in (first, second)}
    assert len(places[first]) == len(places[second]) == 40
    assert statistics.median(places[second]) < 55 and min(places[second]) < 20, "the second did not wait for the first"


def test_a_suspect_of_one_job_runs_alone_though_another_job_has_work(db, tmp_path):
    first = queued(db, 3)
    second = more(db, 30)
    with db.writing() as write:
        write.execute("UPDATE job_items SET suspect = 1 WHERE job_id = ? AND frame_id = 2", (first,))
    alone, seen = [], set()
    lock = threading.Lock()

    class Watched(Ordered):
        def prepare(self, job, item):
            with lock:
                seen.add(item.id)
                if item.suspect:
                    alone.append(len(seen) - len(self.order) - 1)
            return super().prepare(job, item)

    handler = Watched(tmp_path, sleep)
    run(db, handler)
    assert alone == [0], "nothing else was under way"
    assert (jobs.job(db, first).done, jobs.job(db, second).done) == (3, 30)


def test_quick_items_go_in_bunches(db, tmp_path):
    """``benchmarks scale`` says what one costs."""
    job_id, handler, sizes = queued(db, 600), Ordered(tmp_path, quick), []

    class Counted(Processes):
        def submit(self, run, bunch):
            sizes.append(len(bunch.tasks))
            return super().submit(run, bunch)

    run(db, handler, lambda: Counted(2, []))
    assert jobs.job(db, job_id).done == sum(sizes) == 600
    assert len(sizes) < 200, "not one by one, however busy the machine is"
    assert sizes[0] == 1 and max(sizes) <= 24, "how quick they are is not known at first; a stop waits for few"


def test_counts_are_kept_by_whatever_changes_items(db, tmp_path):
    job_id, handler = queued(db, 9), Ordered(tmp_path, quick)
    handler.before = lambda frame_id: None
    run(db, handler, Here)
    with db.writing() as write:
        write.execute("DELETE FROM frames WHERE id = 3")
    jobs.undo_items(db, [i.id for i, _ in jobs.items(db, job_id)][:2], "gone")
    job = jobs.job(db, job_id)
    states = [state for _, state in jobs.items(db, job_id)]
    assert (job.total, job.done, job.failed) == (8, states.count("done"), states.count("failed")) == (8, 6, 2)


def wait(condition, seconds=30):
    end = time.monotonic() + seconds
    while not condition():
        assert time.monotonic() < end, "it did not come to that"
        time.sleep(0.005)

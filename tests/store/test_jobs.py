"""The queue: whatever is asked and whenever the program dies, every frame is done exactly once."""

import tempfile
from pathlib import Path

import pytest
from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, precondition, rule

from lenskeep.store import arrivals, claims, jobs, shoots
from lenskeep.store.database import Database
from tests.effort import examples


class Queue(RuleBasedStateMachine):
    """A model of the queue: what was claimed and finished, against what the database says."""

    def __init__(self):
        super().__init__()
        self.folder = tempfile.TemporaryDirectory()

    @initialize(sizes=st.lists(st.integers(0, 4), min_size=1, max_size=3))
    def fill(self, sizes):
        self.path = Path(self.folder.name) / "library.sqlite"
        self.db = Database(self.path)
        self.jobs = [self._add(n) for n in sizes]
        self.current: jobs.Job | None = None
        self.claimed: dict[int, jobs.Item] = {}
        self.finished: list[int] = []

    def _add(self, count):
        job_id = jobs.add_job(self.db, "apply", None, [])
        with self.db.writing() as write:
            write.executemany("INSERT INTO job_items (job_id) VALUES (?)", [(job_id,)] * count)
        return job_id

    @precondition(lambda self: self.current is None)
    @rule()
    def start(self):
        queued = [j for j in self.jobs if jobs.job(self.db, j).state == "queued"]
        started = jobs.start_queued(self.db)
        assert [j.id for j in started] == queued, "all of them, the oldest first"
        running = jobs.under_way(self.db)
        self.current = running[0] if running else None

    @precondition(lambda self: self.current is not None)
    @rule()
    def claim(self):
        for item in claims.claim(self.db, self.current.id, most=2):
            assert item.id not in self.claimed and item.id not in self.finished, "claimed twice"
            assert item.attempts == 0, "a stop or a kill costs nothing"
            self.claimed[item.id] = item

    @precondition(lambda self: self.claimed)
    @rule(data=st.data(), well=st.booleans())
    def land(self, data, well):
        item_id = data.draw(st.sampled_from(sorted(self.claimed)))
        del self.claimed[item_id]
        if well:
            jobs.finish_item(self.db, item_id)
            self.finished.append(item_id)
        else:
            jobs.fail_item(self.db, item_id, "damaged")

    @precondition(lambda self: self.current is not None and not self.claimed)
    @rule()
    def close(self):
        state = jobs.job(self.db, self.current.id)
        waiting = state.total - state.done - state.failed
        if state.state == "running" and waiting:
            return
        jobs.close_job(self.db, self.current.id)
        running = jobs.under_way(self.db)
        self.current = running[0] if running else None

    @rule(data=st.data())
    def cancel(self, data):
        jobs.cancel(self.db, data.draw(st.sampled_from(self.jobs)))

    @rule(data=st.data())
    def resume(self, data):
        jobs.resume(self.db, data.draw(st.sampled_from(self.jobs)))

    @rule()
    def kill(self):
        """The process dies; another opens the same file."""
        self.db = Database(self.path)
        jobs.recover(self.db)
        self.claimed.clear()
        self.current = None

    @invariant()
    def nothing_finished_is_undone(self):
        if not hasattr(self, "db"):
            return
        states = dict(self.db.reader.execute("SELECT id, state FROM job_items").fetchall())
        assert sum(state == "done" for state in states.values()) == len(self.finished)
        assert all(states[i] == "done" for i in self.finished)
        assert {i for i, state in states.items() if state == "running"} == set(self.claimed)
        for job_id in self.jobs:
            job, own = jobs.job(self.db, job_id), [state for _, state in jobs.items(self.db, job_id)]
            assert (job.total, job.done, job.failed, job.running) == (
                len(own), *(own.count(state) for state in ("done", "failed", "running")))  # fmt: skip

    def teardown(self):
        if not hasattr(self, "db"):
            return
        self.kill()
        for _ in range(2):  # what had failed before the kill is tried anew only when its job has ended
            for job_id in self.jobs:
                jobs.resume(self.db, job_id)
            for job in jobs.start_queued(self.db):
                while items := claims.claim(self.db, job.id, most=3):
                    for item in items:
                        assert item.id not in self.finished
                        self.finished.append(item.id)
                        jobs.finish_item(self.db, item.id)
                jobs.close_job(self.db, job.id)
        for job_id in self.jobs:
            state = jobs.job(self.db, job_id)
            assert state.state == "done" and state.done == state.total
        assert len(self.finished) == len(set(self.finished))
        self.folder.cleanup()


TestQueue = Queue.TestCase
TestQueue.settings = settings(max_examples=examples(40), stateful_step_count=30)


def with_items(db, count):
    job_id = jobs.add_job(db, "apply", None, [])
    with db.writing() as write:
        write.executemany("INSERT INTO job_items (job_id) VALUES (?)", [(job_id,)] * count)
    jobs.start_queued(db)
    return job_id


def claim(db, job_id, alone=True):
    """One item, if there is one."""
    return next(iter(claims.claim(db, job_id, 1, alone)), None)


def test_stops_and_kills_cost_an_item_nothing_however_many(tmp_path):
    db = Database(tmp_path / "library.sqlite")
    job_id = with_items(db, 2)
    for _ in range(20):
        claimed = [claim(db, job_id) for _ in range(2)]
        assert all(item is not None and item.attempts == 0 for item in claimed)
        jobs.recover(db)
        jobs.start_queued(db)
    assert jobs.failures(db, job_id) == []


def test_an_item_is_given_up_only_for_crashes_that_it_had_alone(tmp_path):
    db = Database(tmp_path / "library.sqlite")
    job_id = with_items(db, 3)
    together = [claim(db, job_id) for _ in range(2)]
    for item in together:
        jobs.put_back(db, item.id, suspect=True)
    third = claim(db, job_id)
    assert third.id not in {i.id for i in together}, "suspects wait until the others are through"
    assert claim(db, job_id, alone=False) is None, "a suspect never runs beside somebody"
    jobs.finish_item(db, third.id)
    first = claim(db, job_id)
    assert first.suspect
    for crash in range(1, jobs.MOST_CRASHES):
        assert jobs.note_crash(db, first.id) is False
        again = claim(db, job_id)
        assert (again.id, again.attempts) == (first.id, crash)
    assert jobs.note_crash(db, first.id) is True
    jobs.fail_item(db, first.id, jobs.CRASHED)
    other = claim(db, job_id)
    assert other.id == together[1].id and other.attempts == 0, "its neighbour has lost nothing"


def test_a_failed_transaction_leaves_nothing(tmp_path):
    db = Database(tmp_path / "library.sqlite")
    with pytest.raises(RuntimeError), db.writing():
        jobs.add_job(db, "apply", None, [])
        raise RuntimeError
    assert jobs.jobs(db) == []
    Database(tmp_path / "library.sqlite")  # migrations run once only


def test_a_job_that_got_more_items_while_it_was_closed_goes_on(tmp_path):
    db = Database(tmp_path / "library.sqlite")
    job_id = with_items(db, 1)
    jobs.finish_item(db, claim(db, job_id).id)
    jobs.add_items(db, job_id, [None])
    jobs.close_job(db, job_id)
    assert jobs.job(db, job_id).state == "running"
    jobs.finish_item(db, claim(db, job_id).id)
    jobs.close_job(db, job_id)
    assert jobs.job(db, job_id).state == "done"


def test_lanes_are_claimed_first_to_last_and_a_bunch_stays_within_one(tmp_path):
    db = Database(tmp_path / "library.sqlite")
    job_id = with_items(db, 6)
    ids = [item.id for item, _ in jobs.items(db, job_id)]
    with db.writing() as write:
        write.execute("UPDATE job_items SET lane = 1 WHERE id IN (?, ?)", (ids[3], ids[5]))
        write.execute("UPDATE job_items SET lane = 0 WHERE id = ?", (ids[4],))
    bunches = [[item.id for item in claims.claim(db, job_id, 4)] for _ in range(3)]
    assert bunches == [[ids[4]], [ids[3], ids[5]], ids[:3]] and claims.claim(db, job_id, 4) == []


def test_what_works_with_masks_waits_frame_by_frame_for_those_that_are_being_found(tmp_path):
    db = Database(tmp_path / "library.sqlite")
    shoot = shoots.add_shoot(db, "A")
    facts = {"suffix": ".jpg", "size": 1, "width": 1, "height": 1, "taken_at": None}
    frames = [arrivals.add_frame(db, shoot, file_name=f"{n}.jpg", sha256=f"{n:064d}", **facts) for n in range(2)]
    finding = jobs.add_job(db, "find", shoot, frames)
    applying = jobs.add_job(db, "apply", shoot, frames)
    jobs.start_queued(db)
    assert claims.claim(db, applying, most=5) == []
    found = claim(db, finding)
    assert claims.claim(db, applying, most=5) == [], "it is under way"
    jobs.finish_item(db, found.id)
    [ready] = claims.claim(db, applying, most=5)
    assert ready.frame_id == found.frame_id
    later = jobs.add_job(db, "find", shoot, frames)
    jobs.start_queued(db)
    jobs.finish_item(db, claim(db, finding).id)
    assert [item.frame_id for item in claims.claim(db, applying, most=5)] != [ready.frame_id]
    assert later > applying, "what is found anew after it was asked for holds nothing up"

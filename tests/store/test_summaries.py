"""Summaries say what whole rows say, whatever changed them; lists are read by index and a page at a time."""

import tempfile
from pathlib import Path

import pytest
from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule

from lenskeep.core.recipes.overrides import FrameOverride
from lenskeep.store import arrivals, findings, finished, frames, jobs, looks, recipes, scenes, shoots, walls
from lenskeep.store.database import Database
from lenskeep.studio.wanting import Wanting, settle_scene, wanted_by
from tests.effort import examples
from tools.made_up import facts_for, look_recipe

DETECTOR = "find-of-the-test"
TAKEN = [None, "2026-09-12T18:00:00", "2026-09-12T18:00:01", "2026-09-12T18:00:01"]


def add(db, shoot, number, taken=None):
    name, sha = f"IMG_{number:04d}.jpg", f"{number:064x}"
    return arrivals.add_frame(
        db, shoot, file_name=name, sha256=sha, suffix=".jpg", size=1, width=3, height=2, taken_at=taken
    )


def facts(trust, **more):
    subject = {"trust": trust, "area": 0.2, "reasons": ["It is torn."] if trust < 0.8 else []}
    return facts_for(2, 3, detector=DETECTOR, subject=subject, **more)


class Frames(RuleBasedStateMachine):
    """Frames of two shoots that share photographs, changed in every way there is."""

    def __init__(self):
        super().__init__()
        self.folder = tempfile.TemporaryDirectory()

    @initialize()
    def fill(self):
        self.db = Database(Path(self.folder.name) / "library.sqlite")
        self.shoots = [shoots.add_shoot(self.db, name) for name in "AB"]
        self.scenes = [scenes.first_scene(self.db, s).id for s in self.shoots]
        self.ids = [add(self.db, s, n, taken) for s in self.shoots for n, taken in enumerate(TAKEN)]
        self.version = recipes.save_recipe(self.db, look_recipe())

    def whole(self, frame_id):
        return frames.frame(self.db, frame_id)

    def settle(self, frame_id):
        """As finding does in the same transaction."""
        frame = self.whole(frame_id)
        finished.set_wanted(self.db, {frame_id: wanted_by(self.db, frame, frame.override)})

    pick = st.integers(0, 2 * len(TAKEN) - 1)

    @rule(at=pick, trust=st.sampled_from([0.3, 0.95]), found=st.booleans())
    def find(self, at, trust, found):
        more = {} if found else {"subject_box": None, "skyline": None}
        findings.keep_facts(self.db, self.whole(self.ids[at]).content, facts(trust, **more), self.ids[at])
        self.settle(self.ids[at])

    @rule(at=pick)
    def fail(self, at):
        findings.mark_failed(self.db, self.ids[at], "It is damaged.")

    @rule(at=pick)
    def forget(self, at):
        findings.forget_facts(self.db, [self.ids[at]])
        self.settle(self.ids[at])

    @rule(at=pick, accepted=st.booleans())
    def accept(self, at, accepted):
        frames.set_accepted(self.db, self.ids[at], accepted)

    @rule(scene=st.integers(0, 1), strength=st.sampled_from([0.5, 1.0]))
    def give(self, scene, strength):
        looks.give_look(self.db, self.scenes[scene], [(self.version.id, strength)])
        settle_scene(self.db, self.scenes[scene])

    @rule(at=pick, strength=st.sampled_from([0.4, 1.0]))
    def change(self, at, strength):
        frame, override = self.whole(self.ids[at]), FrameOverride(strength=strength)
        frames.set_override(self.db, frame.id, override, wanted_by(self.db, frame, override))

    @rule(at=pick, missing=st.sampled_from([[], ["No sky was found here."]]), old=st.booleans())
    def render(self, at, missing, old):
        frame = self.whole(self.ids[at])
        key = "0" * 32 if old else frame.wanted_key
        kept = finished.keep_result(self.db, frame.id, key, missing)
        assert kept == (key == frame.wanted_key)

    @invariant()
    def summaries_say_what_the_whole_says(self):
        if not hasattr(self, "db"):
            return
        for shoot in self.shoots:
            rows, lists = frames.frames(self.db, shoot), frames.summaries(self.db, shoot)
            for whole, short in zip(rows, lists, strict=True):
                self.agrees(whole, short)
            self.counts_agree(rows, walls.counts(self.db, shoot))
            assert walls.counts(self.db, shoot) == walls.all_counts(self.db)[shoot]

    def agrees(self, whole, short):
        known = whole.facts if whole.found_by else None
        assert (short.box, short.skyline) == ((known.subject_box, known.skyline) if known else (None, None))
        worst = min((one.trust for one in known.doubts().values()), default=1.0) if known else 1.0
        assert short.trust == worst and short.doubt == bool(known and known.doubtful)
        assert short.changed == (not whole.override.is_neutral)
        doubted = whole.state == "failed" or bool(known and (known.doubtful or whole.missing))
        assert short.doubtful == (doubted and not whole.accepted)
        look = looks.look(self.db, whole.scene_id)
        assert short.wanted_key == (Wanting(look).key(whole.content, whole.override, whole.found_by) if look else "")

    def counts_agree(self, rows, counts):
        assert counts.frames == len(rows) and counts.found == sum(f.found for f in rows)
        assert counts.finished == sum(f.finished for f in rows) and counts.stale == sum(f.stale for f in rows)
        assert counts.doubtful == sum(f.doubtful for f in rows) and counts.changed == sum(f.changed for f in rows)
        assert counts.touched == max(f.touched for f in rows)

    def teardown(self):
        self.folder.cleanup()


TestFrames = Frames.TestCase
TestFrames.settings = settings(max_examples=examples(25), stateful_step_count=20)


@pytest.fixture
def many(tmp_path):
    db = Database(tmp_path / "library.sqlite")
    shoot = shoots.add_shoot(db, "Many")
    with db.writing():
        for n in range(157):
            frame_id = add(db, shoot, n, f"2026-09-12T18:{n % 53:02d}:00" if n % 7 else None)
            if n % 3 == 0:
                findings.keep_facts(db, f"{n:064x}", facts(0.3 if n % 2 else 0.9), frame_id)
    return db, shoot


@pytest.mark.parametrize("mark", ["all", "doubtful"])
def test_pages_put_together_are_the_whole_list_in_order(many, mark):
    db, shoot = many
    everything = [f.id for f in frames.summaries(db, shoot) if mark == "all" or f.doubtful]
    places = walls.pages(db, shoot, mark, 20)
    paged = [[f.id for f in walls.page(db, shoot, mark, p.place, p.id, 20)] for p in places]
    assert [i for page in paged for i in page] == everything
    assert [len(page) for page in paged] == [p.count for p in places]
    assert [f.id for f in walls.page(db, shoot, mark, "", 0, 20)] == everything[:20]
    times = [f.taken_at or "~" for f in frames.summaries(db, shoot)]
    assert times == sorted(times), "frames without a time come last"


@pytest.mark.parametrize("mark", ["all", "doubtful"])
def test_walking_from_frame_to_frame_meets_every_one_once(many, mark):
    db, shoot = many
    everything = [f.id for f in frames.summaries(db, shoot) if mark == "all" or f.doubtful]
    at, met = everything[0], []
    while at is not None:
        met.append(at)
        where = walls.neighbours(db, frames.summary(db, at), mark)
        assert (where.at, where.of) == (len(met), len(everything))
        assert where.before == (met[-2] if len(met) > 1 else None)
        at = where.after
    assert met == everything


def test_a_change_is_noticed_once_and_by_its_own_shoot(many):
    db, shoot = many
    other = shoots.add_shoot(db, "Other")
    since = walls.counts(db, shoot).touched
    assert walls.touched_since(db, shoot, since, 10) == []
    ids = [f.id for f in frames.summaries(db, shoot)][:3]
    for frame_id in ids:
        frames.set_accepted(db, frame_id, True)
    changed = walls.touched_since(db, shoot, since, 10)
    assert [f.id for f in changed] == ids and walls.touched_since(db, other, 0, 10) == []
    assert walls.touched_since(db, shoot, changed[-1].touched, 10) == []


PLANS = [
    ("a page of the wall", walls.page, ("all", "2026", 5, 60)),
    ("a page of the doubtful", walls.page, ("doubtful", "2026", 5, 60)),
    ("what changed", walls.touched_since, (5, 60)),
    ("a shoot's jobs", jobs.jobs, (20,)),
    ("its active job", jobs.active_jobs, ()),
    ("a shoot's scenes", scenes.scenes, ()),
]


@pytest.mark.parametrize(("_", "read", "rest"), PLANS, ids=[p[0] for p in PLANS])
def test_lists_go_by_an_index_and_sort_nothing(many, _, read, rest):
    db, shoot = many
    asked = []
    db.reader.set_trace_callback(asked.append)
    read(db, shoot, *rest)
    db.reader.set_trace_callback(None)
    for sql in asked:
        steps = [row["detail"] for row in db.reader.execute(f"EXPLAIN QUERY PLAN {sql}")]
        assert steps and all(step.startswith("SEARCH") and "INDEX" in step for step in steps), steps


def test_every_foreign_key_that_is_looked_along_has_its_index(many):
    db, _ = many
    plans = {
        "SELECT 1 FROM job_items WHERE frame_id = 1": "job_items_by_frame",
        "SELECT 1 FROM frames WHERE sha256 = 'a'": "frames_by_sum",
        "SELECT 1 FROM frames WHERE result_key = 'a'": "frames_by_result",
        "SELECT 1 FROM layers WHERE version_id = 1": "layers_by_version",
        "SELECT id FROM job_items WHERE job_id = 1 AND state = 'waiting' ORDER BY suspect, lane, id LIMIT 5":
            "job_items_waiting",
    }  # fmt: skip
    for sql, index in plans.items():
        [step] = [row["detail"] for row in db.reader.execute(f"EXPLAIN QUERY PLAN {sql}")]
        assert index in step, step

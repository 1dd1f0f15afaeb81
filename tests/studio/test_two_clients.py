"""Two clients at one Bench and one frame: whatever they do and however late, no accepted change is ever lost."""

import shutil
import tempfile
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest
from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule

from lenskeep.core.recipes.edit import EditProblem
from lenskeep.core.recipes.overrides import StepOverride
from lenskeep.store import arrivals, drafts, frames, recipes, shoots
from lenskeep.studio import applying, looks
from lenskeep.studio.bench import draft as bench
from lenskeep.studio.library import Library
from lenskeep.studio.problems import ChangedMeanwhile
from tests.asked import asked, setting
from tests.effort import examples
from tools.made_up import look_recipe, ready_shoot

CLIENTS = st.sampled_from(["a", "b"])
STEPS = st.sampled_from(["subject", "background", "sky"])
VALUES = st.sampled_from([0.1, 0.25, 0.5, 0.75, 1.25, 1.5])


class TwoClients(RuleBasedStateMachine):
    """Each client knows the state it has seen last. ``truth`` holds what was accepted last for every value."""

    def __init__(self):
        super().__init__()
        self.folder = tempfile.TemporaryDirectory()

    @initialize()
    def open(self):
        self.library = Library(Path(self.folder.name) / "home")
        db = self.library.db
        self.shoot = shoots.add_shoot(db, "Shared")
        self.frame = arrivals.add_frame(
            db, self.shoot, file_name="a.jpg", sha256="a" * 64, suffix=".jpg", size=1, width=3, height=2, taken_at=None
        )
        bench.load(self.library, self.shoot, look_recipe())
        self.truth = {s.id: s.strength for s in look_recipe().steps}
        self.past, self.future = [], []
        self.own = {}
        self.seen = {}
        self.seen_frame = {}
        for client in "ab":
            self.look(client)

    def recipe(self):
        return bench.draft(self.library, self.shoot).recipe

    @rule(client=CLIENTS)
    def look(self, client):
        """The client's page is renewed."""
        self.seen[client] = drafts.state_number(self.library.db, self.shoot)
        self.seen_frame[client] = dict(frames.frame(self.library.db, self.frame).override.steps)

    def accepted(self, client, changed, truth):
        if truth != self.truth:
            self.past.append(self.truth)
            self.future = []
        self.truth = truth
        self.seen[client] = changed.state

    @rule(client=CLIENTS, step=STEPS, value=VALUES)
    def set_strength(self, client, step, value):
        on, known = self.seen[client], drafts.earlier(self.library.db, self.shoot, self.seen[client])
        there = step in self.truth
        try:
            changed = bench.change(self.library, self.shoot, setting({f"steps/{step}/strength": value}), on)
        except ChangedMeanwhile:
            assert known is None or not there or step not in {s.id for s in known.recipe.steps}
            return
        except EditProblem:
            assert not there
            return
        self.accepted(client, changed, {**self.truth, step: value})

    @rule(client=CLIENTS)
    def add(self, client):
        changed = bench.change(
            self.library, self.shoot, asked("add-step", {"where": "whole", "what": "warmth"}), self.seen[client]
        )
        self.accepted(client, changed, {**self.truth, changed.added: 1.0})

    @rule(client=CLIENTS, step=STEPS)
    def remove(self, client, step):
        try:
            changed = bench.change(self.library, self.shoot, asked("remove-step", {"step": step}), self.seen[client])
        except (ChangedMeanwhile, EditProblem):
            return
        self.accepted(client, changed, {k: v for k, v in self.truth.items() if k != step})

    @rule(client=CLIENTS, back=st.booleans())
    def move(self, client, back):
        """Undo and redo are refused to whoever has not seen what they would take back."""
        fresh = self.seen[client] == drafts.state_number(self.library.db, self.shoot)
        try:
            moved = (bench.undo if back else bench.redo)(self.library, self.shoot, self.seen[client])
        except ChangedMeanwhile:
            assert not fresh
            return
        assert fresh
        here, there = (self.past, self.future) if back else (self.future, self.past)
        if moved and here:
            there.append(self.truth)
            self.truth = here.pop()
        elif moved:  # from the loaded recipe to the empty start
            there.append(self.truth)
            self.truth = {s.id: s.strength for s in self.recipe().steps}
        self.look(client)

    @rule(client=CLIENTS, step=STEPS, value=VALUES)
    def change_frame(self, client, step, value):
        seen, new = self.seen_frame[client].get(step, StepOverride()), StepOverride(strength=value)
        now = self.own.get(step, StepOverride())
        try:
            looks.change_frame(self.library, self.frame, step_id=step, step=new, seen=seen)
        except ChangedMeanwhile:
            assert seen != now, "a change on what is there was refused"
            return
        assert seen == now, "a late change went over a newer one"
        self.own[step] = new
        self.seen_frame[client][step] = new

    @invariant()
    def nothing_accepted_is_lost(self):
        if not hasattr(self, "truth"):
            return
        assert {s.id: s.strength for s in self.recipe().steps} == self.truth
        assert dict(frames.frame(self.library.db, self.frame).override.steps) == self.own

    def teardown(self):
        self.folder.cleanup()


TestTwoClients = TwoClients.TestCase
TestTwoClients.settings = settings(max_examples=examples(40), stateful_step_count=30)


def test_a_hundred_changes_of_each_of_two_clients_at_once_are_all_there(library, tmp_path):
    """63 and 69 of them went back to an older value when reading, changing and writing were three statements."""
    shoot = ready_shoot(library, tmp_path / "card", 1)
    bench.load(library, shoot, look_recipe())
    shutil.rmtree(tmp_path / "card")
    lost = []

    def client(step):
        on = drafts.state_number(library.db, shoot)
        for n in range(1, 101):
            value = n / 100
            on = bench.change(library, shoot, setting({f"steps/{step}/strength": value}), on).state
            there = bench.draft(library, shoot).recipe.step(step).strength
            if there != value:
                lost.append((step, value, there))

    with ThreadPoolExecutor(2) as pool:
        list(pool.map(client, ["subject", "sky"]))
    assert lost == []
    undone = set()
    while bench.undo(library, shoot):
        undone.add(bench.draft(library, shoot).recipe.model_dump_json())
    assert len(undone) == 200, "each of them can be undone by itself; the first state is what was before the first"


def test_two_who_change_one_frame_at_once_keep_both_changes(library, tmp_path):
    shoot = ready_shoot(library, tmp_path / "card", 1)
    version = recipes.save_recipe(library.db, look_recipe())
    looks.give_look(library, shoot, version.id, 1.0)
    [frame] = frames.frames(library.db, shoot)

    def client(step):
        for n in range(1, 9):
            looks.change_frame(library, frame.id, step_id=step, step=StepOverride(strength=n / 8))
            applying.render_frame(library, frame.id)

    with ThreadPoolExecutor(3) as pool:
        list(pool.map(client, ["subject", "sky", "background"]))
    now = frames.frame(library.db, frame.id)
    assert {k: v.strength for k, v in now.override.steps.items()} == dict.fromkeys(
        ["subject", "sky", "background"], 1.0
    )
    assert now.result_key == now.wanted_key, "the picture is the newest one"


def test_a_late_change_is_made_on_what_it_speaks_of_or_refused(library, tmp_path):
    shoot = ready_shoot(library, tmp_path / "card", 1)
    bench.load(library, shoot, look_recipe())
    for kind in ("warmth", "contrast"):
        bench.change(library, shoot, asked("add-adjustment", {"step": "sky", "kind": kind}))
    first, warmth, contrast = (a.id for a in bench.draft(library, shoot).recipe.step("sky").adjustments)
    seen = drafts.state_number(library.db, shoot)
    bench.change(library, shoot, asked("remove-adjustment", {"step": "sky", "adjustment": first}), seen)
    with pytest.raises(ChangedMeanwhile):
        bench.change(library, shoot, asked("remove-adjustment", {"step": "sky", "adjustment": first}), seen)
    late = bench.change(library, shoot, setting({f"steps/sky/adjustments/{warmth}/mired": 9.0}), seen)
    assert late.late, "what is spoken of by its own name is still the same, wherever it stands by now"
    bench.change(library, shoot, asked("remove-adjustment", {"step": "sky", "adjustment": contrast}), seen)
    assert [a.mired for a in bench.draft(library, shoot).recipe.step("sky").adjustments] == [9.0]
    late = bench.change(library, shoot, asked("set", {"values": {"steps/subject/adjustments/a1/ev": 1.0}}), seen)
    assert late.late and bench.draft(library, shoot).recipe.step("subject").adjustments[0].ev == 1.0
    with pytest.raises(ChangedMeanwhile):
        bench.save(library, shoot, "Evening", ["sky"], 1.0, seen)

"""What changed is kept instead of the whole, and every state can be had back."""

import base64
import os

from hypothesis import given, settings
from hypothesis import strategies as st

from lenskeep.core.recipes.models import Recipe
from lenskeep.files.assets import asset_key
from lenskeep.store import assets, drafts, shoots
from lenskeep.store.database import Database
from lenskeep.store.splices import splice, spliced, unwound
from tests.effort import examples

TEXTS = st.text(max_size=60)


@given(TEXTS, TEXTS)
def test_a_splice_makes_the_other_text(a, b):
    assert spliced(a, splice(a, b)) == b


@given(st.lists(TEXTS, min_size=2, max_size=12))
def test_a_chain_of_splices_leads_back_to_the_first_text(texts):
    newest, *older = texts[::-1]
    changes, last = [], newest
    for text in older:
        changes.append(splice(last, text))
        last = text
    assert unwound(newest, changes) == texts[0]


def test_a_small_change_in_a_long_text_is_a_small_splice():
    long = base64.b64encode(os.urandom(300_000)).decode()
    assert len(splice(f'{{"p":"{long}","v":1.25}}', f'{{"p":"{long}","v":1.5}}')) < 40


class Memory:
    """A model of undo: plain lists of recipes."""

    def __init__(self):
        self.states, self.at = [], -1

    def push(self, recipe):
        self.states = [*self.states[: self.at + 1], recipe]
        self.at += 1

    def move(self, by):
        if 0 <= self.at + by < len(self.states):
            self.at += by


@settings(max_examples=examples(40))
@given(st.lists(st.one_of(st.floats(-4, 4, width=16), st.sampled_from(["undo", "redo"])), max_size=25))
def test_undo_and_redo_are_as_if_every_state_were_kept_whole(tmp_path_factory, deeds):
    db = Database(tmp_path_factory.mktemp("undo") / "library.sqlite")
    shoot, memory = shoots.add_shoot(db, "A"), Memory()
    numbers = set()
    for deed in deeds:
        if isinstance(deed, str):
            drafts.move(db, shoot, -1 if deed == "undo" else 1)
            memory.move(-1 if deed == "undo" else 1)
        else:
            recipe = Recipe.model_validate(
                {
                    "name": "A",
                    "note": "ö" * 30,
                    "steps": [{"id": "a", "adjustments": [{"kind": "exposure", "ev": deed}]}],
                }
            )
            drafts.push(db, shoot, recipe, "x")
            memory.push(recipe)
            assert drafts.state_number(db, shoot) not in numbers, "a state's number is never used again"
            numbers.add(drafts.state_number(db, shoot))
        if memory.states:
            found = drafts.draft(db, shoot)
            assert found.recipe == memory.states[memory.at]
            assert (found.undo is None) == (memory.at == 0)
            assert (found.redo is None) == (memory.at == len(memory.states) - 1)


def test_forty_moves_of_a_slider_beside_a_large_picture_add_little(tmp_path):
    from io import BytesIO

    from PIL import Image

    db = Database(tmp_path / "library.sqlite")
    shoot = shoots.add_shoot(db, "A")
    out = BytesIO()
    Image.frombytes("RGB", (900, 900), os.urandom(900 * 900 * 3)).save(out, "PNG")
    assets.keep_assets(db, {asset_key(out.getvalue()): out.getvalue()})
    overlay = {"kind": "overlay", "picture": asset_key(out.getvalue())}
    points = [[round(i / 600, 3), 0.5] for i in range(600)]
    painted = {"parts": [{"kind": "brush", "strokes": [{"points": points}] * 60}]}

    def with_cover(cover):
        steps = [{"id": "a", "region": painted, "adjustments": [overlay | {"cover": float(cover)}]}]
        return Recipe.model_validate({"name": "A", "steps": steps})

    drafts.push(db, shoot, with_cover(0), "start")
    db.reader.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    assert len(drafts.draft(db, shoot).body) > 400_000
    before = db.reader.execute("SELECT sum(length(body)) FROM draft_states").fetchone()[0]
    for cover in range(1, 41):
        drafts.push(db, shoot, with_cover(cover), "cover")
    after = db.reader.execute("SELECT sum(length(body)) FROM draft_states").fetchone()[0]
    assert after - before < 10_000, "131 MB when every state was kept whole"
    for _ in range(40):
        assert drafts.move(db, shoot, -1)
    assert drafts.draft(db, shoot).recipe == with_cover(0)

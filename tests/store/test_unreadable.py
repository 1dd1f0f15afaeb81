"""One row that can't be read harms nothing but itself, and what is written is read back before it counts."""

import math

import pytest

from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.edit import EditProblem
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.recipes.overrides import FrameOverride
from lenskeep.files.recipes import RecipeProblem, recipe_from_json
from lenskeep.store import bodies, drafts, frames, jobs, recipes, shoots
from lenskeep.store import looks as kept
from lenskeep.studio import find as finding
from lenskeep.studio import looks
from lenskeep.studio.bench import draft as bench
from lenskeep.studio.queue import make_runner
from tests.asked import asked
from tools.made_up import look_recipe, ready_shoot

BROKEN = '{"format":"lenskeep-recipe/1","name":"Evening","strength":NaN}'


def table(**changes):
    plain = {"kind": "colour_table", "dimensions": 1, "size": 2, "data": "d" * 64} | changes
    return {"steps": [{"id": "a", "adjustments": [plain]}]}


@pytest.mark.parametrize("number", [math.inf, -math.inf, math.nan])
@pytest.mark.parametrize("field", ["span", "low", "high"])
def test_no_number_of_a_table_is_endless(field, number):
    fine = {"span": [0.0, 1.0], "low": [0.0] * 3, "high": [1.0] * 3}[field]
    with pytest.raises(ValueError, match="finite"):
        Recipe.model_validate({"name": "A"} | table(**{field: [*fine[:-1], number]}))


@pytest.mark.parametrize("word", ["NaN", "Infinity", "-Infinity", "1e999"])
def test_a_recipe_file_with_a_number_that_is_none_is_refused_in_words(word):
    text = look_recipe().model_dump_json().replace('"ev":0.5', f'"ev":{word}')
    assert word in text
    with pytest.raises(RecipeProblem) as said:
        recipe_from_json(text, "evening.json")
    assert "evening.json" in str(said.value) and "pydantic" not in str(said.value)


def test_a_value_that_is_no_number_never_reaches_the_draft(library, tmp_path):
    shoot = ready_shoot(library, tmp_path / "card", 1)
    bench.load(library, shoot, look_recipe())
    with pytest.raises(EditProblem, match="finite"):
        bench.change(library, shoot, asked("set", {"values": {"steps/subject/adjustments/a1/ev": math.nan}}))
    assert bench.draft(library, shoot).recipe == look_recipe()


def test_what_does_not_read_back_is_not_kept(library, monkeypatch):
    monkeypatch.setattr(Recipe, "model_dump_json", lambda self, **_: BROKEN)
    shoot = shoots.add_shoot(library.db, "A")
    with pytest.raises(UserProblem):
        drafts.push(library.db, shoot, Recipe(), "x")
    with pytest.raises(UserProblem):
        recipes.save_recipe(library.db, Recipe())
    assert drafts.draft(library.db, shoot) is None and recipes.versions(library.db) == []


def test_a_recipe_that_would_be_too_long_to_export_is_not_kept(library, monkeypatch):
    monkeypatch.setattr(bodies, "MOST_BYTES", 200)
    with pytest.raises(UserProblem, match="longer than"):
        recipes.save_recipe(library.db, look_recipe())


def spoil(library, table, where="1"):
    with library.db.writing() as write:
        write.execute(f"UPDATE {table} SET body = ? WHERE {where}", (BROKEN,))


def test_a_broken_version_stands_among_the_others_and_can_be_removed(library):
    bad = recipes.save_recipe(library.db, look_recipe("Bad"))
    good = recipes.save_recipe(library.db, look_recipe("Good"))
    spoil(library, "recipe_versions", f"id = {bad.id}")
    listed = {v.name: v for v in recipes.newest_versions(library.db)}
    assert listed["Good"].recipe == look_recipe("Good") and not listed["Good"].unreadable
    assert "can't be read" in listed["Bad"].unreadable
    shoot = shoots.add_shoot(library.db, "A")
    with pytest.raises(UserProblem, match="can't be read"):
        looks.give_look(library, shoot, bad.id, 1.0)
    assert looks.look_of_shoot(library, shoot) is None
    kept.give_look(library.db, shoot, [(bad.id, 1.0)])
    assert recipes.remove_version(library.db, bad.id) is False, "a shoot uses it"
    kept.give_look(library.db, shoot, [(good.id, 1.0)])
    assert recipes.remove_version(library.db, bad.id) is True
    assert [v.name for v in recipes.versions(library.db)] == ["Good"]


def test_undo_leads_back_from_a_state_that_cannot_be_read(library, tmp_path):
    shoot = ready_shoot(library, tmp_path / "card", 1)
    bench.load(library, shoot, look_recipe())
    bench.change(library, shoot, asked("set", {"values": {"strength": 0.5}}))
    now = drafts.state_number(library.db, shoot)
    # the text of the newest state is what those before it are kept against; spoilt as an older version wrote it
    with library.db.writing() as write:
        text = drafts.draft(library.db, shoot).body.replace('"strength":0.5', '"strength":NaN', 1)
        undone = drafts.earlier(library.db, shoot, now - 1).body
        write.execute("UPDATE draft_states SET body = ? WHERE id = ?", (text, now))
        write.execute("UPDATE draft_states SET body = ?, spliced = 0 WHERE id = ?", (undone, now - 1))
    assert bench.draft(library, shoot).unreadable
    assert bench.back_to_readable(library, shoot)
    assert bench.draft(library, shoot).recipe == look_recipe()


def test_a_frame_with_broken_facts_is_found_again_and_one_with_a_broken_override_has_the_look(library, tmp_path):
    shoot = ready_shoot(library, tmp_path / "card", 3)
    first, second, _ = frames.frames(library.db, shoot)
    with library.db.writing() as write:
        write.execute("UPDATE findings SET facts = '{' WHERE sha256 = ?", (first.sha256,))
        write.execute("UPDATE frames SET override = ? WHERE id = ?", ('{"strength": NaN}', second.id))
    rows = frames.frames(library.db, shoot)
    assert [f.facts is None for f in rows] == [True, False, False] and [f.spoilt for f in rows] == [False, True, False]
    assert rows[1].override == FrameOverride()
    looks.give_look(library, shoot, recipes.save_recipe(library.db, look_recipe()).id, 1.0)
    make_runner(library, 0).run_until_idle()  # which notices that there is nothing to go by
    job = finding.queue_finding(library, shoot)
    assert [i.frame_id for i, _ in jobs.items(library.db, job)] == [first.id]


def test_a_job_with_broken_options_does_not_stop_the_queue(library):
    bad = jobs.add_job(library.db, "find", None, [])
    good = jobs.add_job(library.db, "find", None, [])
    with library.db.writing() as write:
        write.execute("UPDATE jobs SET options = '[[[' WHERE id = ?", (bad,))
        write.execute("UPDATE jobs SET kind = 'of tomorrow' WHERE id = ?", (bad,))
    make_runner(library, 0).run_until_idle()
    assert [jobs.job(library.db, j).state for j in (bad, good)] == ["failed", "done"]
    assert "does not know this kind" in jobs.job(library.db, bad).message

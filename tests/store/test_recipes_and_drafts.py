"""Saved recipes keep every version; the draft on the Bench can be undone and redone."""

from lenskeep.core.recipes.models import Recipe
from lenskeep.store import drafts, recipes, shoots
from lenskeep.store.database import Database


def recipe(name="Evening", **values):
    return Recipe.model_validate({"name": name, "steps": [{"id": "a", "adjustments": [{"kind": "exposure"} | values]}]})


def test_saving_again_makes_version_two_and_keeps_version_one(tmp_path):
    db = Database(tmp_path / "library.sqlite")
    first = recipes.save_recipe(db, recipe(ev=0.5))
    again = recipes.save_recipe(db, recipe(ev=0.5))
    second = recipes.save_recipe(db, recipe(ev=1.0))
    other = recipes.save_recipe(db, recipe("Morning"))
    assert (first.version, again.id, second.version, other.version) == (1, first.id, 2, 1)
    assert recipes.version(db, first.id).recipe == recipe(ev=0.5)
    assert [(v.name, v.version) for v in recipes.newest_versions(db)] == [("Evening", 2), ("Morning", 1)]


def test_undo_and_redo_walk_along_what_was_done(tmp_path):
    db = Database(tmp_path / "library.sqlite")
    shoot = shoots.add_shoot(db, "A")
    for ev, did in ((0.0, "start"), (0.5, "lighter"), (1.0, "lighter still")):
        drafts.push(db, shoot, recipe(ev=ev), did)
    assert drafts.draft(db, shoot).undo == "lighter still" and drafts.draft(db, shoot).redo is None
    assert drafts.move(db, shoot, -1) and drafts.move(db, shoot, -1) and not drafts.move(db, shoot, -1)
    start = drafts.draft(db, shoot)
    assert start.recipe == recipe(ev=0.0) and start.undo is None and start.redo == "lighter"
    assert drafts.move(db, shoot, 1)
    drafts.push(db, shoot, recipe(ev=-1.0), "darker")
    assert drafts.draft(db, shoot).undo == "darker" and not drafts.move(db, shoot, 1)


def test_a_long_history_forgets_its_oldest_states_only(tmp_path):
    db = Database(tmp_path / "library.sqlite")
    shoot = shoots.add_shoot(db, "A")
    for n in range(drafts.MOST_STATES + 30):
        drafts.push(db, shoot, recipe(ev=n / 100), str(n))
    steps = 0
    while drafts.move(db, shoot, -1):
        steps += 1
    assert drafts.MOST_STATES - 2 <= steps <= drafts.MOST_STATES
    assert drafts.draft(db, shoot).recipe == recipe(ev=(drafts.MOST_STATES + 29 - steps) / 100)

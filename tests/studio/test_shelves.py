"""Keeping the book: what is renamed, copied, filed, deleted, given again, moved on; sets out, deleted, in, equal."""

import io
import json
from dataclasses import replace

import numpy as np
import pytest
from PIL import Image

from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.effects import Effect
from lenskeep.files.cube import write_cube
from lenskeep.files.sets import Unread, set_from_json, set_to_json
from lenskeep.store import assets, book, frames, looks, recipes
from lenskeep.studio import looks as giving
from lenskeep.studio.book import effects, shelves, take_in
from tests.core.adjustments import warm_table
from tests.studio.doing import run
from tools.made_up import look_recipe, ready_shoot


@pytest.fixture
def dusk(library):
    return recipes.save_recipe(library.db, look_recipe("Dusk")).recipe_id


def names(library, kind="recipe"):
    return [v.name for v in recipes.newest_versions(library.db, kind)]


def whole_book(library):
    every = [v for kind in recipes.KINDS for v in recipes.newest_versions(library.db, kind)]
    return {v.name: (v.kind, v.shelf, v.tags, v.recipe) for v in every}


def test_a_renamed_recipe_is_the_same_one_by_another_name(library, dusk):
    shelves.rename(library, dusk, "  After  sunset ")
    [version] = recipes.versions(library.db, dusk)
    assert version.name == version.recipe.name == "After sunset" and version.version == 1
    again = recipes.save_recipe(library.db, version.recipe.model_copy(update={"strength": 0.5}))
    assert again.recipe_id == dusk and again.version == 2
    recipes.save_recipe(library.db, look_recipe("Noon"))
    with pytest.raises(UserProblem, match="in the book already"):
        shelves.rename(library, dusk, "Noon")
    with pytest.raises(UserProblem, match="Give it a name"):
        shelves.rename(library, dusk, "   ")


def test_a_copy_goes_its_own_way(library, dusk):
    made = shelves.copy(library, dusk, "Dusk, mine")
    assert made.version == 1 and made.recipe.steps == look_recipe().steps and names(library) == ["Dusk", "Dusk, mine"]
    with pytest.raises(UserProblem, match="already"):
        shelves.copy(library, dusk, "Dusk, mine")


def test_sets_tags_and_notes(library, dusk):
    shelves.file_under(library, dusk, "Evenings", "Dogs, evening dogs")
    shelves.note(library, dusk, "Not at noon.")
    newest = shelves.newest_of(library, dusk)
    assert (newest.shelf, newest.tags, newest.version) == ("Evenings", "dogs evening", 2)
    assert newest.recipe.note == "Not at noon."
    with pytest.raises(UserProblem, match="too many tags"):
        shelves.file_under(library, dusk, "", "word" * 80)
    with pytest.raises(UserProblem, match="no longer in the book"):
        shelves.file_under(library, 999, "", "")


def test_an_older_version_is_given_again_as_the_newest(library, dusk):
    first = recipes.versions(library.db, dusk)[0]
    recipes.save_recipe(library.db, look_recipe("Dusk", ev=-1.0))
    again = shelves.give_again(library, first.id)
    assert again.version == 3 and again.recipe == first.recipe
    assert shelves.give_again(library, again.id).version == 3, "the newest is the newest already"


def test_what_is_used_is_not_deleted_and_says_where_it_is(library, dusk, tmp_path):
    shoot = ready_shoot(library, tmp_path / "card", 2)
    old = recipes.versions(library.db, dusk)[0]
    giving.give_look(library, shoot, old.id, 0.8)
    with pytest.raises(UserProblem, match="in the look of Ready"):
        shelves.delete(library, dusk)
    newer = recipes.save_recipe(library.db, look_recipe("Dusk", ev=0.1))
    [use] = book.uses(library.db, dusk)
    assert (use.shoot, use.version, use.version_id) == ("Ready", 1, old.id)
    shelves.move_on(library, dusk, use.scene_id)
    run(library)
    look = looks.look(library.db, use.scene_id)
    assert look.version.id == newer.id and look.strength == 0.8
    assert all(f.finished for f in frames.summaries(library.db, shoot))
    other = recipes.save_recipe(library.db, look_recipe("Noon"))
    giving.give_look(library, shoot, other.id, 1.0)
    with pytest.raises(UserProblem, match="does not use it any more"):
        shelves.move_on(library, dusk, use.scene_id)
    shelves.delete(library, dusk)
    assert names(library) == ["Noon"]


def test_a_set_exported_deleted_and_imported_is_equal(library, dusk):
    tone = Effect.model_validate({"name": "Tone", "adjustments": [{"kind": "warmth", "mired": 9}], "strength": 0.5})
    kept = effects.keep(library, tone)
    shelves.file_under(library, dusk, "Evenings", "dogs")
    shelves.file_under(library, kept.recipe_id, "Evenings", "")
    made = shelves.set_of(library, "Evenings", "Somebody")
    text = set_to_json(made)
    shown = {name: np.asarray(Image.open(io.BytesIO(jpeg)), float) for name, jpeg in made.previews.items()}
    assert set(shown) == {"Dusk", "Tone"} and np.abs(shown["Dusk"] - shown["Tone"]).mean() > 1
    before = whole_book(library)
    for recipe_id in (dusk, kept.recipe_id):
        shelves.delete(library, recipe_id)
    assert names(library) == names(library, "effect") == []
    assert shelves.take_set(library, set_from_json(text)) == []
    assert whole_book(library) == before
    [again] = recipes.newest_versions(library.db, "effect")
    assert effects.effect_at(library, str(again.id)) == tone
    with pytest.raises(UserProblem, match="nothing in this set"):
        shelves.set_of(library, "Moonlight")


def test_what_is_not_understood_is_said_kept_and_leaves_again(library, dusk):
    shelves.file_under(library, dusk, "Evenings", "")
    made = shelves.set_of(library, "Evenings")
    steps = '[{"id":"a","adjustments":[{"kind":"moonlight"}]}]'
    odd = Unread("From tomorrow", "it is new", f'{{"name":"From tomorrow","steps":{steps}}}')
    said = shelves.take_set(library, replace(made, unread=(odd,)))
    assert "“From tomorrow” is kept, but not understood" in said[0]
    [kept] = [v for v in recipes.newest_versions(library.db) if v.name == "From tomorrow"]
    assert kept.unreadable and kept.body == odd.body and kept.shelf == "Evenings"
    assert [u.body for u in shelves.set_of(library, "Evenings").unread] == [odd.body]


def test_a_table_comes_in_as_an_effect(library, tmp_path):
    path = tmp_path / "warm.cube"
    path.write_text(write_cube(warm_table(), "Warm"))
    made = shelves.take_table(library, path, "Old prints.cube")
    assert made.name == "Old prints" and made.kind == "effect"
    assert effects.effect_at(library, str(made.id)).adjustments[0].kind == "colour_table"
    assert made.recipe.assets() == set(assets.assets_of(library.db, made.recipe))
    (tmp_path / "bad.cube").write_text("LUT_3D_SIZE 4\n0 0 0")
    with pytest.raises(UserProblem, match="should hold 64 colours"):
        shelves.take_table(library, tmp_path / "bad.cube", "bad.cube")


def test_an_effect_and_a_recipe_never_share_a_name(library, dusk):
    with pytest.raises(UserProblem, match="A recipe in the book is called"):
        effects.keep(library, Effect.model_validate({"name": "Dusk", "adjustments": [{"kind": "warmth", "mired": 9}]}))


def test_an_effects_own_file_comes_in_as_an_effect(library, tmp_path):
    kept = effects.keep(
        library, Effect(name="Crisp", note="For fur.", strength=0.7, adjustments=[{"kind": "sharpen", "sharpen": 40}])
    )
    text = take_in.file_of(library, kept)
    plain = json.loads(text)
    assert plain["format"] == "lenskeep-effect/1" and "region" not in text and "steps" not in plain
    shelves.delete(library, kept.recipe_id)
    (tmp_path / "crisp.json").write_text(text)
    again = shelves.take_file(library, tmp_path / "crisp.json", "crisp.json")
    assert again.kind == "effect" and again.recipe == kept.recipe and names(library) == []
    assert effects.effect_at(library, str(again.id)).strength == 0.7
    (tmp_path / "bad.json").write_text(json.dumps(plain | {"adjustments": []}))
    with pytest.raises(UserProblem, match=r"bad\.json can't be used: adjustments"):
        shelves.take_file(library, tmp_path / "bad.json", "bad.json")
    shelves.delete(library, again.recipe_id)
    recipes.save_recipe(library.db, look_recipe("Crisp"))
    with pytest.raises(UserProblem, match="A recipe in the book is called"):
        shelves.take_file(library, tmp_path / "crisp.json", "crisp.json")

"""Changes to a recipe: whatever sequence a hand makes, the recipe stays valid and the old one stays as it was."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lenskeep.core.adjust import KINDS
from lenskeep.core.recipes import edit, edit_regions
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.regions import PART_KINDS

WHERE = ["whole", *sorted(PART_KINDS)]
CHANGES = ["add", "remove", "move", "adjustment", "drop adjustment", "part", "drop part", "set"]


def do(recipe, change, data):
    """One change at a step that exists."""
    if change == "add" or not recipe.steps:
        where, what = data.draw(st.sampled_from(WHERE)), data.draw(st.sampled_from(sorted(KINDS)))
        return edit.add_step(recipe, where, what, f"s{data.draw(st.uuids(version=4)).hex}")
    step = data.draw(st.sampled_from(recipe.steps))
    if change == "remove":
        return edit.remove_step(recipe, step.id)
    if change == "move":
        return edit.move_step(recipe, step.id, data.draw(st.integers(-3, 3)))
    if change == "adjustment":
        return edit.add_adjustment(recipe, step.id, data.draw(st.sampled_from(sorted(KINDS))))
    if change == "drop adjustment" and step.adjustments:
        return edit.remove_adjustment(recipe, step.id, len(step.adjustments) - 1)
    if change == "part":
        return edit_regions.add_part(recipe, step.id, data.draw(st.sampled_from(WHERE[1:])), "only within")
    if change == "drop part" and step.region.parts:
        return edit_regions.remove_part(recipe, step.id, 0)
    return edit.set_values(recipe, {f"steps/{step.id}/strength": data.draw(st.floats(0, 2))})


@given(changes=st.lists(st.sampled_from(CHANGES), max_size=12), data=st.data())
def test_any_sequence_of_changes_gives_a_valid_recipe_and_leaves_the_old_one(changes, data):
    recipe = Recipe(name="Look")
    for change in changes:
        before = recipe.model_dump_json()
        changed = do(recipe, change, data)
        assert recipe.model_dump_json() == before
        assert Recipe.model_validate_json(changed.model_dump_json()) == changed
        assert len({s.id for s in changed.steps}) == len(changed.steps)
        if change == "move":
            assert sorted(s.id for s in changed.steps) == sorted(s.id for s in (recipe.steps or changed.steps))
        recipe = changed


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (lambda r: edit.add_step(r, "nowhere", "exposure", "b"), "where"),
        (lambda r: edit.add_step(r, "sky", "nothing-known", "b"), "what"),
        (lambda r: edit.add_step(r, "sky", "haze", "a"), "same id"),
        (lambda r: edit.remove_step(r, "none"), "no longer"),
        (lambda r: edit.remove_adjustment(r, "a", 5), "no longer"),
        (lambda r: edit_regions.remove_part(r, "a", 0), "no longer"),
        (lambda r: edit_regions.add_part(r, "a", "nothing-known", "add"), "part"),
        (lambda r: edit.set_values(r, {"steps/a/adjustments/a1/ev": "bright"}), "ev"),
        (lambda r: edit.set_values(r, {"steps/a/adjustments/a1/ev": 77}), "ev"),
        (lambda r: edit.set_values(r, {"steps/a/adjustments/a8/ev": 0}), "nothing at"),
        (lambda r: edit.set_values(r, {"steps/a/region": 0}), "nothing at"),
    ],
)
def test_changes_that_cannot_be_say_which_word_to_look_at(change, words):
    recipe = Recipe.model_validate({"name": "A", "steps": [{"id": "a", "adjustments": [{"kind": "exposure"}]}]})
    with pytest.raises(edit.EditProblem, match=words):
        change(recipe)

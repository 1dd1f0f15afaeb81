"""Changes to a recipe: whatever sequence a hand makes, the recipe stays valid and the old one stays as it was."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lenskeep.core.adjust import KINDS
from lenskeep.core.recipes.changes import CHANGE, change_of
from lenskeep.core.recipes.edit import EditProblem
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.regions import PART_KINDS
from tests.asked import after, setting

WHERE = ["whole", *sorted(PART_KINDS)]
CHANGES = ["add", "remove", "move", "adjustment", "drop adjustment", "part", "drop part", "set"]


def do(recipe, change, data):
    """One change at a step that exists."""
    fresh = data.draw(st.uuids(version=4)).hex
    if change == "add" or not recipe.steps:
        where, what = data.draw(st.sampled_from(WHERE)), data.draw(st.sampled_from(sorted(KINDS)))
        return after(recipe, "add-step", where=where, what=what, id=f"s{fresh}")
    step = data.draw(st.sampled_from(recipe.steps))
    if change == "remove":
        return after(recipe, "remove-step", step=step.id)
    if change == "move":
        return after(recipe, "move-step", step=step.id, by=data.draw(st.integers(-3, 3)))
    if change == "adjustment":
        return after(recipe, "add-adjustment", step=step.id, kind=data.draw(st.sampled_from(sorted(KINDS))), id=fresh)
    if change == "drop adjustment" and step.adjustments:
        return after(recipe, "remove-adjustment", step=step.id, adjustment=step.adjustments[-1].id)
    if change == "part":
        kind = data.draw(st.sampled_from(WHERE[1:]))
        return after(recipe, "add-part", step=step.id, kind=kind, combine="only within", id=fresh)
    if change == "drop part" and step.region.parts:
        return after(recipe, "remove-part", step=step.id, part=step.region.parts[0].id)
    return setting({f"steps/{step.id}/strength": data.draw(st.floats(0, 2))}).on(recipe)


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
        (lambda r: after(r, "add-step", where="nowhere", what="exposure", id="b"), "where"),
        (lambda r: after(r, "add-step", where="sky", what="nothing-known", id="b"), "what"),
        (lambda r: after(r, "add-step", where="sky", what="haze", id="a"), "same id"),
        (lambda r: after(r, "remove-step", step="none"), "no longer"),
        (lambda r: after(r, "remove-adjustment", step="a", adjustment="a5"), "no longer"),
        (lambda r: after(r, "remove-part", step="a", part="p1"), "no longer"),
        (lambda r: after(r, "add-part", step="a", kind="nothing-known", combine="add"), "part"),
        (lambda r: after(r, "add-adjustment", step="a", kind="haze", id="a1"), "same id"),
        (lambda r: setting({"steps/a/adjustments/a1/ev": "bright"}).on(r), "ev"),
        (lambda r: setting({"steps/a/adjustments/a1/ev": 77}).on(r), "ev"),
        (lambda r: setting({"steps/a/adjustments/a7/ev": 0}).on(r), "no longer"),
        (lambda r: setting({"steps/a/region": 0}).on(r), "nothing at"),
        (lambda r: setting({"steps/a/region/parts/p1/deeper/x": 0}).on(r), "nothing at"),
        (lambda r: change_of({"op": "unheard-of"}).on(r), "unknown"),
        (lambda r: change_of({"op": "move-step", "step": "a", "by": "far"}).on(r), "by: must be a whole number"),
        (lambda r: change_of({"op": "remove-step"}).on(r), "step: is missing"),
    ],
)
def test_changes_that_cannot_be_say_which_word_to_look_at(change, words):
    recipe = Recipe.model_validate({"name": "A", "steps": [{"id": "a", "adjustments": [{"kind": "exposure"}]}]})
    with pytest.raises(EditProblem, match=words):
        change(recipe)


NAMES = st.sampled_from(["op", "step", "part", "values", "of", "field", "value", "stroke"])
PLAIN = st.none() | st.booleans() | st.floats() | st.text(max_size=8)


@given(
    st.recursive(
        PLAIN, lambda inner: st.lists(inner, max_size=3) | st.dictionaries(NAMES, inner, max_size=4), max_leaves=8
    )
)
def test_whatever_a_page_sends_is_a_change_or_a_problem_in_words(data):
    try:
        change_of(data)
    except EditProblem as problem:
        assert str(problem) and "pydantic" not in str(problem)


def test_every_change_is_one_of_the_union_with_its_own_name():
    names = [
        c["properties"]["op"]["const"]
        for c in CHANGE.json_schema()["$defs"].values()
        if "op" in c.get("properties", {})
    ]
    assert len(names) == len(set(names)) > 20


GROUPED = {
    "steps": [{"id": s, "group": g} for s, g in (("a", None), ("b", "g1"), ("c", "g1"), ("d", "g2"))],
    "groups": {"g1": {"name": "Sky"}, "g2": {}},
}


def groups_after(step, by):
    r = after(Recipe.model_validate(GROUPED), "move-step", step=step, by=by)
    return [(s.id, s.group) for s in r.steps], set(r.groups)


def test_a_step_that_moves_joins_leaves_and_keeps_groups_together():
    assert groups_after("a", 1) == ([("b", "g1"), ("a", "g1"), ("c", "g1"), ("d", "g2")], {"g1", "g2"})
    assert groups_after("c", -9) == ([("c", None), ("a", None), ("b", "g1"), ("d", "g2")], {"g1", "g2"})
    assert groups_after("d", -1) == ([("a", None), ("b", "g1"), ("d", "g1"), ("c", "g1")], {"g1"})
    alone = after(Recipe.model_validate(GROUPED), "remove-step", step="d")
    assert set(alone.groups) == {"g1"}, "a group that nothing stands in goes"


def test_groups_that_do_not_hold_together_are_refused():
    for bad, words in (
        ([("a", "g1"), ("b", None), ("c", "g1")], "follow each other"),
        ([("a", "g9")], "do not fit"),
        ([("a", None)], "do not fit"),
    ):
        with pytest.raises(ValueError, match=words):
            Recipe.model_validate({"steps": [{"id": s, "group": g} for s, g in bad], "groups": {"g1": {}}})

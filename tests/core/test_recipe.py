import json

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from lenskeep.core.adjust import KINDS
from lenskeep.core.plan import make_plan
from lenskeep.core.recipes.edit import EditProblem
from lenskeep.core.recipes.keys import content_key
from lenskeep.core.recipes.models import Recipe, recipe_schema
from lenskeep.core.recipes.overrides import FrameOverride, StepOverride
from lenskeep.core.regions import PART_KINDS
from tests.asked import after, setting


def recipe(**step: object) -> Recipe:
    base = {"id": "a", "adjustments": [{"kind": "exposure", "ev": 0.5}]}
    return Recipe.model_validate({"name": "Look", "steps": [base | step]})


@given(st.sampled_from(sorted(KINDS)), st.sampled_from(sorted(PART_KINDS)), st.data())
def test_every_kind_survives_json(kind, part, data):
    numbers = {c.name: data.draw(st.floats(c.low, c.high)) for c in KINDS[kind].controls()}
    r = recipe(adjustments=[{"kind": kind, **numbers}], region={"parts": [{"kind": part, "invert": True}]})
    assert Recipe.model_validate_json(r.model_dump_json()) == r


def test_bad_recipes_are_refused():
    for bad in (
        {"steps": [{"id": "a"}, {"id": "a"}]},
        {"steps": [{"id": "a", "adjustments": [{"kind": "exposure", "ev": 9}]}]},
        {"steps": [{"id": "a", "adjustments": [{"kind": "unheard-of"}]}]},
        {"steps": [{"id": "../up"}]},
        {"stepz": []},
    ):
        with pytest.raises(ValidationError):
            Recipe.model_validate(bad)


def test_the_schema_is_published_and_names_every_kind():
    text = json.dumps(recipe_schema())
    assert recipe_schema()["$schema"].endswith("2020-12/schema")
    assert all(f'"{kind}"' in text for kind in (*KINDS, *PART_KINDS))


def test_strengths_multiply_and_grow_amounts_only_beyond_one():
    r = recipe(strength=0.5)
    assert make_plan(r, 1.0).steps[0].opacity == pytest.approx(0.5)
    twice = make_plan(r, 2.0, FrameOverride(strength=1.5)).steps[0]
    assert twice.opacity == 1.0
    assert twice.adjustments[0].ev == pytest.approx(0.75)


def test_idle_steps_are_left_away_and_overrides_win():
    assert make_plan(recipe(adjustments=[{"kind": "exposure"}])).steps == ()
    assert make_plan(recipe(enabled=False)).steps == ()
    off = FrameOverride(steps={"a": StepOverride(enabled=False)})
    assert make_plan(recipe(), 1.0, off).steps == ()
    on = FrameOverride(steps={"a": StepOverride(enabled=True, strength=0.25)})
    assert make_plan(recipe(enabled=False), 1.0, on).steps[0].opacity == pytest.approx(0.25)


def test_content_keys_do_not_heed_in_which_order_something_was_changed():
    one, other = StepOverride(strength=0.5), StepOverride(enabled=False)
    a, b = FrameOverride(steps={"a": one, "b": other}), FrameOverride(steps={"b": other, "a": one})
    assert content_key(a) == content_key(b) != content_key(FrameOverride(steps={"a": other, "b": one}))


def test_content_keys_tell_looks_apart_and_nothing_else():
    assert content_key(recipe(), 1.0) == content_key(recipe(), 1.0)
    assert len({content_key(recipe(), 1.0), content_key(recipe(), 0.9), content_key(recipe(strength=0.3), 1.0)}) == 3


def test_editing_adds_moves_removes_and_sets():
    r = after(Recipe(), "add-step", id="s1", where="subject", what="exposure")
    r = after(r, "add-step", id="s2", where="whole", what="vignette")
    assert [s.name for s in r.steps] == ["Subject – exposure", "Whole frame – vignette"]
    r = after(r, "move-step", step="s2", by=-5)
    assert [s.id for s in r.steps] == ["s2", "s1"]
    r = after(r, "add-part", step="s1", id="far", kind="ramp", combine="only within")
    r = setting({"steps/s1/adjustments/a1/ev": 1.5, "steps/s1/region/parts/far/y2": 0.8}).on(r)
    assert r.step("s1").adjustments[0].ev == 1.5
    assert r.step("s1").region.parts[1].y2 == 0.8
    r = after(after(r, "add-adjustment", step="s1", id="x", kind="haze"), "remove-part", step="s1", part="far")
    assert [a.id for a in after(r, "remove-adjustment", step="s1", adjustment="a1").step("s1").adjustments] == ["x"]
    assert [s.id for s in after(r, "remove-step", step="s2").steps] == ["s1"]


@pytest.mark.parametrize(
    ("path", "value"),
    [
        ("steps/zz/strength", 1.0),
        ("steps/s1/adjustments/a5/ev", 1.0),
        ("steps/s1/adjustments/a1/ev", 99.0),
        ("steps/s1/adjustments/a1/colour", 1.0),
        ("steps/s1/adjustments/a1/id", "other"),
        ("steps/s1/id", "other"),
        ("steps/s1/group", "g1"),
        ("steps/s1/region/parts", [[0.0, 1.0]]),
        ("steps", 1.0),
        ("__class__/x", 1.0),
        ("strength", 7.0),
    ],
)
def test_a_value_that_can_not_be_set_is_refused(path, value):
    r = after(Recipe(), "add-step", id="s1", where="subject", what="exposure")
    with pytest.raises(EditProblem):
        setting({path: value}).on(r)


def test_a_change_costs_only_what_it_touches():
    """What is not changed is the very same, so that a moving slider validates no stroke anew."""
    stroke = {"points": [[0.1, 0.1]] * 500}
    painted = {"id": "p", "region": {"parts": [{"kind": "brush", "strokes": [stroke] * 50}]}}
    r = Recipe.model_validate({"steps": [painted, {"id": "a", "adjustments": [{"kind": "exposure"}]}]})
    done = setting({"steps/a/adjustments/a1/ev": 1.0}).on(r)
    assert done.steps[0].region.parts[0].strokes[0] is r.steps[0].region.parts[0].strokes[0]

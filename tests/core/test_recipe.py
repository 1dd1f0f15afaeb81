import json

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from lenskeep.core.adjust import KINDS
from lenskeep.core.plan import make_plan
from lenskeep.core.recipes import edit, edit_regions
from lenskeep.core.recipes.overrides import FrameOverride, Recipe, StepOverride, content_key, recipe_schema
from lenskeep.core.regions import PART_KINDS


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


def test_content_keys_tell_looks_apart_and_nothing_else():
    assert content_key(recipe(), 1.0) == content_key(recipe(), 1.0)
    assert len({content_key(recipe(), 1.0), content_key(recipe(), 0.9), content_key(recipe(strength=0.3), 1.0)}) == 3


def test_editing_adds_moves_removes_and_sets():
    first, second = "s1", "s2"
    r = edit.add_step(edit.add_step(Recipe(), "subject", "exposure", first), "whole", "vignette", second)
    assert [s.name for s in r.steps] == ["Subject – exposure", "Whole frame – vignette"]
    r = edit.move_step(r, second, -5)
    assert [s.id for s in r.steps] == [second, first]
    r = edit_regions.add_part(r, first, "ramp", "only within")
    r = edit.set_values(r, {f"steps/{first}/adjustments/a1/ev": 1.5, f"steps/{first}/region/parts/p2/y2": 0.8})
    assert r.step(first).adjustments[0].ev == 1.5
    assert r.step(first).region.parts[1].y2 == 0.8
    r = edit_regions.remove_part(edit.add_adjustment(r, first, "haze"), first, 1)
    assert len(edit.remove_adjustment(r, first, 0).step(first).adjustments) == 1
    assert [s.id for s in edit.remove_step(r, second).steps] == [first]


@pytest.mark.parametrize(
    ("path", "value"),
    [
        ("steps/zz/strength", 1.0),
        ("steps/s1/adjustments/a5/ev", 1.0),
        ("steps/s1/adjustments/a1/ev", 99.0),
        ("steps/s1/adjustments/a1/colour", 1.0),
        ("steps", 1.0),
        ("__class__/x", 1.0),
        ("strength", 7.0),
    ],
)
def test_a_value_that_can_not_be_set_is_refused(path, value):
    r = edit.add_step(Recipe(), "subject", "exposure", "s1")
    with pytest.raises(edit.EditProblem):
        edit.set_values(r, {path: value})

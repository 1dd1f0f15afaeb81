"""Groups, doubles, opposites and recipes taken in: each renders as its steps written out would, and reads back."""

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from lenskeep.core.adjust import KINDS
from lenskeep.core.plan import make_plan, plan_of
from lenskeep.core.recipes.changes import change_of
from lenskeep.core.recipes.doubling import DoubleStep, SamePlace
from lenskeep.core.recipes.edit import EditProblem
from lenskeep.core.recipes.effects import Effect, EffectStep, EffectSteps, TakeEffect, effect_in, effect_of
from lenskeep.core.recipes.group_changes import (
    DissolveGroup,
    DoubleGroup,
    GroupSteps,
    JoinGroup,
    LimitGroup,
    MoveGroup,
    RemoveGroup,
    TakeRecipe,
    runs_of,
)
from lenskeep.core.recipes.joining import dissolved
from lenskeep.core.recipes.layers import Layer
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.recipes.settings import setting_at
from lenskeep.core.regions import Region
from lenskeep.core.render import compile_plan, render_rows
from tests.core.adjustments import STRONG
from tests.effort import examples
from tools.made_up import frame_of

STEPS = [
    {"id": "a", "region": {"parts": [{"kind": "subject"}]}, "adjustments": [{"kind": "exposure", "ev": 0.5}]},
    {
        "id": "b",
        "region": {"parts": [{"kind": "background"}]},
        "adjustments": [{"kind": "saturation", "saturation": -30}],
    },
    {"id": "c", "adjustments": [{"kind": "warmth", "mired": 12}]},
    {"id": "d", "adjustments": [{"kind": "medium_detail", "detail": 40}]},
]


def recipe(**more):
    return Recipe.model_validate({"name": "Evening", "steps": STEPS, **more})


def ids(one):
    return [s.id for s in one.steps]


def key(one):
    return make_plan(one).key()


def grouped(*steps, **values):
    made = GroupSteps(id="g1", steps=list(steps), name="Lift").on(recipe())
    for field, value in values.items():
        made = setting_at(f"groups/g1/{field}", value).on(made)
    return made


def test_ticked_steps_become_a_group_where_the_first_of_them_stands():
    made = grouped("b", "d")
    assert ids(made) == ["a", "b", "d", "c"] and [s.group for s in made.steps] == [None, "g1", "g1", None]
    assert made.groups["g1"].name == "Lift"
    again = GroupSteps(id="g2", steps=["d", "c"], name="Other").on(made)
    assert ids(again) == ["a", "b", "d", "c"] and [s.group for s in again.steps] == [None, "g1", "g2", "g2"]
    whole = GroupSteps(id="g3", steps=["a", "b", "c", "d"], name="").on(again)
    assert set(whole.groups) == {"g3"} and whole.groups["g3"].name == "Group"
    with pytest.raises(EditProblem, match="no longer"):
        GroupSteps(id="g4", steps=["gone"]).on(made)


def test_a_group_out_of_the_middle_of_another_never_tears_it():
    three = GroupSteps(id="g1", steps=["a", "b", "c"], name="Three").on(recipe())
    out = GroupSteps(id="g2", steps=["b"], name="One").on(three)
    assert [s.group for s in out.steps] == ["g1", "g1", "g2", None]


def test_a_group_is_moved_as_one_past_whole_neighbours():
    made = GroupSteps(id="g2", steps=["c", "d"], name="Two").on(grouped("a", "b"))
    assert [r[0].group for r in runs_of(made)] == ["g1", "g2"]
    moved = MoveGroup(group="g1", by=1).on(made)
    assert ids(moved) == ["c", "d", "a", "b"]
    assert ids(MoveGroup(group="g1", by=-5).on(moved)) == ["a", "b", "c", "d"]


def test_steps_go_in_and_out_and_an_empty_group_goes():
    made = grouped("a", "b")
    joined = JoinGroup(step="d", group="g1").on(made)
    assert ids(joined) == ["a", "b", "d", "c"] and joined.step("d").group == "g1"
    left = JoinGroup(step="a").on(joined)
    assert left.step("a").group is None and ids(left) == ["b", "d", "a", "c"]
    empty = JoinGroup(step="d").on(JoinGroup(step="b").on(left))
    assert not empty.groups
    assert JoinGroup(step="c").on(empty) == empty


@pytest.mark.parametrize("values", [{}, {"strength": 0.5}, {"enabled": False}, {"strength": 1.5}])
def test_dissolved_it_does_the_same(values):
    made = grouped("a", "b", **values)
    free = DissolveGroup(group="g1").on(made)
    assert not free.groups and key(free) == key(made)


def test_dissolved_its_limit_goes_into_its_steps_or_it_says_why_not():
    made = LimitGroup(group="g1", where="people", invert=True).on(grouped("a", "c"))
    assert made.groups["g1"].limit.sentence() == "all but subject, people only" or made.groups["g1"].limit.invert
    free = DissolveGroup(group="g1").on(made)
    assert "not" in free.step("a").region.sentence() and free.step("c").region == made.groups["g1"].limit
    soft = made.groups["g1"].model_copy(update={"limit": Region(parts=made.step("a").region.parts, feather=0.02)})
    shaped = made.model_copy(update={"groups": {"g1": soft}})
    with pytest.raises(EditProblem, match="Take its limit away first"):
        DissolveGroup(group="g1").on(shaped)
    with pytest.raises(EditProblem, match="is nothing"):
        LimitGroup(group="g1", where="whole", invert=True).on(made)
    with pytest.raises(EditProblem, match="Choose what"):
        LimitGroup(group="g1", where="moon").on(made)
    with_b = LimitGroup(id="r1", group="g1", of_step="b").on(made)
    assert with_b.limit_of_group(with_b.groups["g1"]) == made.step("b").region
    assert not RemoveGroup(group="g1").on(made).groups and ids(RemoveGroup(group="g1").on(made)) == ["b", "d"]


def test_a_double_stands_right_below_and_its_opposite_is_turned_round():
    made = DoubleStep(id="x", step="a").on(recipe())
    assert ids(made)[:2] == ["a", "x"] and made.step("x").adjustments == made.step("a").adjustments
    other = DoubleStep(id="x", step="a", opposite=True).on(recipe())
    assert other.step("x").region == recipe().step("a").region.inverted()
    assert other.step("x").adjustments[0].ev == -0.5
    place = SamePlace(id="y", step="a").on(recipe())
    assert ids(place)[1] == "y" and not place.step("y").adjustments and place.step("y").region == place.step("a").region
    detail = DoubleStep(id="x", step="d", opposite=True).on(recipe())
    assert detail.step("x").adjustments[0].detail == -40 and detail.step("x").region.is_whole


def test_a_group_is_doubled_with_what_is_in_it():
    made = DoubleGroup(id="h", group="g1").on(grouped("a", "b"))
    assert ids(made) == ["a", "b", "hs0", "hs1", "c", "d"] and made.groups["h"].name == "Lift"
    turned = DoubleGroup(id="h", group="g1", opposite=True).on(grouped("a", "b"))
    assert turned.step("hs0").region.invert and turned.step("hs1").adjustments[0].saturation == 30
    limited = LimitGroup(group="g1", where="sky").on(grouped("a", "b"))
    over = DoubleGroup(id="h", group="g1", opposite=True).on(limited)
    assert over.groups["h"].limit.invert and not over.step("hs0").region.invert


@pytest.mark.parametrize("kind", sorted(KINDS))
def test_an_opposite_stays_within_its_ranges_and_twice_is_what_it_was(kind):
    one = KINDS[kind]()
    for control in one.controls():
        if control.scales and control.low < control.neutral < control.high:
            reach = min(control.high - control.neutral, control.neutral - control.low)
            one = one.model_copy(update={control.name: control.neutral + 0.5 * reach})
    turned = type(one).model_validate(one.opposite().model_dump())
    assert turned.opposite() == one


def test_a_recipe_is_taken_after_as_a_group_or_within_a_region():
    more = Recipe.model_validate({"name": "More", "strength": 0.5, "steps": STEPS[:2]})
    after = TakeRecipe(id="t", recipe=more).on(recipe())
    assert ids(after) == ["a", "b", "c", "d", "ts0", "ts1"]
    assert key(after.model_copy(update={"steps": after.steps[4:]})) == key(more), "at its own strength"
    group = TakeRecipe(id="t", recipe=more, way="group").on(recipe())
    assert group.groups["t"].name == "More" and group.groups["t"].strength == 0.5
    within = TakeRecipe(id="t", recipe=more, way="group", within="a").on(recipe())
    assert within.limit_of_group(within.groups["t"]) == recipe().step("a").region == within.region_of(within.step("a"))
    with pytest.raises(EditProblem, match="no steps"):
        TakeRecipe(id="t", recipe=Recipe(name="Empty")).on(recipe())


def test_groups_of_a_recipe_that_becomes_a_group_go_into_its_steps():
    more = grouped("a", "b", strength=0.4)
    taken = TakeRecipe(id="t", recipe=more, way="group").on(Recipe(name="Empty"))
    assert set(taken.groups) == {"t"} and key(taken) == key(more)


def test_shared_regions_come_along_under_names_of_their_own():
    shared = {"s1": {"name": "Dogs", "region": {"parts": [{"kind": "subject"}]}}}
    steps = [{**STEPS[0], "region": {}, "shared": {"region": "s1", "invert": True}}, STEPS[1]]
    more = Recipe.model_validate({"name": "More", "steps": steps, "regions": shared})
    twice = TakeRecipe(id="u", recipe=more).on(TakeRecipe(id="t", recipe=more).on(more))
    assert set(twice.regions) == {"s1", "tr0", "ur0"} and twice.step("us0").shared.invert


def test_a_stack_of_three_renders_as_its_steps_written_out():
    """Three recipes at 150, 60 and 100 %, the last limited to a region, against the same steps by hand."""
    frame = frame_of(np.random.default_rng(5).random((90, 120, 3), np.float32))
    subject = Region.model_validate({"parts": [{"kind": "subject"}]})
    more = [Recipe.model_validate({"name": f"R{n}", "steps": STEPS[n : n + 2]}) for n in range(3)]
    stack = []
    for n, (each, strength) in enumerate(zip(more, (1.5, 0.6, 1.0), strict=True)):
        limit = {"limit": subject} if n == 2 else {}
        steps = [s.model_copy(update={"group": "g"}) for s in each.steps]
        whole = Recipe.model_validate({"name": "L", "steps": steps, "groups": {"g": {"name": "G", **limit}}})
        stack.append(Layer(whole, f"l{n}", strength=strength))
    written = []
    for n, (each, strength) in enumerate(zip(more, (1.5, 0.6, 1.0), strict=True)):
        for step in each.steps:
            region = step.region.within(subject) if n == 2 else step.region
            written.append(step.model_copy(update={"id": f"{n}{step.id}", "strength": strength, "region": region}))
    pixels = []
    for plan in (plan_of(stack), make_plan(Recipe(name="Written", steps=written))):
        pixels.append(render_rows(compile_plan(plan, frame), frame.proxy.copy()))
    assert np.array_equal(pixels[0], pixels[1]) and not np.array_equal(pixels[0], frame.proxy)


@settings(max_examples=examples(40), suppress_health_check=[HealthCheck.too_slow])
@given(data=st.data())
def test_whatever_is_done_with_groups_holds_together_and_reads_back(data):
    one = recipe()
    for number in range(data.draw(st.integers(1, 6))):
        step, group = data.draw(st.sampled_from(ids(one))), next(iter(one.groups), None)
        fresh = f"n{number}"
        doing = [
            {"op": "group-steps", "id": fresh, "steps": data.draw(st.lists(st.sampled_from(ids(one)), min_size=1))},
            {"op": "double-step", "id": fresh, "step": step, "opposite": data.draw(st.booleans())},
            {"op": "same-place", "id": fresh, "step": step},
            {"op": "join-group", "step": step, "group": group},
            {"op": "move-step", "step": step, "by": data.draw(st.integers(-4, 4))},
        ]
        if group:
            doing += [
                {"op": "move-group", "group": group, "by": data.draw(st.integers(-3, 3))},
                {"op": "double-group", "id": fresh, "group": group, "opposite": data.draw(st.booleans())},
                {"op": "limit-group", "group": group, "where": "sky", "invert": data.draw(st.booleans())},
                {"op": "remove-group", "group": group},
            ]
        try:
            one = change_of(data.draw(st.sampled_from(doing))).on(one)
        except EditProblem:
            continue
        assert one.faults() == "" and Recipe.model_validate_json(one.model_dump_json()) == one
        if not one.steps:
            break


def test_an_effect_is_what_a_step_does_whatever_its_region():
    effect = effect_of(recipe().step("a"), "Lift")
    assert effect_in(effect.as_recipe()) == effect
    assert Effect.model_validate_json(effect.model_dump_json()) == effect
    put = TakeEffect(id="n", step="b", effect=effect).on(recipe())
    assert [a.kind for a in put.step("b").adjustments] == ["saturation", "exposure"]
    assert put.step("b").region == recipe().step("b").region, "the region is left alone"
    instead = TakeEffect(id="n", step="b", effect=effect, way="replace").on(recipe())
    assert [a.kind for a in instead.step("b").adjustments] == ["exposure"]
    painted = EffectStep(id="n", effect=effect, where="brush").on(recipe())
    assert painted.steps[-1].region.parts[0].kind == "brush" and not painted.steps[-1].region.parts[0].strokes
    there = EffectStep(id="n", effect=effect, of_step="b").on(recipe())
    assert ids(there)[2] == "n" and there.step("n").region == there.step("b").region
    several = EffectSteps(id="n", step="b", effects=[effect, effect, effect]).on(recipe())
    assert [several.step(i).enabled for i in ("n", "n-1", "n-2")] == [True, False, False]
    half = TakeEffect(id="n", step="b", effect=effect.model_copy(update={"strength": 0.5})).on(recipe())
    assert half.step("b").adjustments[1].strength == 0.5
    with pytest.raises(EditProblem, match="does nothing yet"):
        effect_of(SamePlace(id="y", step="a").on(recipe()).step("y"))
    with pytest.raises(EditProblem, match="several steps"):
        effect_in(recipe())
    with pytest.raises(EditProblem, match="Choose where"):
        EffectStep(id="n", effect=effect, where="moon").on(recipe())


def test_dissolving_a_recipe_without_groups_changes_nothing():
    assert dissolved(recipe()) == recipe()


@pytest.mark.parametrize("kind", sorted(KINDS))
def test_the_opposite_of_an_adjustment_stays_within_its_ranges(kind):
    """Where a number goes further to one side than to the other, its opposite ends where the range does."""
    cls = KINDS[kind]
    for control in cls.controls():
        for value in (control.low, control.high):
            made = cls(**STRONG.get(kind, {})).model_copy(update={control.name: value})
            assert control.low <= getattr(made.opposite(), control.name) <= control.high

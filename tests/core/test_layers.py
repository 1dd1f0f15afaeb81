"""Groups and layers: strengths multiply, limits hold, a stack is one list of steps, frames change what they name."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lenskeep.core.plan import make_plan, plan_of
from lenskeep.core.recipes.layers import Layer
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.recipes.overrides import FrameOverride, GroupOverride, StepOverride
from lenskeep.core.regions import Region
from lenskeep.core.render import compile_plan, compile_steps, region_alpha, render_rows
from tests.asked import setting
from tools.made_up import frame_of, scene

SKY = {"parts": [{"kind": "sky"}]}
STRENGTH = st.floats(0.05, 2.0)


def step(name, ev=0.5, **more):
    return {"id": name, "name": name.capitalize(), "adjustments": [{"kind": "exposure", "ev": ev}], **more}


def recipe(*steps, **more):
    return Recipe.model_validate({"name": "Look", "steps": list(steps), **more})


def grouped(limit=None, **group):
    group = {"name": "Far", **group, **({"limit": limit} if limit else {})}
    return recipe(step("a", group="g1"), step("b", -0.5, group="g1"), step("c"), groups={"g1": group})


def linear():
    return np.ascontiguousarray((scene(60, 90).astype(np.float32) / 255.0) ** np.float32(2.2))


def finished(plan):
    frame = frame_of(linear())
    return render_rows(compile_plan(plan, frame), frame.proxy.copy())


@given(own=STRENGTH, group=STRENGTH, whole=STRENGTH, layer=STRENGTH, frame=STRENGTH)
def test_strengths_of_step_group_recipe_layer_and_frame_multiply(own, group, whole, layer, frame):
    r = recipe(step("a", strength=own, group="g"), strength=whole, groups={"g": {"strength": group}})
    [planned] = plan_of([Layer(r, "l1", True, layer)], FrameOverride(strength=frame)).steps
    total = min(own * group * whole * layer * frame, 2.0)
    assert planned.opacity == pytest.approx(min(total, 1.0))
    assert planned.adjustments[0].ev == pytest.approx(0.5 * max(total, 1.0))


def test_a_group_that_is_off_takes_its_steps_along_and_no_others():
    assert [s.id for s in make_plan(grouped(enabled=False)).steps] == ["c"]
    assert [s.id for s in make_plan(grouped(strength=0.0)).steps] == ["c"]
    on = FrameOverride(groups={"g1": GroupOverride(enabled=True, strength=0.5)})
    assert [s.opacity for s in make_plan(grouped(enabled=False), 1.0, on).steps] == [0.5, 0.5, 1.0]


def test_a_groups_limit_is_multiplied_into_each_steps_alpha():
    r = recipe(step("a", region={"parts": [{"kind": "ramp"}]}, group="g1"), groups={"g1": {"limit": SKY}})
    frame = frame_of(linear())
    [planned] = make_plan(r).steps
    ramp, sky = (Region.model_validate(x).alpha(frame.found) for x in ({"parts": [{"kind": "ramp"}]}, SKY))
    assert np.abs(region_alpha(frame, *planned.regions) - ramp * sky).mean() < 0.02
    out = finished(make_plan(r))
    assert np.array_equal(out[40:], frame.proxy[40:]), "nothing below the sky is touched"
    assert np.abs(out[5] - frame.proxy[5]).max() > 0.01
    assert r.sentence(r.steps[0]).endswith("only within the group's sky")


def test_a_step_whose_limit_is_not_there_is_left_out_and_the_frame_says_so():
    r = recipe(step("a", group="g1"), groups={"g1": {"limit": {"parts": [{"kind": "skin"}]}}})
    frame = frame_of(linear())
    assert compile_steps(make_plan(r), frame).ids == []
    assert any("skin" in words for words in frame.found.missing)


def test_a_stack_is_one_recipe_upon_another():
    first, second = recipe(step("a", region=SKY)), recipe(step("a", -0.4), step("b", 0.2, region=SKY))
    together = plan_of([Layer(first, "l1"), Layer(second, "l2", strength=0.5)])
    assert [s.id for s in together.steps] == ["l1.a", "l2.a", "l2.b"]
    frame = frame_of(linear())
    below = render_rows(compile_plan(make_plan(first), frame), frame.proxy.copy())
    guides = frame.guide
    above = render_rows(compile_plan(make_plan(second, 0.5), frame), below.copy(), guides)
    assert np.abs(finished(together) - above).max() < 1e-4


def test_a_layer_that_is_off_does_nothing_unless_the_frame_wants_it():
    layers = [Layer(recipe(step("a")), "l1"), Layer(recipe(step("a")), "l2", enabled=False)]
    assert [s.id for s in plan_of(layers).steps] == ["l1.a"]
    own = FrameOverride(layers={"l2": GroupOverride(enabled=True), "l1": GroupOverride(strength=0.25)})
    assert [(s.id, s.opacity) for s in plan_of(layers, own).steps] == [("l1.a", 0.25), ("l2.a", 1.0)]


def test_a_frame_names_a_step_of_one_layer_or_of_all():
    layers = [Layer(recipe(step("a")), "l1"), Layer(recipe(step("a")), "l2")]
    one = FrameOverride(steps={"l2.a": StepOverride(enabled=False)})
    assert [s.id for s in plan_of(layers, one).steps] == ["l1.a"]
    every = FrameOverride(steps={"a": StepOverride(enabled=False)})
    assert plan_of(layers, every).steps == (), "what frames changed before there were layers goes on to count"


def test_a_frame_can_give_a_step_another_region_within_its_groups_limit():
    own = FrameOverride(steps={"a": StepOverride(region=Region.model_validate(SKY))})
    [first, *_] = make_plan(grouped(limit={"parts": [{"kind": "background"}]}), 1.0, own).steps
    assert [r.parts[0].kind for r in first.regions] == ["sky", "background"]
    assert not own.is_neutral and FrameOverride(steps={"a": StepOverride()}).is_neutral


def test_names_and_ids_do_not_change_the_picture_and_all_else_does():
    plain = recipe(step("a", region=SKY))
    key = make_plan(plain).key()
    renamed = recipe({**step("zz", region={"parts": [{"kind": "sky", "id": "mine"}]}), "name": "Other"}, name="Other")
    assert make_plan(renamed).key() == key == plan_of([Layer(plain, "l9")]).key()
    others = [recipe(step("a", 0.6, region=SKY)), recipe(step("a")), recipe(step("a", region=SKY, blend="multiply"))]
    others += [recipe(step("a", region=SKY, strength=0.9)), recipe(step("a", region=SKY, fallback="use the frame"))]
    others.append(recipe(step("a", region=SKY, group="g"), groups={"g": {"limit": {"parts": [{"kind": "subject"}]}}}))
    assert len({key, *(make_plan(r).key() for r in others)}) == len(others) + 1


def test_a_step_without_adjustments_blends_the_picture_with_itself():
    plain = recipe({"id": "a", "blend": "multiply"})
    picture = linear()
    assert make_plan(recipe({"id": "a"})).steps == ()
    assert finished(make_plan(plain)).mean() < 0.8 * picture.mean()


def test_values_of_groups_and_their_limits_are_set_like_any_others():
    r = setting({"groups/g1/strength": 0.5, "groups/g1/folded": True, "groups/g1/limit/feather": 0.04}).on(
        grouped(limit=SKY)
    )
    r = setting({"groups/g1/limit/parts/p1/invert": True, "groups/g1/name": "Sky only"}).on(r)
    group = r.groups["g1"]
    assert (group.strength, group.folded, group.name, group.limit.feather) == (0.5, True, "Sky only", 0.04)
    assert group.limit.parts[0].invert and Recipe.model_validate_json(r.model_dump_json()) == r

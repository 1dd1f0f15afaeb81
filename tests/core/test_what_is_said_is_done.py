"""What a control, a word or a button of the Bench says is what becomes of the recipe and of the picture."""

from functools import lru_cache

import numpy as np
import pytest

from lenskeep.core.adjust import KINDS
from lenskeep.core.plan import make_plan
from lenskeep.core.recipes.changes import AddStep, AddStepOf, change_of
from lenskeep.core.recipes.effects import Effect, EffectSteps
from lenskeep.core.recipes.group_changes import DoubleGroup, GroupSteps, LimitGroup, TakeRecipe
from lenskeep.core.recipes.keys import content_key
from lenskeep.core.recipes.models import Group, Recipe
from lenskeep.core.recipes.naming import automatic, follow
from lenskeep.core.recipes.region_changes import AddParts, DeleteShared
from lenskeep.core.regions import Region
from lenskeep.core.render import compile_plan, render
from tests.asked import setting
from tools.made_up import frame_of, look_recipe, scene


@lru_cache(maxsize=3)
def linear(height=90, light=0.6):
    """A made-up frame with a purple rim along an edge between light and dark."""
    picture, n = scene(height, 3 * height // 2, 3), height // 90
    picture[30:60], picture[60 : 60 + n], picture[60 + n : 80] = 250, (150, 40, 190), 8
    return (light * (picture / 255.0) ** 2.2).astype(np.float32)


def drawn(recipe, height=90, light=0.6):
    rgb = linear(height, light)
    program = compile_plan(make_plan(recipe), frame_of(rgb))
    return render(program, lambda a, b: rgb[a:b].copy(), *rgb.shape[:2]).astype(int)


def alone(**step):
    return Recipe.model_validate({"steps": [{"id": "a", **step}]})


UNTOUCHED = drawn(Recipe())
LARGE = {"fringes": 900, "sharpen": 900, "denoise": 900}
"""What works on less than a pixel of a small picture is seen on a larger one."""
LINES = [(kind, cls.controls()[0]) for kind, cls in KINDS.items() if cls.controls() and not cls.tabs]
FILES = ("overlay", "colour_table", "text_mark")
"""Nothing is seen of these before a file or words are given; tested with them elsewhere."""


@pytest.mark.parametrize(("kind", "line"), LINES, ids=[kind for kind, _ in LINES])
def test_the_line_of_every_adjustment_moves_the_picture_from_neutral_and_back(kind, line):
    if kind in FILES:
        pytest.skip("nothing is seen of it without its file")
    far = line.high if line.high != line.neutral else line.low
    moved = setting({f"steps/a/adjustments/a1/{line.name}": far}).on(alone(adjustments=[{"kind": kind}]))
    back = setting({f"steps/a/adjustments/a1/{line.name}": line.neutral}).on(moved)
    seen = (LARGE.get(kind, 90), 0.1 if kind == "balance" else 0.6)
    untouched = drawn(Recipe(), *seen)
    assert line.scales, "its strength grows it"
    assert np.abs(drawn(moved, *seen) - untouched).max() > 2, "and it is seen"
    assert np.array_equal(drawn(back, *seen), untouched)
    assert line.label.lower().split()[0] in moved.steps[0].does() or kind.split("_")[0] in moved.steps[0].does()


def test_an_adjustment_that_does_nothing_is_not_said_to_do_something():
    dark = alone(adjustments=[{"kind": "fine_detail", "dark": 200}])
    assert np.array_equal(drawn(dark), UNTOUCHED) and "200" not in dark.steps[0].does()
    both = alone(adjustments=[{"kind": "fine_detail", "dark": 200, "detail": 50}])
    assert "+50" in both.steps[0].does()


@pytest.mark.parametrize("mode", ["multiply", "screen", "overlay", "difference", "soft-light"])
def test_a_neutral_step_blends_the_picture_with_itself(mode):
    neutral = alone(adjustments=[{"kind": "exposure"}], blend=mode)
    assert np.array_equal(drawn(neutral), drawn(alone(blend=mode)))
    assert np.abs(drawn(neutral) - UNTOUCHED).max() > 10


def alpha(recipe, step="a"):
    rgb = linear()
    return recipe.region_of(recipe.step(step)).alpha(frame_of(rgb).found)


GROUND = Region.model_validate({"parts": [{"kind": "subject"}, {"kind": "sky"}], "invert": True})


@pytest.mark.parametrize("shared", [False, True])
def test_into_adds_what_was_pointed_at_also_where_a_step_is_turned_round(shared):
    """All but subject and sky, and into it the sky: the sky is in it, the subject is not."""
    region = GROUND.model_dump()
    step = {"id": "a", "region": region, "adjustments": [{"kind": "exposure", "ev": 1}]}
    recipe = Recipe.model_validate({"steps": [step]})
    if shared:
        own = {"r": {"name": "Both", "region": region | {"invert": False}}}
        use = {"region": "r", "invert": True}
        recipe = Recipe.model_validate({"steps": [step | {"region": {}, "shared": use}], "regions": own})
    sky = Region.model_validate({"parts": [{"kind": "sky"}]})
    into = AddParts(id="p", step="a", region=sky).on(recipe)
    found = frame_of(linear()).found
    before, after, wanted = alpha(recipe), alpha(into), found.mask("sky")
    assert np.all(after >= before - 1e-6) and np.all(after[wanted > 0.99] > 0.99)
    assert np.all(after[(found.mask("subject") > 0.99) & (wanted < 0.01)] < 0.01)


def test_taken_away_from_a_step_that_is_turned_round_is_taken_away():
    step = {"id": "a", "region": {"parts": [{"kind": "sky"}], "invert": True}}
    recipe = Recipe.model_validate({"steps": [step]})
    subject = Region.model_validate({"parts": [{"kind": "subject", "combine": "take away"}]})
    found = frame_of(linear()).found
    left = alpha(AddParts(id="p", step="a", region=subject).on(recipe))
    assert np.all(left[found.mask("subject") > 0.99] < 0.01) and left.max() > 0.99


def ramp_step():
    step = {"id": "open", "name": "Where", "region": {"parts": [{"id": "p", "kind": "ramp"}]}, "adjustments": []}
    return Recipe.model_validate({"steps": [step]})


def test_a_groups_limit_follows_the_gradient_that_it_was_limited_by():
    taken = TakeRecipe(id="g", recipe=look_recipe(ev=1.0), way="group", within="open").on(ramp_step())
    before = drawn(taken)
    moved = setting({"regions/gw/region/parts/p/y1": 0.9, "regions/gw/region/parts/p/y2": 1.0}).on(taken)
    assert moved.limit_of_group(moved.groups["g"]) == moved.region_of(moved.step("open"))
    assert np.abs(drawn(moved) - before).max() > 10, "and the picture with it"
    by_limit = setting({"groups/g/limit/feather": 0.05}).on(taken)
    assert by_limit.region_of(by_limit.step("open")).feather == 0.05, "one region, by whichever name it is spoken of"
    assert "(shared)" in taken.limit_in_words(taken.groups["g"])


def test_limiting_a_group_by_a_step_shares_and_turning_it_round_turns_only_its_use():
    recipe = GroupSteps(id="g", steps=["subject", "background"]).on(look_recipe())
    limited = LimitGroup(id="r", group="g", of_step="sky", invert=True).on(recipe)
    sky, group = limited.step("sky"), limited.groups["g"]
    assert (sky.shared.region, sky.shared.invert, group.shared.region, group.shared.invert) == ("r", False, "r", True)
    twin = DoubleGroup(id="t", group="g", opposite=True).on(limited)
    assert twin.groups["t"].shared.invert is False and limited.users("r") == [sky, group]
    copies = DeleteShared(region="r").on(limited)
    assert copies.limit_of_group(copies.groups["g"]).invert and copies.groups["g"].shared is None
    off = DeleteShared(region="r", then="off").on(limited)
    assert not off.groups["g"].enabled and not off.step("sky").enabled
    again = Recipe.model_validate_json(limited.model_dump_json())
    assert again == limited


def test_groups_without_a_shared_limit_keep_their_hash():
    assert "shared" not in Group(name="x").model_dump_json()
    assert content_key(Group(name="x")) == content_key(Group.model_validate({"name": "x"}))


def test_of_ticked_effects_the_first_is_on_with_and_without_an_open_step():
    some = [Effect.model_validate({"name": n, "adjustments": [{"kind": "exposure", "ev": 1}]}) for n in "xyz"]
    bare = EffectSteps(id="e", effects=some).on(look_recipe())
    placed = EffectSteps(id="e", step="sky", effects=some).on(look_recipe())
    for recipe in (bare, placed):
        made = [s for s in recipe.steps if s.id.startswith("e")]
        assert [(s.name, s.enabled) for s in made] == [("x", True), ("y", False), ("z", False)]
    assert {s.region.sentence() for s in bare.steps if s.id.startswith("e")} == {"whole frame"}


def does(recipe, change):
    return follow(recipe, change.on(recipe))


def test_a_name_follows_what_the_step_does_until_somebody_types_one():
    recipe = AddStep(id="s", where="whole", what="exposure").on(Recipe())
    assert recipe.steps[0].name == "Whole frame – exposure"
    warmer = does(recipe, change_of({"op": "add-adjustment", "step": "s", "kind": "warmth", "id": "w"}))
    assert warmer.steps[0].name == "Whole frame – exposure, warmth"
    in_sky = does(warmer, change_of({"op": "add-part", "step": "s", "kind": "sky", "id": "p"}))
    assert in_sky.steps[0].name == "Sky – exposure, warmth"
    typed = does(in_sky, setting({"steps/s/name": "Mine"}))
    after = does(typed, change_of({"op": "remove-adjustment", "step": "s", "adjustment": "w"}))
    assert after.steps[0].name == "Mine"
    cut = AddStepOf(id="t", region=Region.model_validate({"parts": [{"kind": "sky"}]}), what="").on(after)
    assert cut.step("t").name == automatic(cut, cut.step("t")) == "Sky"


def test_a_shared_region_that_changes_renames_every_step_called_after_it():
    both = AddStep(id="b", where="sky", what="warmth").on(AddStep(id="a", where="sky", what="exposure").on(Recipe()))
    shared = does(both, change_of({"op": "share", "step": "a", "name": "Up", "id": "r"}))
    used = does(shared, change_of({"op": "use-shared", "step": "b", "region": "r"}))
    turned = does(used, setting({"regions/r/region/invert": True}))
    assert [s.name for s in turned.steps] == ["All but sky – exposure", "All but sky – warmth"]


def test_names_stay_within_their_length():
    recipe = AddStep(id="s", where="whole", what="exposure").on(Recipe())
    for number, kind in enumerate(
        ["warmth", "tint", "contrast", "highlights", "shadows", "saturation", "haze", "glow"]
    ):
        recipe = does(recipe, change_of({"op": "add-adjustment", "step": "s", "kind": kind, "id": f"k{number}"}))
    assert len(recipe.steps[0].name) <= 80 and recipe.steps[0].name.endswith("…")

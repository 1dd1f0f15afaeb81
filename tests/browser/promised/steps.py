"""The head of the Bench and its lanes: recipes, steps, and what else can be done with one."""

from contextlib import contextmanager

from selenium.webdriver.common.keys import Keys

from lenskeep.store import looks, recipes
from lenskeep.studio.book import effects
from tests.browser.promised import Table, at_the_bench, hit, is_pressed

SUBJECT, SKY = ({"parts": [{"id": "p", "kind": kind}]} for kind in ("subject", "sky"))
STEPS = [
    {"id": "a", "name": "Lift", "region": SUBJECT, "adjustments": [{"id": "x", "kind": "exposure", "ev": 1.2}]},
    {"id": "b", "name": "Calm", "adjustments": [{"id": "y", "kind": "contrast", "contrast": -25}]},
    {"id": "c", "name": "Sky", "region": SKY, "adjustments": [{"id": "z", "kind": "saturation", "saturation": 20}]},
    {"id": "d", "name": "Warm", "adjustments": [{"id": "w", "kind": "warmth", "mired": 20}], "group": "h"},
]
IN_A_GROUP = [{**step, "group": "g"} if step["id"] in "bc" else step for step in STEPS]
GROUPS = {"g": {"name": "Pair", "strength": 0.8}, "h": {"name": "Single"}}
elsewhere = (
    ".lane-editor .panel *",
    ".adjustment *",
    ".chip",
    ".lane-editor [data-picker-open]",
    ".option",
    ".stage-area *",
    ".bar *",
)
"""Buttons of other tables, or of what can be chosen in a list that is searched."""


@contextmanager
def opened(desk):
    """The Bench of a shoot with four steps, three of them in two groups."""
    with at_the_bench(desk, IN_A_GROUP, groups=GROUPS) as person:
        yield person


lanes = Table(opened)


def ids(me):
    return "".join(step.id for step in me.recipe.steps if len(step.id) == 1)


def names(me):
    return [step.name for step in me.recipe.steps]


def more(me, name):
    hit(me, f"[aria-label='More for {name}']")


@lanes("[x-data=panel] > button[\\@click=toggle]")
def a_recipes_list_opens_and_closes(me):
    yield
    me.wait(lambda: me.find("[data-take-recipe]").is_displayed())
    yield
    me.wait(lambda: not me.find("[data-take-recipe]").is_displayed())


@lanes("[data-take-recipe] [name=key]")
def a_recipes_steps_come_after_these(me):
    hit(me, "[x-data=panel] > button")
    yield "[data-take-recipe] [name=key][value^=ready]"
    me.wait(lambda: len(me.recipe.steps) > 4 and ids(me) == "abcd")


@lanes("[data-choose=recipes]")
def recipes_are_chosen_by_pictures(me):
    hit(me, "[x-data=panel] > button")
    yield
    me.wait(lambda: me.all("[data-choices=recipes] .choice"))


@lanes("#add-step > button", "#add-step [data-picker-open]")
def a_step_comes_that_does_what_was_chosen(me):
    hit(me, "#add-step [data-picker-open]")
    me.driver.switch_to.active_element.send_keys("Haze", Keys.ENTER)
    yield
    me.wait(lambda: len(me.recipe.steps) == 5)
    assert [a.kind for a in me.recipe.steps[-1].adjustments] == ["haze"]


@lanes("[data-paint=lighter]")
def a_brush_that_lightens_is_in_the_hand(me):
    yield
    me.wait(lambda: names(me)[-1] == "Painted lighter" and me.recipe.steps[-1].adjustments[0].ev > 0)
    me.wait(lambda: me.find("#overlay").get_attribute("data-tool") == "brush")


@lanes("[data-paint=darker]")
def a_brush_that_darkens_is_in_the_hand(me):
    yield
    me.wait(lambda: names(me)[-1] == "Painted darker" and me.recipe.steps[-1].adjustments[0].ev < 0)
    me.wait(lambda: me.find("#overlay").get_attribute("data-tool") == "brush")


@lanes("[data-neutral]")
def a_cast_is_taken_out_by_a_click(me):
    yield
    me.wait(lambda: is_pressed(me, "[data-neutral]"))
    me.hand(0.5, 0.1).click().perform()
    me.wait(lambda: len(me.recipe.steps) == 5)
    step = next(s for s in me.recipe.steps if s.id not in set("abcd"))
    assert {"warmth", "tint"} >= {a.kind for a in step.adjustments} and me.recipe.region_of(step).is_whole


@lanes("[data-edit*='balance-step']")
def each_frame_is_balanced(me):
    yield
    me.wait(lambda: any(a.kind == "balance" for s in me.recipe.steps for a in s.adjustments))


@lanes("#undo", "#redo")
def the_last_is_taken_back_and_done_again(me):
    hit(me, "[data-paint=lighter]")
    me.wait(lambda: len(me.recipe.steps) == 5)
    before = me.recipe
    me.settled("#key-canvas")
    yield
    me.wait(lambda: me.recipe.steps == before.steps[:4])
    me.settled("#key-canvas")
    yield "#redo"
    me.wait(lambda: me.recipe == before)


@lanes("[data-open-layers]", "[data-give]", "[data-up]", "[data-down]", "[data-away]", "[data-close-dialog]")
def the_scenes_look_is_shown_and_given(me):
    version = recipes.save_recipe(me.library.db, me.recipe)
    yield
    me.wait(lambda: me.find("[data-layers]").is_displayed())
    me.set(me.find("[data-layers] [data-add]"), str(version.id))
    yield "[data-give=scene]"
    me.wait(lambda: (now := looks.look(me.library.db, me.shoot)) and now.layers[-1].version.id == version.id)


@lanes("[data-grip]")
def a_step_is_moved_by_the_arrows_of_its_grip(me):
    yield "#lane-d [data-grip]"
    me.find("#lane-d [data-grip]").send_keys(Keys.ARROW_UP, Keys.ARROW_UP)
    me.wait(lambda: ids(me) != "abcd" and sorted(ids(me)) == list("abcd"))


@lanes("[data-mask]")
def the_mask_of_a_step_is_seen_larger(me):
    yield "#lane-a [data-mask]"
    me.wait(lambda: me.all(".mask-large, [data-mask-large], #mask-large"))


@lanes("[data-open-lane]")
def a_lane_opens_and_closes(me):
    yield "#lane-a [data-open-lane]"
    me.wait(lambda: me.find("#lane-a .lane-editor").is_displayed())
    yield "#lane-a [data-open-lane]"
    me.wait(lambda: not me.find("#lane-a .lane-editor").is_displayed())


@lanes("[hx-vals*='remove-step']")
def a_step_is_removed(me):
    yield "#lane-a [hx-vals*='remove-step']"
    me.wait(lambda: ids(me) == "bcd")


@lanes(".lane [aria-label^='More for']")
def what_else_can_be_done_with_a_step_is_listed(me):
    yield
    me.wait(lambda: any(e.is_displayed() for e in me.all(".lane [data-edit*='double-step']")))


@lanes("[data-edit*='double-step']")
def a_step_is_there_twice(me):
    more(me, "Lift")
    yield "#lane-a [data-edit*='double-step']:not([data-edit*=opposite])"
    me.wait(lambda: len(me.recipe.steps) == 5)
    one, two = me.recipe.steps[:2]
    assert one.adjustments[0].ev == two.adjustments[0].ev and me.recipe.sentence(two) == me.recipe.sentence(one)


@lanes("[data-edit*='double-step'][data-edit*='opposite']")
def a_step_has_its_opposite_where_it_is_not(me):
    more(me, "Lift")
    yield "#lane-a [data-edit*='double-step'][data-edit*=opposite]"
    me.wait(lambda: len(me.recipe.steps) == 5)
    twin = me.recipe.steps[1]
    assert twin.adjustments[0].ev == -1.2 and me.recipe.region_of(twin).invert


@lanes("[data-edit*='same-place']")
def another_step_is_in_the_same_place(me):
    more(me, "Lift")
    yield "#lane-a [data-edit*='same-place']"
    me.wait(lambda: len(me.recipe.steps) == 5)
    assert me.recipe.sentence(me.recipe.steps[1]) == "subject" and not me.recipe.steps[1].adjustments


@lanes("[data-edit*='join-group']")
def a_step_goes_into_a_group_and_out(me):
    more(me, "Lift")
    yield "#lane-a [data-edit*='join-group']"
    me.wait(lambda: me.recipe.step("a").group == "g")
    me.settled("#key-canvas")
    more(me, "Lift")
    yield "#lane-a [data-edit*='join-group']:not([data-edit*='\"group\"'])"
    me.wait(lambda: me.recipe.step("a").group is None)


@lanes("[data-keep-effect] button")
def what_a_step_does_is_kept_as_an_effect(me):
    more(me, "Lift")
    me.set(me.find("#lane-a [data-keep-effect] [name=name]"), "Lifted so")
    yield "#lane-a [data-keep-effect] button"
    me.wait(lambda: "Lifted so" in [e.effect.name for e in effects.listed(me.library)])

"""What is pressed in the Bench's head and on its lanes: steps, groups, history, choosing by pictures; and what each
button promises.
"""

import pytest
from selenium.webdriver.common.keys import Keys

from lenskeep.store import looks, recipes
from lenskeep.studio.book import effects
from tests.browser.promises import Table, hit, is_pressed, load, walk

pytestmark = pytest.mark.browser
SUBJECT, SKY = ({"parts": [{"id": "p", "kind": kind}]} for kind in ("subject", "sky"))
STEPS = [
    {"id": "a", "name": "Lift", "region": SUBJECT, "adjustments": [{"id": "x", "kind": "exposure", "ev": 1.2}]},
    {"id": "b", "name": "Calm", "adjustments": [{"id": "y", "kind": "contrast", "contrast": -25}]},
    {"id": "c", "name": "Sky", "region": SKY, "adjustments": [{"id": "z", "kind": "saturation", "saturation": 20}]},
    {"id": "d", "name": "Warm", "adjustments": [{"id": "w", "kind": "warmth", "mired": 20}], "group": "h"},
]
IN_A_GROUP = [{**step, "group": "g"} if step["id"] in "bc" else step for step in STEPS]
GROUPS = {"g": {"name": "Pair", "strength": 0.8}, "h": {"name": "Single"}}
lanes = Table()
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


@pytest.fixture(scope="module")
def person(desk):
    with desk.bench(STEPS[:3]) as one:
        yield one


@pytest.fixture
def me(person):
    load(person, IN_A_GROUP, groups=GROUPS)
    yield person
    person.driver.execute_script("localStorage.clear()")
    person.ends()


def ids(me):
    return "".join(step.id for step in me.recipe.steps if len(step.id) == 1)


def names(me):
    return [step.name for step in me.recipe.steps]


def more(me, name):
    hit(me, f"[aria-label='More for {name}']")


# --- recipes and steps


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
    looks_before = looks.look(me.library.db, me.shoot)
    assert looks_before is None
    yield
    me.wait(lambda: me.find("[data-layers]").is_displayed())
    me.set(me.find("[data-layers] [data-add]"), str(version.id))
    yield "[data-give=scene]"
    me.wait(lambda: looks.look(me.library.db, me.shoot) is not None)
    assert [e.version.id for e in looks.look(me.library.db, me.shoot).layers] == [version.id]


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


# --- more of a step


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


# --- groups


@lanes("[data-group-steps] .button-main", ".lane-whole [x-data] > button")
def ticked_steps_become_a_group(me):
    hit(me, ".lane-whole [x-data] > button")
    for tick in me.all("[data-group-steps] [name=steps]"):
        if tick.is_selected() != (tick.get_attribute("value") in "ab"):
            tick.click()
    me.set(me.find("[data-group-steps] [name=name]"), "Both")
    yield
    me.wait(lambda: "Both" in [g.name for g in me.recipe.groups.values()])
    [own] = [k for k, g in me.recipe.groups.items() if g.name == "Both"]
    assert [s.id for s in me.recipe.steps if s.group == own] == ["a", "b"]


@lanes("[data-fold-group]")
def a_group_is_folded_and_unfolded(me):
    yield "[data-fold-group=g]"
    me.wait(lambda: not me.find("#lane-b").is_displayed() and me.find("#lane-a").is_displayed())
    me.settled("#key-canvas")
    yield "[data-fold-group=g]"
    me.wait(lambda: me.find("#lane-b").is_displayed())


@lanes(".group-head [aria-label^='More for']")
def what_else_can_be_done_with_a_group_is_listed(me):
    yield
    me.wait(lambda: any(e.is_displayed() for e in me.all("[data-edit*='move-group']")))


def of_group(name, more_of=""):
    return f"#group-g [data-edit*='{name}']{more_of}"


@lanes("[data-edit*='move-group']")
def a_group_moves_earlier_and_later(me):
    more(me, "Pair")
    yield of_group("move-group", "[data-edit*='-1']")
    me.wait(lambda: ids(me) == "bcad")
    me.settled("#key-canvas")
    more(me, "Pair")
    yield of_group("move-group", ":not([data-edit*='-1'])")
    me.wait(lambda: ids(me) == "abcd")


@lanes("[data-edit*='double-group']")
def a_group_is_there_twice(me):
    more(me, "Pair")
    yield of_group("double-group", ":not([data-edit*=opposite])")
    me.wait(lambda: len(me.recipe.groups) == 3 and len(me.recipe.steps) == 6)


@lanes("[data-edit*='double-group'][data-edit*='opposite']")
def a_group_has_its_opposite(me):
    more(me, "Pair")
    yield of_group("double-group", "[data-edit*=opposite]")
    me.wait(lambda: len(me.recipe.steps) == 6)
    assert sorted(a.contrast for s in me.recipe.steps for a in s.adjustments if a.kind == "contrast") == [-25, 25]


@lanes("[data-edit*='dissolve-group']")
def a_dissolved_groups_steps_stay_as_strong_as_they_were(me):
    before = me.settled("#key-canvas")
    more(me, "Pair")
    yield of_group("dissolve-group")
    me.wait(lambda: len(me.recipe.groups) == 1 and ids(me) == "abcd")
    assert me.recipe.step("b").strength == 0.8
    assert abs(me.settled("#key-canvas") - before) < 0.1


@lanes("[data-edit*='remove-group']")
def a_group_goes_with_its_steps(me):
    more(me, "Pair")
    yield of_group("remove-group")
    me.wait(lambda: ids(me) == "ad")


# --- history


def past(me):
    hit(me, "[data-paint=lighter]")
    me.wait(lambda: len(me.recipe.steps) == 5)
    me.settled("#key-canvas")
    hit(me, "[data-open-history]")
    me.wait(lambda: me.find("#history-dialog").is_displayed())
    me.set(me.find("#history-dialog [name=words]"), "Kept so")
    hit(me, "form[data-history=name] button")
    me.reads("Kept so", "#history-dialog strong")


@lanes("[data-open-history]", "form[data-history=name] button", "[data-close-history]")
def what_was_done_is_listed_and_named(me):
    past(me)
    yield "[data-close-history]"
    me.wait(lambda: not me.find("#history-dialog").is_displayed())


@lanes("[data-history=go]")
def an_earlier_state_is_gone_to(me):
    past(me)
    yield "[data-history=go]:not([aria-current])"
    me.wait(lambda: len(me.recipe.steps) == 4)


@lanes("[data-history=anew]", "[data-history=come-back]")
def all_begins_from_nothing_and_a_named_state_comes_back(me):
    past(me)
    yield
    me.wait(lambda: not me.recipe.steps)
    me.settled("#key-canvas")
    yield "[data-history=come-back]"
    me.wait(lambda: len(me.recipe.steps) == 5)


@lanes("[data-history=forget]")
def a_name_is_forgotten(me):
    past(me)
    names_before = len(me.all("[data-history=forget]"))
    yield
    me.wait(lambda: len(me.all("[data-history=forget]")) == names_before - 1)
    assert len(me.recipe.steps) == 5


@lanes("[data-pin]")
def another_state_is_held_against_this(me):
    before = me.settled("#key-canvas")
    me.set(me.find("#lane-a .lane-row input[type=range]"), 0)
    me.wait(lambda: abs(me.settled("#key-canvas") - before) > 0.5)
    hit(me, "[data-open-history]")
    yield "#history-dialog [data-pin^=state]"
    me.wait(lambda: abs(me.settled("#key-canvas") - before) < 0.2)
    assert me.find("#pinned").is_displayed()


# --- choosing by pictures


def choose(me, of):
    me.open(0)
    hit(me, f".lane[data-open] [data-choose={of}]")
    me.wait(lambda: me.all(f"[data-choices={of}] .choice"))


def tick(me, *which):
    for n in which:
        hit(me, me.all("[data-choice-tick]")[n])


@lanes("[data-choose=blends]", "[data-choice-take]")
def a_blend_mode_is_taken_by_its_picture(me):
    me.open(0)
    yield ".lane[data-open] [data-choose=blends]"
    me.wait(lambda: me.all("[data-choices=blends] .choice"))
    yield "[data-choice='multiply'] [data-choice-take]"
    me.wait(lambda: me.recipe.step("a").blend == "multiply")


@lanes("[data-choose=effects]", "[data-choices-take]")
def ticked_effects_become_steps_the_first_on(me):
    choose(me, "effects")
    tick(me, 0, 1)
    yield "[data-choices-take]"
    me.wait(lambda: len(me.recipe.steps) == 6)
    assert [s.enabled for s in me.recipe.steps if s.id not in set("abcd")] == [True, False]
    assert me.recipe.sentence(next(s for s in me.recipe.steps if s.id not in set("abcd"))) == "subject"


@lanes("[data-choices-close]")
def nothing_is_chosen(me):
    before = me.recipe
    choose(me, "effects")
    yield
    me.wait(lambda: me.find("#lanes").is_displayed() and not me.all(".choice"))
    assert me.recipe == before


@lanes("[data-choices-narrow]")
def what_is_not_ticked_is_dropped(me):
    choose(me, "blends")
    tick(me, 1, 3)
    yield
    me.wait(lambda: len([t for t in me.all(".choice") if t.is_displayed()]) == 2)


@lanes("[data-choices-beside]")
def two_are_seen_side_by_side(me):
    choose(me, "blends")
    tick(me, 1, 3)
    yield
    me.wait(lambda: len(me.all(".choice-large figure")) == 2)


@lanes("[data-choices-paint]")
def an_effect_is_painted_on(me):
    choose(me, "effects")
    tick(me, 0)
    yield
    me.wait(lambda: len(me.recipe.steps) == 5)
    made = next(s for s in me.recipe.steps if s.id not in set("abcd"))
    assert [p.kind for p in made.region.parts] == ["brush"]
    me.wait(lambda: me.find("#overlay").get_attribute("data-tool") == "brush")


# --- walked


@pytest.mark.parametrize(("css", "promise"), **lanes.parameters())
def test_what_is_pressed_is_done(me, css, promise):
    walk(me, css, promise)


def test_no_button_of_the_lanes_is_without_a_promise(me):
    stage = (
        "#repair-bar *",
        "#stage-edge",
        "#gathered *",
        "#ask-dialog *",
        "form [data-close]",
        "form [data-tick]",
        "form [name=then]",
    )
    me.open(0)
    assert not (left := lanes.unpromised(me, (*elsewhere, *stage))), left
    past(me)
    assert not (left := lanes.unpromised(me, (*elsewhere, *stage))), left
    hit(me, "[data-close-history]")
    choose(me, "effects")
    assert not (left := lanes.unpromised(me, (*elsewhere, *stage))), left

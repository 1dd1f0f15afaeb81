"""What is pressed around the Bench's pictures, and what each button promises."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from lenskeep.store import frames, looks, recipes, scenes
from tests.browser.promises import ROOM, Table, hit, is_pressed, load, walk

pytestmark = pytest.mark.browser
SUBJECT = {"parts": [{"id": "p", "kind": "subject"}]}
STEPS = [
    {"id": "a", "name": "Lift", "region": SUBJECT, "adjustments": [{"id": "x", "kind": "exposure", "ev": 1.5}]},
    {"id": "b", "name": "Calm", "adjustments": [{"id": "y", "kind": "exposure", "ev": -0.4}]},
]
stage = Table()
elsewhere = ("#lanes *", "#lanes-head *", "#choosing *", "#history-dialog *", ".option", "[data-repair-tool]")
"""Buttons of other tables."""


@pytest.fixture(scope="module")
def person(desk):
    with desk.bench(STEPS) as one:
        yield one


@pytest.fixture
def me(person):
    load(person, STEPS)
    yield person
    person.driver.execute_script("localStorage.clear()")
    person.ends()


def look(me):
    """What is seen where the key frame is, with what lies over it."""
    me.settled("#key-canvas")
    return me.find("#key-frame").screenshot_as_base64


def look_of(me):
    look = looks.look(me.library.db, me.shoot)
    return look.layers[-1].version.name if look else ""


def gather(me):
    me.hand(0.5, 0.1).click().perform()
    me.wait(lambda: me.find("#gathered").is_displayed())


# --- how a region is shown, what it is compared with


@stage("[data-view=tint]")
def a_tint_lies_over_the_picture(me):
    me.open(0)
    before = look(me)
    yield
    me.wait(lambda: is_pressed(me, "[data-view=tint]") and look(me) != before)
    assert me.find("#tint-choice").is_displayed()


@stage("[data-view=grey]")
def a_grey_mask_stands_for_the_picture(me):
    me.open(0)
    me.settled("#key-canvas")
    yield
    me.wait(lambda: is_pressed(me, "[data-view=grey]"))
    me.settled("#key-canvas")
    script = (
        "const c = document.querySelector('#key-canvas');"
        "const d = c.getContext('2d').getImageData(0, 0, c.width, c.height).data;"
        "for (let i = 0; i < d.length; i += 4) if (Math.abs(d[i] - d[i + 1]) + Math.abs(d[i] - d[i + 2]) > 6) return 0;"
        "return 1"
    )
    me.wait(lambda: me.driver.execute_script(script))


@stage("[data-view=contours]")
def contours_come_back(me):
    me.open(0)
    hit(me, "[data-view=none]")
    me.wait(lambda: not me.all("#overlay .contours"))
    yield
    me.wait(lambda: me.all("#overlay .contours"))


@stage("[data-view=none]")
def nothing_lies_over_the_picture(me):
    me.open(0)
    me.wait(lambda: me.all("#overlay .contours"))
    yield
    me.wait(lambda: is_pressed(me, "[data-view=none]") and not me.all("#overlay .contours"))


@stage("#original")
def the_untouched_picture_is_shown_until_it_is_pressed_again(me):
    finished = me.settled("#key-canvas")
    yield
    me.wait(lambda: abs(me.settled("#key-canvas") - finished) > 2)
    me.reads("original", "#which")
    yield
    me.wait(lambda: abs(me.settled("#key-canvas") - finished) < 0.1)


@stage("#base")
def the_picture_without_masked_steps_is_shown(me):
    finished = me.settled("#key-canvas")
    yield
    me.wait(lambda: me.settled("#key-canvas") < finished - 0.5)
    me.reads("base", "#which")


@stage("#divider")
def a_line_divides_original_and_finished(me):
    before = look(me)
    yield
    me.wait(lambda: me.find("#split").is_displayed() and look(me) != before)
    yield
    me.wait(lambda: not me.find("#split").is_displayed())


@stage("#beside")
def another_picture_stands_beside(me):
    yield
    me.wait(lambda: me.find("[data-beside-canvas]").is_displayed())
    yield
    me.wait(lambda: not me.find("[data-beside-canvas]").is_displayed())


@stage("#pinned")
def the_kept_state_is_shown(me):
    finished = me.settled("#key-canvas")
    me.set(me.find("#lane-b .lane-row input[type=range]"), 0)
    me.wait(lambda: abs(me.settled("#key-canvas") - finished) > 1)
    brighter = me.settled("#key-canvas")
    hit(me, "[data-open-history]")
    hit(me, "#history-dialog [data-pin]")  # seen at once, then held ready
    me.wait(lambda: abs(me.settled("#key-canvas") - finished) < 0.2)
    yield
    me.wait(lambda: abs(me.settled("#key-canvas") - brighter) < 0.2)
    yield
    me.wait(lambda: abs(me.settled("#key-canvas") - finished) < 0.2)


@stage(ROOM)
def the_room_is_dimmed_and_lit(me):
    paper = "return getComputedStyle(document.documentElement).backgroundColor"
    before = me.driver.execute_script(paper)
    yield
    me.wait(lambda: me.driver.execute_script(paper) != before)
    yield
    me.wait(lambda: me.driver.execute_script(paper) == before)


@stage("a[href*='#scene-']")
def the_wall_is_gone_to(me):
    yield
    me.wait(lambda: f"/shoots/{me.shoot}" in me.driver.current_url)


# --- measures, guards


@stage("[data-histogram=region]", "[data-histogram=frame]")
def the_histogram_counts_the_open_step(me):
    me.open(0)
    me.settled("#key-canvas")
    whole = me.sight("#histogram")
    yield
    me.wait(lambda: me.sight("#histogram") != whole)
    yield "[data-histogram=frame]"
    me.wait(lambda: me.sight("#histogram") == whole)


def warned(me):
    """The key frame is far too bright for a guard to be quiet."""
    hard = [{"id": "z", "kind": "exposure", "ev": 3.5}]
    steps = [*STEPS[:1], {"id": "b", "name": "Hard", "adjustments": hard}]
    load(me, steps)
    me.wait(lambda: me.all("[data-guard=clipped][data-warns]") and me.find("[data-mend]").is_displayed())


@stage("[data-guard]")
def where_a_guard_warns_is_seen_on_the_picture(me):
    warned(me)
    before = look(me)
    yield "[data-guard=clipped]"
    me.wait(lambda: is_pressed(me, "[data-guard=clipped]") and look(me) != before)


@stage("[data-mend]", "[data-mend-do=do]")
def the_step_to_blame_is_weakened_when_it_is_said_so(me):
    warned(me)
    before = me.recipe
    yield
    me.wait(lambda: me.find("[data-mend-offer]").is_displayed())
    assert me.recipe == before, "it is seen before it is done"
    yield "[data-mend-do=do]"
    me.wait(lambda: me.recipe.step("b").strength < 1)


@stage("[data-mend-do=leave]")
def a_mend_that_was_offered_is_left(me):
    warned(me)
    before, bright = me.recipe, me.settled("#key-canvas")
    hit(me, "[data-mend]")
    me.wait(lambda: me.find("[data-mend-offer]").is_displayed() and me.settled("#key-canvas") < bright)
    yield
    me.wait(lambda: abs(me.settled("#key-canvas") - bright) < 0.1)
    assert me.recipe == before


@stage("[data-close-go=guard]")
def the_next_warning_is_seen_closely(me):
    warned(me)
    hit(me, "[data-guard=clipped]")
    hit(me, "[data-close='1']")
    me.settled("#key-canvas")
    yield
    me.reads("place 1 of", "[data-close-told]")


# --- near and far, witnesses


@stage("[data-close='1']", "[data-close='fit']")
def every_pixel_of_the_file_is_seen(me):
    far = look(me)
    yield
    me.wait(lambda: is_pressed(me, "[data-close='1']") and me.find("[data-close-map]").is_displayed())
    assert look(me) != far
    yield "[data-close='fit']"
    me.wait(lambda: not me.find("[data-close-map]").is_displayed())


@stage("[data-close='2']")
def each_pixel_is_twice_as_large(me):
    hit(me, "[data-close='1']")
    near = look(me)
    yield
    me.wait(lambda: is_pressed(me, "[data-close='2']") and look(me) != near)


@stage("[data-close-go=face]")
def the_subject_is_gone_to(me):
    far = look(me)
    yield
    me.wait(lambda: me.find("[data-close-map]").is_displayed() and look(me) != far)


@stage(".witness")
def a_witness_becomes_the_key_frame(me):
    other = frames.summaries(me.library.db, me.shoot)[1].id
    yield f".witness[data-frame='{other}']"
    me.wait(lambda: me.find("#bench").get_attribute("data-key") == str(other))
    assert scenes.scene(me.library.db, me.shoot).key_frame_id == other


# --- pointing


@stage("#found-open")
def all_that_was_found_is_listed(me):
    yield
    me.wait(lambda: me.all("#found-list [data-found]"))
    yield
    me.wait(lambda: not me.find("#found-list").is_displayed())


@stage("[data-found]", "[data-turn]")
def what_is_in_the_list_is_gathered(me):
    hit(me, "#found-open")
    yield
    me.wait(lambda: len(me.all("#gathered [data-turn]")) == 1)


@stage("[data-gathered-into]")
def what_was_gathered_goes_into_the_open_step(me):
    me.open(1)
    gather(me)
    words = me.find("[data-gathered-into]").text
    assert words == "Into “Calm”"
    yield
    me.wait(lambda: me.recipe.sentence(me.recipe.step("b")) == "sky")


@stage("[data-gathered-clear]")
def what_was_pointed_at_is_let_go(me):
    gather(me)
    yield
    me.wait(lambda: not me.find("#gathered").is_displayed())


@stage("#gathered [data-picker-open]")
def a_step_is_made_of_what_was_gathered(me):
    gather(me)
    yield
    me.driver.switch_to.active_element.send_keys("Haze", Keys.ENTER)
    me.wait(lambda: len(me.recipe.steps) == 3)
    assert me.recipe.sentence(me.recipe.steps[2]) == "sky"


# --- saving, mending, deleting what is shared


@stage("#save-open", "[name=then][value=stay]")
def the_recipe_is_kept_under_its_name(me):
    known = {v.id for v in recipes.newest_versions(me.library.db)}
    yield
    me.wait(lambda: me.find("#save-dialog").is_displayed())
    me.set(me.find("#save-dialog [name=name]"), "From the stage")
    yield "#save-dialog [name=then][value=stay]"
    me.wait(lambda: any(v.id not in known for v in recipes.newest_versions(me.library.db)))
    [made] = [v for v in recipes.newest_versions(me.library.db) if v.id not in known]
    assert made.name == "From the stage" and made.recipe.steps == me.recipe.steps


@stage("[name=then][value=apply]", "[name=then][value='apply to all']")
def the_recipe_is_kept_and_becomes_the_look(me):
    hit(me, "#save-open")
    me.wait(lambda: me.find("#save-dialog").is_displayed())
    me.set(me.find("#save-dialog [name=name]"), "As the look")
    yield "#save-dialog [name=then][value=apply]"
    me.wait(lambda: look_of(me) == "As the look")


@stage("#save-dialog [data-close]", "form [data-close]")
def nothing_is_saved(me):
    known = len(recipes.newest_versions(me.library.db))
    hit(me, "#save-open")
    yield "#save-dialog [data-close]"
    me.wait(lambda: not me.find("#save-dialog").is_displayed())
    assert len(recipes.newest_versions(me.library.db)) == known


@stage("[data-tick]")
def all_steps_are_ticked(me):
    hit(me, "#save-open")
    for tick in me.all("#save-dialog [name=steps]"):
        if tick.is_selected():
            tick.click()
    yield "#save-dialog [data-tick=all]"
    me.wait(lambda: all(t.is_selected() for t in me.all("#save-dialog [name=steps]")))


@stage("#repair", "[data-repair-way]", "[data-repair]")
def the_masks_of_the_key_frame_are_mended(me):
    yield
    me.wait(lambda: me.find("#repair-bar").is_displayed() and is_pressed(me, "#repair"))
    yield
    me.wait(lambda: not me.find("#repair-bar").is_displayed())


def shared(me):
    region = {"name": "Around", "region": SUBJECT}
    steps = [{**step, "shared": {"region": "r"}, "region": {"parts": []}} for step in STEPS]
    load(me, steps, regions={"r": region})
    me.open(0)
    me.chip("share")
    hit(me, ".lane[data-open] [data-delete-shared]")
    me.wait(lambda: me.find("#ask-dialog").is_displayed())


@stage("[data-then=copies]")
def each_step_has_a_copy_of_what_was_shared(me):
    shared(me)
    yield
    me.wait(lambda: not me.recipe.regions)
    assert [me.recipe.sentence(s) for s in me.recipe.steps] == ["subject", "subject"]
    assert all(s.enabled for s in me.recipe.steps)


@stage("[data-then=off]")
def steps_that_shared_are_switched_off(me):
    shared(me)
    yield
    me.wait(lambda: not me.recipe.regions)
    assert not any(s.enabled for s in me.recipe.steps)


@stage("[data-then='']")
def what_is_shared_stays(me):
    shared(me)
    yield
    me.wait(lambda: not me.find("#ask-dialog").is_displayed())
    assert me.recipe.regions


# --- walked


@pytest.mark.parametrize(("css", "promise"), **stage.parameters())
def test_what_is_pressed_is_done(me, css, promise):
    walk(me, css, promise)


def test_no_button_around_the_pictures_is_without_a_promise(me):
    warned(me)
    hit(me, "#found-open")
    ActionChains(me.driver).send_keys(Keys.ESCAPE).perform()
    gather(me)
    hit(me, "#save-open")
    assert not (left := stage.unpromised(me, elsewhere)), left

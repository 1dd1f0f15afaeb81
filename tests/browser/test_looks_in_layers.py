"""Groups, doubles, effects, one strength, choosing by pictures and the line-up, in the hand."""

import time

import numpy as np
import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from lenskeep.store import looks, recipes
from lenskeep.studio.book import effects
from tests.browser.under_the_hand import under

SUBJECT, SKY = ({"parts": [{"kind": kind}]} for kind in ("subject", "sky"))
STEPS = [
    {"id": "a", "name": "Lift", "region": SUBJECT, "adjustments": [{"kind": "exposure", "ev": 1.2}]},
    {"id": "b", "name": "Calm", "adjustments": [{"kind": "contrast", "contrast": -25}]},
    {"id": "c", "name": "Sky", "region": SKY, "adjustments": [{"kind": "saturation", "saturation": 20}]},
]


def names(person):
    return [step.name for step in person.recipe.steps]


def choose(person, of):
    person.open(0)
    person.tap(person.find(f".lane[data-open] [data-choose={of}]"))
    person.wait(lambda: person.all(".choice"))


def tile(person, name):
    return next(t for t in person.all(".choice") if t.get_attribute("data-name") == name)


def shown_tiles(person):
    return [t.get_attribute("data-name") for t in person.all(".choice") if t.is_displayed()]


@pytest.mark.browser
def test_an_effect_is_painted_on_and_seen_under_the_brush(hands):
    choose(hands, "effects")
    hands.tap(tile(hands, "Darker").find_element("css selector", "[data-choice-tick]"))
    hands.press("Paint it on")
    hands.wait(lambda: names(hands)[-1:] == ["Darker"])
    hands.wait(lambda: hands.find("#overlay").get_attribute("data-tool") == "brush")
    hands.settled("#key-canvas")
    room = hands.find("#key-frame")
    ActionChains(hands.driver, duration=60).move_to_element(room).click_and_hold().move_by_offset(60, 0).perform()
    hands.wait(lambda: under(hands) and under(hands)[0] > 0.001)
    ActionChains(hands.driver).release().perform()
    hands.wait(lambda: len(hands.recipe.steps[-1].region.parts[0].strokes) == 1)
    before = hands.settled("#key-canvas")
    hands.find("#undo").click()
    hands.wait(lambda: abs(hands.picture("#key-canvas") - before) > 0.05)


@pytest.mark.browser
def test_steps_become_a_group_limited_to_all_but_people_switched_weakened_and_dissolved(hands):
    hands.press("Group…")
    form = hands.find("[data-group-steps]")
    for step in ("a", "b"):
        field = form.find_element("css selector", f"[value={step}]")
        if not field.is_selected():
            hands.tap(field)
    hands.set(form.find_element("css selector", "[name=name]"), "Both")
    hands.tap(form.find_element("css selector", ".button-main"))
    hands.wait(lambda: [g.name for g in hands.recipe.groups.values()] == ["Both"])
    for limit in ("people", "sky"):
        hands.settled("#key-canvas")  # the lanes are new by then
        hands.set(hands.find("[data-limit]"), f"not {limit}")
        hands.wait(lambda: [g.limit.invert for g in hands.recipe.groups.values()] == [True])
        hands.wait(lambda word=limit: word in hands.find("[data-limit]").text.splitlines()[0])
    whole = hands.settled("#key-canvas")
    assert "all but" in hands.find("[data-limit]").text.lower()
    hands.press("Save the recipe…")
    ticks = "#save-dialog [name=steps]"
    hands.press("Only Both", "#save-dialog button")
    assert [t.is_selected() for t in hands.all(ticks)] == [True, True, False]
    hands.press("All", "#save-dialog button")
    assert all(t.is_selected() for t in hands.all(ticks))
    hands.press("Cancel", "#save-dialog button")
    # the group's switch held: the picture without its steps, and the recipe as it was
    state = hands.recipe
    switch = hands.find(".group-head input[data-path$='/enabled']")
    ActionChains(hands.driver).click_and_hold(switch).perform()
    hands.reads("without this group", "#which")
    hands.wait(lambda: abs(hands.picture("#key-canvas") - whole) > 0.2)
    ActionChains(hands.driver).release().perform()
    hands.wait(lambda: abs(hands.picture("#key-canvas") - whole) < 0.1)
    assert hands.recipe == state and switch.is_selected()
    slider = hands.find(".group-head input[type=range]")
    hands.set(slider, 0)
    hands.wait(lambda: abs(hands.settled("#key-canvas") - whole) > 0.2)
    hands.wait(lambda: [g.strength for g in hands.recipe.groups.values()] == [0.0])
    hands.tap(hands.find("[data-fold-group]"))
    hands.wait(lambda: not hands.find("#lane-a").is_displayed() and hands.find("#lane-c").is_displayed())
    hands.tap(hands.find("[aria-label='More for Both']"))
    hands.press("Dissolve")
    hands.wait(lambda: not hands.recipe.groups and hands.find("#lane-a").is_displayed())
    assert hands.recipe.step("a").strength == 0.0


@pytest.mark.browser
def test_an_opposite_double_by_key_and_a_step_in_the_same_place(hands):
    hands.open(0)
    ActionChains(hands.driver).send_keys("o").perform()
    hands.wait(lambda: names(hands)[:2] == ["Lift", "Lift, opposite"])
    twin = hands.recipe.steps[1]
    assert twin.region.invert and twin.adjustments[0].ev == -1.2
    hands.wait(lambda: hands.find(".lane[data-open]").get_attribute("data-step") == twin.id)
    hands.settled("#key-canvas")
    ActionChains(hands.driver).send_keys("n").perform()
    hands.wait(lambda: len(hands.recipe.steps) == 5 and not hands.recipe.steps[2].adjustments)
    hands.settled("#key-canvas")
    ActionChains(hands.driver).key_down(Keys.CONTROL).send_keys("z").key_up(Keys.CONTROL).perform()
    hands.wait(lambda: len(hands.recipe.steps) == 4)


@pytest.mark.browser
def test_one_strength_moves_the_whole_look_with_its_witnesses(hands):
    full, witness = hands.settled("#key-canvas"), hands.settled(".witness canvas")
    slider = hands.find(".lane-whole input[type=range]")
    hands.set(slider, 0)
    hands.wait(lambda: abs(hands.settled("#key-canvas") - full) > 0.3)
    assert abs(hands.settled(".witness canvas") - witness) > 0.2
    hands.wait(lambda: hands.recipe.strength == 0.0)
    slider.send_keys(Keys.DELETE)
    hands.wait(lambda: hands.recipe.strength == 1.0)
    hands.wait(lambda: abs(hands.settled("#key-canvas") - full) < 0.1)


@pytest.mark.browser
def test_twenty_tones_are_tried_three_kept_and_one_taken(hands):
    untouched = hands.settled("#key-canvas")
    history = hands.find("#undo").get_attribute("title")
    choose(hands, "effects")
    Select(hands.find("[data-choices-shelf]")).select_by_visible_text("Tones")
    tones = [e.effect.name for e in effects.ready() if e.shelf == "Tones"]
    hands.wait(lambda: shown_tiles(hands) == tones)
    assert len(tones) >= 20
    hands.tap(tile(hands, "Ember").find_element("css selector", ".choice-name span"))
    for name in ("Sepia", "Ink"):
        picture = tile(hands, name).find_element("css selector", ".choice-picture")
        hands.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", picture)
        ActionChains(hands.driver).move_to_element(picture).perform()
        hands.wait(lambda: hands.find(".choice-large").is_displayed())
        hands.wait(lambda name=name: hands.find(".choice-large").text == name)
        hands.tap(tile(hands, name).find_element("css selector", "[data-choice-tick]"))
    hands.press("Keep ticked, drop the rest")
    hands.wait(lambda: shown_tiles(hands) == ["Ink", "Ember", "Sepia"])
    ActionChains(hands.driver).move_to_element(hands.find("#choosing h2")).perform()
    hands.wait(lambda: not hands.find(".choice-large").is_displayed())
    assert abs(hands.settled("#key-canvas") - untouched) < 0.2
    assert hands.find("#undo").get_attribute("title") == history, "nothing of it entered the history"
    hands.tap(tile(hands, "Ember").find_element("css selector", "[data-choice-tick]"))
    hands.press("Two side by side")
    hands.wait(lambda: len(hands.all(".choice-large figure")) == 2)
    hands.tap(tile(hands, "Sepia").find_element("css selector", ".choice-picture"))
    hands.wait(lambda: [a.kind for a in hands.recipe.steps[0].adjustments][-1] == "split_toning")
    hands.wait(lambda: hands.find("#lanes").is_displayed() and abs(hands.settled("#key-canvas") - untouched) > 0.3)


@pytest.mark.browser
def test_a_line_up_is_mixed_by_keys_and_given_to_the_scene(hands):
    hands.driver.get(f"{hands.address}/scenes/{hands.shoot}/line-up")
    cells = ".line-up-cell img"
    hands.wait(lambda: len(hands.all(cells)) >= 20 and all(c.get_attribute("src") for c in hands.all(cells)))
    columns = len(hands.all("[data-tick]"))
    # a cell large, and its file's own pixels
    hands.tap(hands.all(".line-up-cell")[0])
    large = hands.find("#line-up-large img")
    hands.wait(lambda: large.is_displayed() and large.get_property("naturalWidth") > 0)
    hands.tap(large)
    hands.wait(lambda: large.get_attribute("data-true") is not None)
    ratio = "return window.devicePixelRatio"
    wide = lambda: large.get_property("naturalWidth") / large.size["width"]  # noqa: E731
    hands.wait(lambda: wide() == pytest.approx(hands.driver.execute_script(ratio), rel=0.01))
    where = large.get_attribute("src")
    ActionChains(hands.driver).send_keys(Keys.ARROW_RIGHT).perform()
    hands.tap(large)
    hands.wait(lambda: large.get_attribute("data-true") is None and large.get_attribute("src") != where)
    hands.press("Close", "#line-up-large button")
    hands.driver.execute_script("document.querySelectorAll('.line-up-cell')[1].focus()")
    ActionChains(hands.driver).send_keys("k").send_keys(Keys.ARROW_RIGHT).send_keys("k").perform()
    hands.wait(lambda: [t.is_selected() for t in hands.all("[data-tick]")][1:3] == [True, True])
    strength = hands.all("[data-strength]")[1]
    hands.set(strength, 60)
    hands.press("Mix ticked")
    hands.wait(lambda: len(hands.all("[data-tick]")) == columns + 1)
    hands.wait(lambda: all(c.get_attribute("src") for c in hands.all(cells)))
    ActionChains(hands.driver).send_keys(Keys.ESCAPE).perform()
    hands.press("Give it to the scene")
    hands.wait(lambda: "/line-up" not in hands.driver.current_url)
    look = looks.look(hands.library.db, hands.shoot)
    assert [e.strength for e in look.layers] == [0.6, 1.0] and look.layers[0].version.name != look.layers[
        1
    ].version.name


@pytest.mark.browser
def test_a_set_is_exported_deleted_imported_and_equal(hands, tmp_path):
    kept = recipes.save_recipe(hands.library.db, hands.recipe.model_copy(update={"name": f"Set {time.time():.0f}"}))
    hands.driver.get(f"{hands.address}/recipes")
    entry = f"#recipe-{kept.recipe_id}"
    hands.tap(hands.find(f"{entry} [x-data] > button"))
    hands.set(hands.find(f"{entry} [name=shelf]"), "My evenings")
    hands.tap(hands.find(f"{entry} form[action$=file] button"))
    hands.wait(lambda: recipes.versions(hands.library.db, kept.recipe_id)[0].shelf == "My evenings")
    hands.reads("My evenings", f"{entry} .chip")
    script = "return fetch('/recipes/sets.json?name=My%20evenings').then((a) => a.text())"
    path = tmp_path / "set.json"
    path.write_text(hands.driver.execute_script(script))
    hands.tap(hands.find(f"{entry} [x-data] > button"))
    hands.tap(hands.find(f"{entry} form[action$=delete] button"))
    hands.reads("is deleted")
    assert not recipes.versions(hands.library.db, kept.recipe_id)
    hands.find("input[type=file]").send_keys(str(path))
    hands.reads("1 of the set “My evenings” came in")
    [back] = [v for v in recipes.newest_versions(hands.library.db) if v.name == kept.name]
    assert back.recipe == kept.recipe and back.shelf == "My evenings"
    search = hands.find("[data-book-search]")
    hands.set(search, "no such thing")
    hands.wait(lambda: hands.find("[data-book-none]").is_displayed())
    assert np.all([not e.is_displayed() for e in hands.all("[data-entry]")])

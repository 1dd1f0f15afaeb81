"""Pointing first: what was found lights up, is collected by clicks and from a list, and becomes a step or its part;
gradients of other steps are opened on the picture.
"""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

STEPS = [
    {"id": "a", "name": "Lift", "adjustments": [{"kind": "exposure", "ev": 1.0}]},
    {
        "id": "b",
        "name": "Pool of light",
        "region": {"parts": [{"kind": "pool", "x": 0.15, "y": 0.8}]},
        "adjustments": [{"kind": "exposure", "ev": 0.3}],
    },
]
ANIMAL, SKY = (0.5, 0.6), (0.5, 0.1)


def lights(person):
    return person.find("#lit-name").text


def gathered(person):
    return [chip.text for chip in person.all("#gathered [data-turn]")]


def choose(person, words):
    person.find("#gathered [data-picker-open]").click()
    person.driver.switch_to.active_element.send_keys(words, Keys.ENTER)


@pytest.mark.browser
def test_what_is_under_the_pointer_lights_up_and_clicks_make_a_step(hands):
    hands.hand(*ANIMAL).perform()
    hands.wait(lambda: lights(hands).startswith("this animal, "))
    assert hands.all("#overlay .lit")
    hands.hand(*SKY).perform()
    hands.wait(lambda: lights(hands).startswith("sky, ") and lights(hands).endswith("on 4 of 4 frames"))
    hands.hand(*ANIMAL).click().perform()
    hands.wait(lambda: gathered(hands) == ["this animal"])
    hands.hand(*SKY).click().perform()
    hands.wait(lambda: gathered(hands) == ["this animal", "sky"])
    hands.tap(hands.all("#gathered [data-turn]")[0])  # the whole kind is meant
    hands.wait(lambda: gathered(hands) == ["all animals", "sky"])
    hands.hand(*SKY).perform()
    ActionChains(hands.driver).key_down(Keys.ALT).click().key_up(Keys.ALT).perform()
    hands.wait(lambda: gathered(hands) == ["all animals", "without sky"])
    choose(hands, "Haze")
    hands.wait(lambda: len(hands.recipe.steps) == 3)
    step = hands.recipe.steps[2]
    assert hands.recipe.sentence(step) == "animals, without sky" and step.adjustments[0].kind == "haze"
    hands.wait(lambda: not hands.find("#gathered").is_displayed() and not hands.all("#overlay .gathered-outline"))
    hands.wait(lambda: hands.find(".lane[data-open]").get_attribute("data-step") == step.id)


@pytest.mark.browser
def test_a_second_click_a_double_click_and_escape_let_go(hands):
    hands.hand(*SKY).click().perform()
    hands.wait(lambda: gathered(hands) == ["sky"])
    hands.hand(*SKY).click().perform()
    hands.wait(lambda: gathered(hands) == [])
    hands.hand(*SKY).click().perform()
    hands.wait(lambda: gathered(hands) == ["sky"])
    hands.find("body").send_keys(Keys.ESCAPE)
    hands.wait(lambda: gathered(hands) == [])
    hands.press("Plain")  # then nothing lies over the picture, and nothing is collected
    hands.hand(*SKY).click().perform()
    assert not hands.find("#lit-name").is_displayed() and gathered(hands) == []
    assert len(hands.recipe.steps) == 2


@pytest.mark.browser
def test_the_list_of_what_was_found_goes_into_the_open_step_by_keyboard(hands):
    hands.open(0)
    hands.find("#found-open").send_keys(Keys.ENTER)
    hands.wait(lambda: hands.find("#found-list").is_displayed())
    rows = hands.all("#found-list [data-found]")
    names = [row.text.split(",")[0] for row in rows]
    assert "this animal" in names and "sky" in names
    hands.driver.execute_script("arguments[0].focus()", rows[names.index("sky")])
    hands.wait(lambda: lights(hands).startswith("sky, "))
    ActionChains(hands.driver).send_keys(Keys.ENTER).perform()
    hands.wait(lambda: gathered(hands) == ["sky"])
    into = hands.find("#gathered [data-gathered-into]")
    assert into.text == "Into “Lift”"
    into.send_keys(Keys.ENTER)
    hands.wait(lambda: hands.recipe.sentence(hands.recipe.steps[0]) == "sky")
    hands.wait(lambda: [c.text for c in hands.all(".lane[data-open] [data-chip^='part-']")] == ["sky"])


@pytest.mark.browser
def test_a_gradient_of_another_step_is_opened_on_the_picture(hands):
    hands.open(0)
    hands.wait(lambda: hands.all("#overlay .gradient-mark"))
    [mark] = hands.all("#overlay .gradient-mark")
    assert mark.get_attribute("aria-label") == "Edit the pool of Pool of light"
    mark.click()
    hands.wait(lambda: hands.find(".lane[data-open]").get_attribute("data-step") == "b")
    hands.wait(lambda: hands.find("[data-part=pool]").is_displayed() and len(hands.all("#overlay .handle")) == 5)
    assert not hands.all("#overlay .gradient-mark")
    assert gathered(hands) == [], "a click on a mark collects nothing"
    hands.find("body").send_keys(Keys.ESCAPE)
    hands.wait(lambda: not hands.find("[data-part=pool]").is_displayed())
    hands.open(0)
    hands.wait(lambda: hands.all("#overlay .gradient-mark"))
    hands.find("#overlay .gradient-mark").send_keys(Keys.ENTER)
    hands.wait(lambda: hands.find("[data-part=pool]").is_displayed())

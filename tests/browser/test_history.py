"""The Bench's history as a list, states with names, one held against the present, and a look at a step's absence."""

import time

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.browser.close import rests, seen

SUBJECT = {"parts": [{"kind": "subject"}]}
STEPS = [
    {"id": "a", "name": "Lift", "region": SUBJECT, "adjustments": [{"kind": "exposure", "ev": 1}]},
    {"id": "b", "name": "Dark", "adjustments": [{"kind": "exposure", "ev": -2}]},
]


@pytest.fixture
def at_the_bench(desk):
    with desk.bench(STEPS) as person:
        yield person


def names(person):
    return [s.name for s in person.recipe.steps]


def history(person):
    def opened():
        if not person.find("#history-dialog").is_displayed():
            person.find("[data-open-history]").click()  # given anew with the lanes, maybe at this very moment
        return person.find("#history-dialog").is_displayed()

    person.wait(opened)


@pytest.mark.browser
def test_going_back_coming_back_and_starting_from_nothing(at_the_bench):
    person = at_the_bench
    person.press("Paint lighter")
    person.wait(lambda: names(person) == ["Lift", "Dark", "Painted lighter"])
    history(person)
    person.reads("a brush of its own – as it is now", "#history-dialog")
    person.find("#history-dialog [name='words']").send_keys("With a brush", Keys.ENTER)
    person.reads("With a brush", "#history-dialog strong")
    person.press("loading Hands", "#history-dialog button")
    person.wait(lambda: names(person) == ["Lift", "Dark"])
    person.reads("a brush of its own – undone", "#history-dialog")
    person.press("Start from nothing", "#history-dialog button")
    person.wait(lambda: names(person) == [])
    person.press("Come back", "#history-dialog button")
    person.wait(lambda: names(person) == ["Lift", "Dark", "Painted lighter"])
    person.press("Close", "#history-dialog button")
    person.wait(lambda: not person.find("#history-dialog").is_displayed())
    ActionChains(person.driver).key_down(Keys.CONTROL).send_keys("z").key_up(Keys.CONTROL).perform()
    person.wait(lambda: names(person) == [])
    person.find("body").send_keys("h")
    person.wait(lambda: person.find("#history-dialog").is_displayed())
    person.find("#history-dialog").send_keys(Keys.ESCAPE)


@pytest.mark.browser
def test_a_kept_state_is_held_against_the_present_one_near_and_far(at_the_bench):
    person = at_the_bench
    dark = person.settled("#key-canvas")
    history(person)
    person.find("#history-dialog [name='words']").send_keys("Dark one", Keys.ENTER)
    person.reads("Dark one", "#history-dialog strong")
    person.press("Start from nothing", "#history-dialog button")
    person.press("Close", "#history-dialog button")
    person.wait(lambda: person.picture("#key-canvas") > dark + 5)
    bright = person.settled("#key-canvas")
    history(person)
    person.find("#history-dialog [data-pin^='named']").click()
    person.wait(lambda: abs(person.picture("#key-canvas") - dark) < 1)
    person.reads("Dark one", "#which")
    person.find("#pinned").click()
    person.wait(lambda: abs(person.picture("#key-canvas") - bright) < 1)
    keys = ActionChains(person.driver).key_down("p")
    keys.perform()
    person.wait(lambda: abs(person.picture("#key-canvas") - dark) < 1)
    ActionChains(person.driver).key_up("p").perform()
    person.wait(lambda: abs(person.picture("#key-canvas") - bright) < 1)
    assert names(person) == []


@pytest.mark.browser
def test_a_steps_switch_held_shows_the_picture_without_it_and_leaves_undo_alone(at_the_bench):
    person = at_the_bench
    dark, state = person.settled("#key-canvas"), person.recipe
    switch = person.all(".lane-row input[data-path$='/enabled']")[1]
    ActionChains(person.driver).click_and_hold(switch).perform()
    person.wait(lambda: person.picture("#key-canvas") > dark + 5)
    person.reads("without this step", "#which")
    ActionChains(person.driver).release().perform()
    person.wait(lambda: abs(person.picture("#key-canvas") - dark) < 1)
    time.sleep(0.4)
    assert person.recipe == state and switch.is_selected()
    person.find("[data-close='1']").click()
    rests(person)
    near = seen(person)[1].mean()
    ActionChains(person.driver).click_and_hold(switch).perform()
    person.wait(lambda: seen(person)[1].mean() > near + 5)
    ActionChains(person.driver).release().perform()
    person.wait(lambda: abs(seen(person)[1].mean() - near) < 1)
    time.sleep(0.4)
    assert person.recipe == state
    switch.click()  # a short press switches it off for good
    person.wait(lambda: not person.recipe.steps[1].enabled)

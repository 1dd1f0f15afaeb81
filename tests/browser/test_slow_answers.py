"""The Bench while the server takes its time: the hand goes on, and what comes late takes nothing away from it."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains

from tests.browser.hands import PAINTED_AND_POOL

SLOW = """
const quick = window.fetch;
window.kept = [];
window.fetch = async (url, ...more) => {
  const answer = await quick(url, ...more);
  if (String(url.url ?? url).endsWith('/bench/edit')) await new Promise((go) => window.kept.push(go));
  return answer;
};
"""
MARKED = "document.querySelector('#lane-b').dataset.old = 1"
KEPT = "return window.kept.length"
LET_GO = "window.kept.splice(0).forEach((go) => go())"
HALF_WAY = f"""
setTimeout(() => {{ {LET_GO} }}, 800);
setTimeout(() => {{ window.old_at_half_way = Boolean(document.querySelector('#lane-b[data-old]')); }}, 1600);
"""


@pytest.fixture
def waiting(desk):
    """Somebody at the Bench whose changes of structure are answered only when the test lets them be."""
    with desk.bench(PAINTED_AND_POOL) as person:
        person.driver.execute_script(SLOW)
        yield person
        person.driver.execute_script(LET_GO)


def painted(person):
    """A stroke that the server has and the page has no answer to."""
    person.open(0)
    person.tool("brush")
    person.drag((0.3, 0.5), (0.5, 0.5))
    person.wait(lambda: person.driver.execute_script(KEPT) == 1)


def is_open(person):
    return [lane.get_attribute("data-step") for lane in person.all(".lane[data-open]")]


def pool(person):
    return person.recipe.region_of(person.recipe.steps[1]).parts[0]


def drawn_on(person, element):
    """Drag it to the right, with the answer coming half way; is the lane still the old one then?"""
    person.driver.execute_script(MARKED + ";" + HALF_WAY)
    # in one chain: what is held is let go of between two
    chain = ActionChains(person.driver, duration=60).click_and_hold(element).move_by_offset(20, 0)
    chain.pause(2).move_by_offset(20, 0).release().perform()
    return person.driver.execute_script("return window.old_at_half_way")


@pytest.mark.browser
def test_a_late_answer_leaves_the_step_open_that_the_hand_went_on_to(waiting):
    painted(waiting)
    waiting.open(1)
    waiting.driver.execute_script(MARKED)
    waiting.driver.execute_script(LET_GO)
    waiting.wait(lambda: not waiting.all("#lane-b[data-old]"))
    assert is_open(waiting) == ["b"]
    assert waiting.handle("Middle").is_displayed()


@pytest.mark.browser
def test_a_late_answer_waits_until_a_handle_is_let_go(waiting):
    painted(waiting)
    waiting.open(1)
    before = pool(waiting)
    assert drawn_on(waiting, waiting.handle("Middle")), "nothing is exchanged under the hand"
    waiting.wait(lambda: pool(waiting).x > before.x + 0.05)
    waiting.wait(lambda: not waiting.all("#lane-b[data-old]"))
    assert not waiting.all(".toast"), "nobody else was at it"
    assert len(waiting.parts[0].strokes) == 1
    field = waiting.find("#lane-b [data-path$='/x']")
    waiting.wait(lambda: abs(float(field.get_attribute("value")) - pool(waiting).x) < 0.01)


@pytest.mark.browser
def test_a_late_answer_waits_until_a_slider_is_let_go(waiting):
    painted(waiting)
    waiting.open(1)
    slider = waiting.find("#lane-b .adjustment input[type=range]")
    waiting.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", slider)
    assert drawn_on(waiting, slider)
    waiting.wait(lambda: waiting.recipe.steps[1].adjustments[0].ev > 0.55)
    waiting.wait(waiting.rests)
    slider = waiting.find("#lane-b .adjustment input[type=range]")
    assert abs(float(slider.get_attribute("value")) - waiting.recipe.steps[1].adjustments[0].ev) < 0.02
    assert len(waiting.parts[0].strokes) == 1


@pytest.mark.browser
def test_what_a_button_asked_for_waits_as_well(waiting):
    waiting.open(1)
    waiting.tap(waiting.find("#lane-b .adjustment [hx-post]"))
    waiting.wait(lambda: waiting.driver.execute_script(KEPT) == 1)
    assert drawn_on(waiting, waiting.handle("Middle"))
    waiting.wait(lambda: not waiting.all("#lane-b[data-old]"))
    waiting.wait(lambda: pool(waiting).x > 0.55)
    assert is_open(waiting) == ["b"]
    assert not waiting.recipe.steps[1].adjustments

"""The Bench by keyboard and pointer: what a hand does there all day."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

STEPS = [
    {"id": "a", "name": "Lift", "region": {"parts": [{"kind": "subject"}]}, "adjustments": [{"kind": "exposure"}]},
    {
        "id": "b",
        "name": "Pool of light",
        "region": {"parts": [{"kind": "pool", "anchor": "subject"}]},
        "adjustments": [{"kind": "exposure", "ev": 0.5}],
    },
]


@pytest.fixture
def at_the_bench(desk):
    with desk.bench(STEPS) as person:
        yield person, lambda: person.recipe


def keys(person, *pressed):
    ActionChains(person.driver).send_keys(*pressed).perform()


def with_modifier(person, modifier, key):
    ActionChains(person.driver).key_down(modifier).send_keys(key).key_up(modifier).perform()


@pytest.mark.browser
def test_sliders_by_keyboard_number_and_double_click(at_the_bench):
    person, draft = at_the_bench
    person.all("[data-open-lane]")[0].click()
    box = ".lane[data-open] [data-slider][data-path$='adjustments/a1/ev']"
    slider, number = person.find(f"{box} input[type=range]"), person.find(f"{box} input[type=number]")

    def ev():
        return draft().steps[0].adjustments[0].ev

    dark = person.settled("#key-canvas")
    slider.send_keys(Keys.ARROW_RIGHT, Keys.ARROW_RIGHT)
    step = float(number.get_attribute("step"))
    person.wait(lambda: ev() == pytest.approx(2 * step))
    with_modifier(person, Keys.SHIFT, Keys.ARROW_RIGHT)
    person.wait(lambda: ev() == pytest.approx(2.1 * step))
    number.clear()
    number.send_keys("1.5", Keys.ENTER)
    person.wait(lambda: ev() == pytest.approx(1.5))
    person.wait(lambda: person.picture("#key-canvas") > dark + 2)
    number.clear()
    number.send_keys("99", Keys.ENTER)
    person.wait(lambda: ev() == float(number.get_attribute("max")))
    slider.send_keys(Keys.DELETE)
    person.wait(lambda: ev() == 0.0)
    person.wait(lambda: abs(person.picture("#key-canvas") - dark) < 0.3)
    with_modifier(person, Keys.CONTROL, "z")
    person.wait(lambda: ev() > 0)
    person.wait(lambda: person.all(".lane[data-open]"))
    ActionChains(person.driver).double_click(person.find(f"{box} input[type=range]")).perform()
    person.wait(lambda: ev() == 0.0)


@pytest.mark.browser
def test_handles_move_a_pool_by_pointer_and_by_arrows(at_the_bench):
    person, draft = at_the_bench
    person.all("[data-open-lane]")[1].click()
    person.wait(lambda: len(person.all("#overlay .handle")) == 5)
    person.wait(lambda: person.all("#overlay .line"))
    pool = draft().steps[1].region.parts[0]
    person.settled("#key-canvas")
    before = person.sight("#key-canvas")
    middle = person.find("#overlay .handle[aria-label='Middle of the pool']")
    ActionChains(person.driver).click_and_hold(middle).move_by_offset(60, 0).release().perform()
    person.wait(lambda: draft().steps[1].region.parts[0].x > pool.x + 0.1)
    moved = draft().steps[1].region.parts[0]
    assert moved.y == pytest.approx(pool.y, abs=0.03) and moved.rx == pool.rx
    person.wait(lambda: person.sight("#key-canvas") != before)
    rim = person.find("#overlay .handle[aria-label='Half width of the pool']")
    person.driver.execute_script("arguments[0].focus()", rim)
    keys(person, Keys.ARROW_RIGHT)
    person.wait(lambda: draft().steps[1].region.parts[0].rx > moved.rx)
    field = person.find(".lane[data-open] [data-path*='/parts/'][data-path$='/rx']")
    assert float(field.get_attribute("value")) == pytest.approx(draft().steps[1].region.parts[0].rx, abs=1e-3)


@pytest.mark.browser
def test_space_holds_the_original_v_cycles_views_and_the_divider_moves(at_the_bench):
    person, _ = at_the_bench
    person.all("[data-open-lane]")[1].click()
    finished = person.settled("#key-canvas")
    body = person.find("body")
    person.driver.execute_script("document.activeElement.blur()")
    ActionChains(person.driver).key_down(Keys.SPACE).perform()
    person.wait(lambda: person.find("#which").is_displayed())
    original = person.settled("#key-canvas")
    assert abs(original - finished) > 0.1
    ActionChains(person.driver).key_up(Keys.SPACE).perform()
    person.wait(lambda: abs(person.picture("#key-canvas") - finished) < 0.05)
    seen = []
    for _ in range(4):
        body.send_keys("v")
        seen.append(person.find("[data-view][aria-pressed=true]").get_attribute("data-view"))
    assert seen == ["tint", "grey", "none", "contours"]
    person.settled("#key-canvas")
    person.press("Divider")
    split = person.find("#split")
    person.wait(split.is_displayed)
    split.send_keys(*[Keys.ARROW_LEFT] * 5)
    assert split.get_attribute("aria-valuenow") == "40"


@pytest.mark.browser
def test_another_frame_becomes_the_key_frame_and_a_failure_is_told(at_the_bench):
    person, _ = at_the_bench
    first = person.find("#bench").get_attribute("data-key")
    person.all(".witness")[0].click()
    person.wait(lambda: person.find("#bench").get_attribute("data-key") != first)
    person.settled("#key-canvas")
    person.all("[data-open-lane]")[0].click()
    person.driver.execute_script(
        "document.querySelector('[data-path$=\"steps/a/strength\"]').dataset.path = 'steps/x/y'"
    )
    person.set(person.find(".lane [data-slider] input[type=range]"), 50)
    person.reads("no longer in the recipe", ".toast")
    person.ends()  # contours were asked for with the same value
    person.driver.get_log("browser")  # the refusals themselves are in the browser's log

"""Steps and adjustments in the hand: dragged, moved by keys, weakened, switched off, copied; a cast clicked away, a
balance held to the key frame, masks seen larger.
"""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

SUBJECT, SKY = ({"parts": [{"kind": kind}]} for kind in ("subject", "sky"))
LIT = [{"kind": "exposure", "ev": 1.5}, {"kind": "warmth", "mired": 30}]
STEPS = [
    {"id": "a", "name": "Lift", "region": SUBJECT, "adjustments": LIT},
    {"id": "b", "name": "Calm", "adjustments": [{"kind": "contrast", "contrast": -10}]},
    {"id": "c", "name": "Sky", "region": SKY, "adjustments": [{"kind": "saturation", "saturation": 20}]},
]


def order(person):
    """Of the steps as the lanes show them and as they are kept; "" while these differ."""
    shown = "".join(lane.get_attribute("data-step") for lane in person.all(".lane"))
    return shown if shown == "".join(step.id for step in person.recipe.steps) else ""


def grip(person, step):
    return person.find(f"#lane-{step} [data-grip]")


@pytest.mark.browser
def test_a_step_is_dragged_to_any_place_and_moved_by_keys(hands):
    target = hands.find("#lane-a .lane-row")
    chain = ActionChains(hands.driver, duration=60).click_and_hold(grip(hands, "c"))
    chain.move_to_element_with_offset(target, 0, 0).move_to_element_with_offset(target, 0, -15).perform()
    hands.wait(lambda: hands.all(".drop-line"))
    ActionChains(hands.driver).release().perform()
    hands.wait(lambda: order(hands) == "cab")
    hands.wait(lambda: not hands.all(".drop-line"))
    grip(hands, "c").send_keys(Keys.ARROW_DOWN)
    hands.wait(lambda: order(hands) == "acb")
    hands.wait(lambda: hands.driver.switch_to.active_element == grip(hands, "c"))  # so that it can be moved on
    ActionChains(hands.driver).send_keys(Keys.ARROW_DOWN).perform()
    hands.wait(lambda: order(hands) == "abc")
    # downwards too it lands where the line was: between the two others
    chain = ActionChains(hands.driver, duration=60).click_and_hold(grip(hands, "a"))
    target = hands.find("#lane-b .lane-row")
    chain.move_to_element_with_offset(target, 0, 0).move_to_element_with_offset(target, 0, 15).perform()
    hands.wait(lambda: hands.all("#lane-b + .drop-line"))
    ActionChains(hands.driver).release().perform()
    hands.wait(lambda: order(hands) == "bac")
    grip(hands, "a").send_keys(Keys.ARROW_UP)
    hands.wait(lambda: order(hands) == "abc")
    hands.wait(hands.rests)
    # dropped with Escape, nothing moves
    chain = ActionChains(hands.driver, duration=60).click_and_hold(grip(hands, "a"))
    chain.move_to_element(hands.find("#lane-c .lane-row")).send_keys(Keys.ESCAPE).release().perform()
    hands.wait(lambda: not hands.all(".drop-line"))
    assert order(hands) == "abc"


@pytest.mark.browser
def test_an_adjustment_is_switched_off_weakened_moved_and_copied(hands):
    hands.open(0)
    first = ".lane[data-open] .adjustment"
    bright = hands.settled("#key-canvas")
    hands.tap(hands.find(f"{first} [data-path$='a1/enabled']"))
    hands.wait(lambda: not hands.recipe.steps[0].adjustments[0].enabled)
    hands.wait(lambda: hands.picture("#key-canvas") < bright - 1)
    off = hands.settled("#key-canvas")
    assert hands.find(first).get_attribute("data-off") is not None
    hands.reads("warmth +30 mired", "#lane-a [data-does]")
    assert "exposure" not in hands.find("#lane-a [data-does]").text
    hands.tap(hands.find(f"{first} [data-path$='a1/enabled']"))
    hands.tap(hands.find(f"{first} [data-fold-button]"))
    strength = hands.find(f"{first} [data-path$='a1/strength'] input[type=range]")
    hands.wait(strength.is_displayed)
    hands.set(strength, 40)
    hands.wait(lambda: hands.recipe.steps[0].adjustments[0].strength == 0.4)
    hands.wait(lambda: off + 0.5 < hands.picture("#key-canvas") < bright - 0.5)
    Select(hands.find(f"{first} [data-to-step]")).select_by_visible_text("Sky")
    hands.press("Copy", f"{first} [data-place]")
    hands.wait(lambda: [a.kind for a in hands.recipe.step("c").adjustments] == ["saturation", "exposure"])
    hands.press("Later", f"{first} [data-edit]")
    hands.wait(lambda: [a.kind for a in hands.recipe.step("a").adjustments] == ["warmth", "exposure"])
    hands.wait(lambda: [a.get_attribute("data-adjustment") for a in hands.all(first)] == ["warmth", "exposure"])
    last = hands.all(first)[-1]
    assert last.find_element("css selector", "[data-more]").is_displayed(), "it stays unfolded where it goes"
    Select(last.find_element("css selector", "[data-to-step]")).select_by_visible_text("Calm")
    last.find_element("css selector", "[data-place='move-adjustment']").click()
    hands.wait(lambda: [a.kind for a in hands.recipe.step("b").adjustments] == ["contrast", "exposure"])
    assert [a.kind for a in hands.recipe.step("a").adjustments] == ["warmth"]


@pytest.mark.browser
def test_a_mask_is_seen_larger_where_it_is_pointed_at(hands):
    hands.settled("#key-canvas")
    hands.wait(lambda: not hands.find(".mask-large").is_displayed())

    def seen():
        ActionChains(hands.driver).move_to_element(hands.find("#key-canvas")).perform()
        ActionChains(hands.driver).move_to_element(hands.find("#lane-a [data-mask]")).perform()
        return hands.find(".mask-large").is_displayed()

    hands.wait(seen)
    assert hands.find(".mask-large").size["width"] > 3 * hands.find("#lane-a .lane-thumb").size["width"]
    assert 5 < hands.picture(".mask-large") < 250
    ActionChains(hands.driver).move_to_element(hands.find("#key-canvas")).perform()
    hands.wait(lambda: not hands.find(".mask-large").is_displayed())


@pytest.mark.browser
def test_a_click_on_something_neutral_and_a_balance_that_is_held(hands):
    hands.settled("#key-canvas")
    before = hands.sight("#key-canvas")
    hands.tap(hands.find("[data-neutral]"))
    hands.hand(0.5, 0.6).click().perform()
    hands.wait(lambda: hands.recipe.steps[0].name == "Neutral")
    assert len(hands.recipe.steps[0].adjustments) == 2 and hands.recipe.steps[0].adjustments[0].mired < 0
    assert not hands.find("#gathered").is_displayed(), "the click says one thing alone"
    hands.wait(lambda: hands.sight("#key-canvas") != before)
    hands.press("Balance", "[data-edit]")
    hands.wait(lambda: hands.recipe.steps[0].name == "Balance")
    hands.wait(lambda: hands.find(".lane[data-open]").get_attribute("data-step") == hands.recipe.steps[0].id)
    hands.wait(
        lambda: hands.find("[data-hold]").is_displayed() or hands.find(".lane[data-open] [data-fold-button]").click()
    )
    hands.tap(hands.find("[data-hold]"))
    hands.wait(lambda: hands.recipe.steps[0].adjustments[0].to == "a frame it is held to")
    assert hands.recipe.steps[0].adjustments[0].held_ev != 0


@pytest.mark.browser
def test_a_step_of_three_parts_and_four_adjustments_is_seen_whole(desk):
    where = [
        {"kind": "background"},
        {"kind": "ramp", "combine": "only within"},
        {"kind": "subject", "combine": "take away"},
    ]
    what = [
        {"kind": "exposure", "ev": -0.5},
        {"kind": "warmth", "mired": 6},
        {"kind": "sharpen", "sharpen": 30},
        {"kind": "zone_contrast", "shadows": 20},
    ]
    step = {"id": "a", "name": "Hold back", "region": {"parts": where, "feather": 0.02}, "adjustments": what}
    with desk.bench([step, *STEPS[1:]]) as person:
        driver = desk.driver
        device = {"width": 1280, "height": 800, "deviceScaleFactor": 1, "mobile": False}
        driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", device)
        try:
            driver.refresh()
            person.settled("#key-canvas")
            tall = person.find("#key-box").size["height"]
            person.open(0)
            lane = person.find(".lane[data-open]").rect
            head = person.find("#lanes-head").rect
            assert person.find("#key-box").size["height"] == tall > 350, "the pictures keep their size"
            assert lane["y"] >= head["y"] + head["height"] - 1 and lane["y"] + lane["height"] <= 800
            chips = [chip.text for chip in person.all(".lane[data-open] [data-chip]")]
            assert chips[:4] == ["background", "only within ramp", "without subject", "feathered 2 %"]
            assert len(person.all(".lane[data-open] .adjustment-line input[type=range]")) == 4
            # a chip opens its settings beside the picture, which stays free
            person.chip("ramp")
            panel, box = person.find("[data-panel]:not([hidden])").rect, person.find("#key-box").rect
            assert panel["x"] + panel["width"] <= box["x"] + 1 and panel["y"] + panel["height"] <= 500
        finally:
            driver.execute_cdp_cmd("Emulation.clearDeviceMetricsOverride", {})

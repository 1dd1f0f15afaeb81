"""Adjustments at the Bench: found by searching, a curve by hand and by keys, colours from a witness, files, guards."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from lenskeep.files.cube import write_cube
from lenskeep.store import scenes
from tests.core.adjustments import warm_table

STEPS = [
    {"id": "a", "name": "Lift", "region": {"parts": [{"kind": "subject"}]}, "adjustments": [{"kind": "exposure"}]},
    {"id": "b", "name": "Too much", "enabled": False, "adjustments": [{"kind": "exposure", "ev": 3.0}]},
]
OPEN = ".lane[data-open]"


@pytest.fixture
def hands(desk):
    with desk.bench(STEPS) as person:
        person.open(0)
        yield person


def take(hands, words):
    """Search an adjustment by what it is called and add it to the open step."""
    hands.tap(hands.find(f"{OPEN} [data-add-adjustment] [data-picker-open]"))
    hands.driver.switch_to.active_element.send_keys(words, Keys.ENTER)
    hands.wait(lambda: hands.all(f"{OPEN} .adjustment-name")[-1].text.startswith(words))


@pytest.mark.browser
def test_a_curve_is_found_by_name_and_bent_by_hand_and_by_keys(hands):
    take(hands, "Curve")
    canvas = hands.find(f"{OPEN} [data-curve] canvas")
    hands.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", canvas)
    before = hands.settled("#key-canvas")
    ActionChains(hands.driver, duration=60).move_to_element(canvas).click_and_hold().move_by_offset(
        0, -40
    ).release().perform()

    def points():
        return hands.recipe.steps[0].adjustments[1].points

    hands.wait(lambda: len(points()) == 3)
    assert points()[1][0] == pytest.approx(0.5, abs=0.03) and points()[1][1] > 0.62
    hands.wait(lambda: hands.picture("#key-canvas") > before + 0.2)
    high = points()[1][1]
    canvas.send_keys(Keys.ARROW_DOWN, Keys.ARROW_DOWN)
    hands.wait(lambda: points()[1][1] == pytest.approx(high - 0.02, abs=1e-3))
    number = hands.find(f"{OPEN} [data-curve-number='1']")
    number.send_keys(Keys.CONTROL, "a")  # typed over: once cleared and left, it would show its point again
    number.send_keys("40", Keys.TAB)
    hands.wait(lambda: points()[1][1] == pytest.approx(0.4))
    canvas.send_keys(Keys.DELETE)
    hands.wait(lambda: len(points()) == 2)


@pytest.mark.browser
def test_a_colour_is_taken_from_a_witness_and_a_step_blends_as_it_is_told(hands):
    take(hands, "Colour fill")
    hands.tap(hands.find(f"{OPEN} [data-pick-colour]"))
    witness = hands.all(".witness canvas")[1]
    ActionChains(hands.driver).move_to_element(witness).click().perform()

    def fill():
        return hands.recipe.steps[0].adjustments[1]

    hands.wait(lambda: fill().colour != "#c8a26a")
    key = hands.find("#bench").get_attribute("data-key")
    assert hands.driver.current_url.endswith("/bench") and witness.is_displayed()
    assert scenes.first_scene(hands.library.db, hands.shoot).key_frame_id == int(key), (
        "the witness became the key frame"
    )
    hands.set(hands.all(f"{OPEN} [data-slider][data-path$='/cover'] input[type=range]")[0], 100)
    plain = hands.settled("#key-canvas")
    Select(hands.find(f"{OPEN} [data-path$='a/blend']")).select_by_visible_text("soft light")
    hands.wait(lambda: hands.recipe.steps[0].blend == "soft-light")
    hands.wait(lambda: abs(hands.picture("#key-canvas") - plain) > 0.5)


@pytest.mark.browser
def test_a_table_is_brought_in_and_a_bad_one_is_told(hands, tmp_path):
    take(hands, "Colour table")
    good, bad = tmp_path / "warm.cube", tmp_path / "bad.cube"
    good.write_text(write_cube(warm_table(9), "Warm"))
    bad.write_text("LUT_3D_SIZE 3\n0 0 0\n")
    before = hands.settled("#key-canvas")
    hands.find(f"{OPEN} input[data-file=table]").send_keys(str(bad))
    hands.reads("should hold 27 colours", ".toast")
    hands.find(f"{OPEN} input[data-file=table]").send_keys(str(good))
    hands.reads("Warm, 9 steps a side")
    assert hands.recipe.steps[0].adjustments[1].size == 9
    hands.wait(lambda: abs(hands.picture("#key-canvas") - before) > 0.1)
    assert [
        e["message"] for e in hands.driver.get_log("browser") if "422" not in e["message"] and e["level"] == "SEVERE"
    ] == []


@pytest.mark.browser
def test_guards_warn_name_the_step_and_are_seen_on_the_picture(hands):
    hands.wait(lambda: hands.find("[data-guard=clipped] [data-guard-figure]").text.endswith("%"))
    assert hands.find("[data-guard=clipped]").get_attribute("data-warns") is None
    hands.tap(hands.find("#lane-b input[type=checkbox]"))
    hands.wait(lambda: hands.find("[data-guard=clipped]").get_attribute("data-warns") is not None)
    hands.reads("Too much", "[data-guard=clipped] [data-guard-cause]")
    plain = hands.settled("#key-canvas")
    hands.tap(hands.find("[data-guard=clipped]"))
    hands.wait(lambda: hands.picture("#key-canvas") < plain - 3)  # dark stripes on what is burnt out
    hands.tap(hands.find("[data-guard=clipped]"))
    hands.wait(lambda: abs(hands.picture("#key-canvas") - plain) < 1)


@pytest.mark.browser
def test_bands_show_one_of_their_numbers_at_a_time_and_pictures_give_way_to_steps(hands):
    take(hands, "Colour bands")
    shown = [p for p in hands.all(f"{OPEN} [data-band-panel]") if p.is_displayed()]
    assert [p.get_attribute("data-band-panel") for p in shown] == ["turn"]
    hands.press("Chroma", f"{OPEN} [data-band-tab]")
    slider = hands.find(f"{OPEN} [data-path$='green_chroma'] input[type=range]")
    hands.wait(slider.is_displayed)
    hands.set(slider, 40)
    hands.wait(lambda: hands.recipe.steps[0].adjustments[1].green_chroma == 40)
    tall = hands.find("#key-box").size["height"]
    hands.find("#stage-edge").send_keys(Keys.ARROW_UP, Keys.ARROW_UP)
    hands.wait(lambda: hands.find("#key-box").size["height"] < tall - 10)

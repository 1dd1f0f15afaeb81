"""What is pressed on the Bench is what becomes of the recipe; and many windows of the wall leave the browser breath."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

STEPS = [
    {"id": "a", "name": "Where", "region": {"parts": [{"id": "p", "kind": "ramp"}]}, "adjustments": []},
    {"id": "b", "name": "Texture", "adjustments": [{"id": "d", "kind": "fine_detail"}]},
    {"id": "c", "name": "Painted", "region": {"parts": [{"id": "q", "kind": "brush"}]}, "adjustments": []},
]


@pytest.mark.browser
def test_the_line_of_detail_moves_the_picture(hands):
    hands.open(1)
    hands.settled("#key-canvas")
    number = hands.find(".lane[data-open] .adjustment-line input[type=number]")
    number.clear()
    number.send_keys("80", Keys.ENTER)
    hands.wait(lambda: hands.recipe.steps[1].adjustments[0].detail == 80)
    hands.wait(lambda: "+80" in hands.find(".lane[data-open] [data-does]").text)


@pytest.mark.browser
@pytest.mark.parametrize(("way", "left"), [("replace", 0), ("group", 3), ("within", 3), ("after", 3)])
def test_a_recipe_chosen_by_pictures_comes_as_it_was_asked_to(hands, way, left):
    hands.open(0)
    hands.find("[data-choose=recipes]")
    hands.driver.execute_script("document.querySelector('[data-choose=recipes]').click()")
    hands.wait(lambda: hands.all("[data-choices-way]"))
    if way != Select(hands.find("[data-choices-way]")).first_selected_option.get_attribute("value"):
        Select(hands.find("[data-choices-way]")).select_by_value(way)
        hands.wait(lambda: f"way={way}" in hands.find(".choice img").get_attribute("src"))
    hands.find(".choice-picture").click()
    hands.wait(lambda: (not hands.all(".choice") and len(hands.recipe.steps) != 3) or way == "replace")
    hands.wait(lambda: sum(s.name in ("Where", "Texture", "Painted") for s in hands.recipe.steps) == left)
    groups = list(hands.recipe.groups.values())
    assert len(groups) == (way in ("group", "within"))
    if way == "within":
        assert groups[0].shared == hands.recipe.steps[0].shared is not None


@pytest.mark.browser
def test_a_brush_is_kept_to_the_key_frame_and_let_go_again(hands):
    hands.open(2)
    hands.chip("brush")
    hands.tap(hands.find(".lane[data-open] [data-only-here]"))
    hands.wait(lambda: hands.recipe.steps[2].region.parts[0].only_on != "")
    assert not hands.all(".lane[data-open] [data-to-frame]"), "it repairs no mask"


@pytest.mark.browser
def test_a_ramp_is_drawn_level_with_shift_held(hands):
    hands.open(0)
    hands.chip("ramp")
    hands.tool("draw")
    overlay = hands.find("#overlay")
    w, h = overlay.size["width"], overlay.size["height"]
    hand = ActionChains(hands.driver).key_down(Keys.SHIFT)
    hand = hand.move_to_element_with_offset(overlay, round(-0.1 * w), round(-0.3 * h)).click_and_hold()
    hand = hand.move_by_offset(round(0.05 * w), round(0.2 * h)).move_by_offset(round(0.02 * w), round(0.2 * h))
    hand.release().key_up(Keys.SHIFT).perform()
    hands.wait(lambda: 0.1 < hands.recipe.steps[0].region.parts[0].y1 < 0.35)  # drawn: it began at the upper edge
    drawn = hands.recipe.steps[0].region.parts[0]
    assert drawn.y2 > drawn.y1 + 0.2
    assert abs(drawn.x1 - drawn.x2) < 0.001


@pytest.mark.browser
def test_nine_windows_of_a_wall_leave_the_browser_its_breath(hands):
    """A browser opens six connections to one place; a stream each would take them all."""
    driver, address = hands.driver, hands.driver.current_url.split("/scenes")[0].split("/shoots")[0]
    first = driver.current_window_handle
    for _ in range(9):
        driver.switch_to.new_window("tab")
        driver.get(f"{address}/shoots/1")
        hands.wait(lambda: hands.all(".tile"))
    driver.get(f"{address}/activity")
    hands.wait(lambda: "Activity" in driver.title)
    for handle in driver.window_handles:
        if handle != first:
            driver.switch_to.window(handle)
            driver.close()
    driver.switch_to.window(first)

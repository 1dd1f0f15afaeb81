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


@pytest.fixture
def person(desk):
    with desk.bench(STEPS) as person:
        yield person


@pytest.mark.browser
def test_the_line_of_detail_moves_the_picture(person):
    person.open(1)
    person.settled("#key-canvas")
    number = person.find(".lane[data-open] .adjustment-line input[type=number]")
    number.clear()
    number.send_keys("80", Keys.ENTER)
    person.wait(lambda: person.recipe.steps[1].adjustments[0].detail == 80)
    person.wait(lambda: "+80" in person.find(".lane[data-open] [data-does]").text)


@pytest.mark.browser
@pytest.mark.parametrize(("way", "left"), [("replace", 0), ("group", 3), ("within", 3), ("after", 3)])
def test_a_recipe_chosen_by_pictures_comes_as_it_was_asked_to(person, way, left):
    person.open(0)
    person.find("[data-choose=recipes]")
    person.driver.execute_script("document.querySelector('[data-choose=recipes]').click()")
    person.wait(lambda: person.all("[data-choices-way]"))
    if way != Select(person.find("[data-choices-way]")).first_selected_option.get_attribute("value"):
        Select(person.find("[data-choices-way]")).select_by_value(way)
        person.wait(lambda: f"way={way}" in person.find(".choice img").get_attribute("src"))
    person.find(".choice-picture").click()
    person.wait(lambda: (not person.all(".choice") and len(person.recipe.steps) != 3) or way == "replace")
    person.wait(lambda: sum(s.id in ("a", "b", "c") for s in person.recipe.steps) == left)
    groups = list(person.recipe.groups.values())
    assert len(groups) == (way in ("group", "within"))
    if way == "within":
        assert groups[0].shared == person.recipe.steps[0].shared is not None


@pytest.mark.browser
def test_a_brush_is_kept_to_the_key_frame_and_let_go_again(person):
    person.open(2)
    person.chip("brush")
    person.tap(person.find(".lane[data-open] [data-only-here]"))
    person.wait(lambda: person.recipe.steps[2].region.parts[0].only_on != "")
    assert not person.all(".lane[data-open] [data-to-frame]"), "it repairs no mask"


@pytest.mark.browser
def test_a_ramp_is_drawn_level_with_shift_held(person):
    person.open(0)
    person.chip("ramp")
    person.tool("draw")
    overlay = person.find("#overlay")
    w, h = overlay.size["width"], overlay.size["height"]
    hand = ActionChains(person.driver).key_down(Keys.SHIFT)
    hand = hand.move_to_element_with_offset(overlay, round(-0.1 * w), round(-0.3 * h)).click_and_hold()
    hand = hand.move_by_offset(round(0.05 * w), round(0.2 * h)).move_by_offset(round(0.02 * w), round(0.2 * h))
    hand.release().key_up(Keys.SHIFT).perform()
    person.wait(lambda: (p := person.recipe.steps[0].region.parts[0]).y1 < 0.35 and abs(p.x1 - p.x2) < 0.001)


@pytest.mark.browser
def test_nine_windows_of_a_wall_leave_the_browser_its_breath(person):
    """A browser opens six connections to one place; a stream each would take them all."""
    driver, address = person.driver, person.driver.current_url.split("/scenes")[0].split("/shoots")[0]
    first = driver.current_window_handle
    for _ in range(9):
        driver.switch_to.new_window("tab")
        driver.get(f"{address}/shoots/1")
        person.wait(lambda: person.all(".tile"))
    driver.get(f"{address}/activity")
    person.wait(lambda: "Activity" in driver.title)
    for handle in driver.window_handles:
        if handle != first:
            driver.switch_to.window(handle)
            driver.close()
    driver.switch_to.window(first)

"""Painting at the Bench shows its effect under the hand, loses nothing of a long stroke, and has brushes ready to
hand.
"""

import numpy as np
import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.browser.under_the_hand import under

BRUSH = {"parts": [{"kind": "brush"}]}
STEPS = [{"id": "a", "name": "Darken", "region": BRUSH, "adjustments": [{"kind": "exposure", "ev": -2}]}]
GREENS = """
const c = document.querySelector('#key-canvas');
return [...c.getContext('2d').getImageData(0, 0, c.width, c.height).data.filter((_, i) => i % 4 === 1)];
"""


@pytest.fixture
def painting(desk):
    with desk.bench(STEPS, 500, 750) as person:
        person.open(0)
        person.tool("brush")
        yield person


def strokes(person, step=0):
    return person.recipe.region_of(person.recipe.steps[step]).parts[0].strokes


@pytest.mark.browser
@pytest.mark.parametrize("near", [False, True])
def test_the_effect_is_seen_before_the_hand_lets_go(painting, near):
    if near:
        painting.find("[data-close='2']").click()
        painting.wait(lambda: painting.find("#key-frame").get_attribute("data-close-rests") is not None)
    room = painting.find("#key-frame")
    ActionChains(painting.driver, duration=60).move_to_element(room).click_and_hold().move_by_offset(60, 0).perform()
    painting.wait(lambda: under(painting) and under(painting)[0] > 0.001)
    first = under(painting)[0]
    ActionChains(painting.driver, duration=60).move_by_offset(40, 30).perform()
    painting.wait(lambda: under(painting)[0] > first)
    assert not strokes(painting), "nothing is set yet"
    ActionChains(painting.driver).release().perform()
    painting.wait(lambda: len(strokes(painting)) == 1)
    painting.wait(lambda: not painting.find(".paint-canvas").is_displayed())


@pytest.mark.browser
def test_what_is_seen_under_the_hand_is_near_what_is_finished(painting):
    before = np.array(painting.driver.execute_script(GREENS), float)
    painting.driver.execute_script("localStorage.setItem('brush', '{}')")
    painting.hand(0.3, 0.5).click_and_hold().move_by_offset(80, 0).perform()
    painting.wait(lambda: under(painting) and under(painting)[0] > 0.001)
    share, _ = under(painting)
    # the mark of the rest before is taken off, so that the one after the stroke is waited for
    painting.wait(painting.rests)
    painting.driver.execute_script("document.getElementById('bench').removeAttribute('data-rests')")
    ActionChains(painting.driver).release().perform()
    painting.wait(lambda: strokes(painting))
    painting.settled("#key-canvas")
    after = np.array(painting.driver.execute_script(GREENS), float)
    darker = before - after > 0.5 * (before - after).max()
    assert 0.4 * share < darker.mean() < 2.5 * share


@pytest.mark.browser
def test_a_long_stroke_is_kept_whole(painting):
    chain = painting.hand(0.05, 0.1, 12).click_and_hold()
    box = painting.find("#overlay").size
    wide = round(0.9 * box["width"])
    for row in range(30):
        for _ in range(12):
            chain.move_by_offset((1 if row % 2 == 0 else -1) * wide // 12, 0)
        chain.move_by_offset(0, 5)
    chain.release().perform()
    painting.wait(lambda: strokes(painting))
    points = np.array(strokes(painting)[0].points)
    assert len(points) > 320 and points[-1][1] > 0.4
    assert points[:, 0].max() - points[:, 0].min() > 0.8


@pytest.mark.browser
def test_size_by_dragging_opacity_by_digits_and_a_line_with_shift(painting):
    def number(name):
        return float(painting.find(f".lane[data-open] [data-brush-number='{name}']").get_attribute("value"))

    size = number("size")
    ActionChains(painting.driver).key_down(Keys.ALT).perform()
    painting.drag((0.4, 0.5), (0.5, 0.5))
    ActionChains(painting.driver).key_up(Keys.ALT).perform()
    painting.wait(lambda: number("size") > size)
    assert not strokes(painting)
    ActionChains(painting.driver).send_keys("4").perform()
    painting.wait(lambda: number("opacity") == 40)
    painting.hand(0.2, 0.3).click().perform()
    painting.wait(lambda: len(strokes(painting)) == 1)
    painting.tool("brush") if painting.find("#overlay").get_attribute("data-tool") != "brush" else None
    ActionChains(painting.driver).key_down(Keys.SHIFT).perform()
    painting.hand(0.7, 0.6).click().perform()
    ActionChains(painting.driver).key_up(Keys.SHIFT).perform()
    painting.wait(lambda: len(strokes(painting)) == 2)
    line = strokes(painting)[1]
    assert line.opacity == pytest.approx(0.4) and line.points[0] == strokes(painting)[0].points[-1]
    assert line.points[-1] == pytest.approx([0.7, 0.6], abs=0.01)


@pytest.mark.browser
def test_brushes_ready_to_hand_make_one_step_and_go_on_in_it(painting):
    painting.press("Paint lighter")
    painting.wait(lambda: [s.name for s in painting.recipe.steps] == ["Darken", "Painted lighter"])
    painting.wait(lambda: painting.find("#overlay").get_attribute("data-tool") == "brush")
    painting.settled("#key-canvas")
    painting.drag((0.3, 0.3), (0.5, 0.3))
    painting.wait(lambda: len(strokes(painting, 1)) == 1)
    painting.press("Paint darker")
    painting.wait(lambda: len(painting.recipe.steps) == 3)
    assert painting.recipe.steps[2].adjustments[0].ev < 0 < painting.recipe.steps[1].adjustments[0].ev
    painting.press("Paint lighter")
    painting.wait(lambda: painting.find("#overlay").get_attribute("data-tool") == "brush")
    painting.settled("#key-canvas")
    painting.drag((0.3, 0.6), (0.5, 0.6))
    painting.wait(lambda: len(strokes(painting, 1)) == 2)
    assert len(painting.recipe.steps) == 3

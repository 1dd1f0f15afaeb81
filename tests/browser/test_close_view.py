"""Looking closely in the browser: the file's own pixels at the pointer, by wheel, keys, drag and map; everything that
is done on the picture works there.
"""

import base64
import time

import numpy as np
import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.actions.wheel_input import ScrollOrigin
from selenium.webdriver.common.keys import Keys

from lenskeep.core.plan import Plan
from lenskeep.core.render import Cut
from lenskeep.store import frames, recipes
from lenskeep.studio import applying, looks
from lenskeep.studio.bench.ready_frames import ReadyFrames
from lenskeep.studio.close.view import CloseView
from tests.browser.close import SEEN, rests, seen
from tools.made_up import look_recipe

H, W = 1200, 1800
SUBJECT, BRUSH = {"parts": [{"kind": "subject"}]}, {"parts": [{"kind": "brush"}]}
STEPS = [
    {"id": "a", "name": "Lift", "region": SUBJECT, "adjustments": [{"kind": "exposure", "ev": 0.6}]},
    {"id": "b", "name": "Crisp", "adjustments": [{"kind": "sharpen", "sharpen": 90}]},
    {"id": "c", "name": "Painted", "region": BRUSH, "adjustments": [{"kind": "exposure", "ev": -1}]},
]


@pytest.fixture
def near(desk):
    with desk.bench(STEPS, H, W, 2) as person:
        person.close = CloseView(desk.library, ReadyFrames())
        person.frame = frames.frames(desk.library.db, person.shoot)[0].id
        person.find("[data-close='1']").click()
        rests(person)
        yield person


def true(person, cut, look=None, view="finished"):
    return person.close.cut(person.frame, look or person.recipe, cut, view)


@pytest.mark.browser
def test_what_is_seen_is_pixel_for_pixel_what_would_leave(near):
    cut, pixels = seen(near)
    assert cut.width > 400 and np.array_equal(pixels, true(near, cut))
    near.find("#key-frame .close-map").click()
    rests(near)
    lane = near.all("[data-open-lane]")[0]
    lane.click()
    slider = near.find(".lane[data-open] [data-slider][data-path$='/ev'] input[type=range]")
    slider.send_keys(Keys.ARROW_RIGHT * 4)
    near.wait(lambda: near.recipe.steps[0].adjustments[0].ev > 0.6)
    near.wait(lambda: np.array_equal(seen(near)[1], true(near, seen(near)[0])))


@pytest.mark.browser
def test_wheel_keys_drag_and_map_go_where_the_pointer_is(near):
    room = near.find("#key-frame")
    start, _ = seen(near)
    chain = ActionChains(near.driver, duration=80)
    chain.move_to_element(room).click_and_hold().move_by_offset(-120, -40).release().perform()
    rests(near)
    near.wait(lambda: (seen(near)[0].x, seen(near)[0].y) == (start.x + 120, start.y + 40))
    near.find("body").send_keys(Keys.ARROW_LEFT)
    near.wait(lambda: seen(near)[0].x < start.x)
    rests(near)
    cut, pixels = seen(near)
    assert np.array_equal(pixels, true(near, cut))
    small = near.find("#key-frame [data-close-map]")
    ActionChains(near.driver).move_to_element_with_offset(small, 40, 25).click().perform()
    near.wait(lambda: seen(near)[0].x > W / 2)
    # away by the wheel, and near again at another place: what is under the pointer stays there
    origin = ScrollOrigin.from_element(room, 0, 0)
    ActionChains(near.driver).scroll_from_origin(origin, 0, 120).perform()
    near.wait(lambda: room.get_attribute("data-close-on") is None)
    time.sleep(0.3)  # two steps of a wheel are two movements of a finger
    box = near.find("#key-box").rect
    origin = ScrollOrigin.from_element(near.find("#key-box"), round(-0.2 * box["width"]), round(0.2 * box["height"]))
    ActionChains(near.driver).scroll_from_origin(origin, 0, -120).perform()
    rests(near)
    cut, _ = seen(near)
    where = "const r = document.querySelector('#key-box').getBoundingClientRect(); return [r.left, r.top]"
    left, top = near.driver.execute_script(where)
    under = [box["x"] + 0.3 * box["width"] - left, box["y"] + 0.7 * box["height"] - top]
    assert under == pytest.approx([0.3 * W, 0.7 * H], abs=12)
    ActionChains(near.driver).double_click(room).perform()
    near.wait(lambda: room.get_attribute("data-close-on") is None)
    assert near.find("[data-close='fit']").get_attribute("aria-pressed") == "true"
    near.find("body").send_keys("z")
    near.wait(lambda: room.get_attribute("data-close-on") is not None)
    near.find("body").send_keys("+")
    near.wait(lambda: near.find("[data-close='2']").get_attribute("aria-pressed") == "true")


@pytest.mark.browser
def test_the_original_held_and_the_divider_show_the_originals_pixels(near):
    cut, finished = seen(near)
    plain = true(near, cut, Plan(()), "original")
    assert np.abs(plain.astype(int) - finished).max() > 10
    ActionChains(near.driver).click(near.find("#original")).perform()
    near.wait(lambda: np.array_equal(seen(near)[1], plain))
    near.find("#original").click()
    near.wait(lambda: np.array_equal(seen(near)[1], finished))
    near.find("#divider").click()
    at = W // 2 - cut.x
    near.wait(lambda: np.array_equal(seen(near)[1][:, : at - 2], plain[:, : at - 2]))
    assert np.array_equal(seen(near)[1][:, at + 2 :], finished[:, at + 2 :])


@pytest.mark.browser
def test_grey_mask_brush_and_outlines_work_closely(near):
    near.all("[data-open-lane]")[0].click()
    near.find("[data-view='grey']").click()
    near.wait(lambda: np.ptp(seen(near)[1], axis=-1).max() == 0)
    cut, pixels = seen(near)
    assert np.array_equal(pixels, near.close.cut(near.frame, near.recipe, cut, "grey", "a"))
    near.find("[data-view='contours']").click()
    near.wait(lambda: near.all("#overlay .contours path, #overlay .line"))
    near.open(2)
    near.tool("brush")
    room = near.find("#key-frame")
    chain = ActionChains(near.driver, duration=80).move_to_element(room)
    chain.click_and_hold().move_by_offset(60, 0).move_by_offset(40, 20).release().perform()
    near.wait(lambda: near.recipe.region_of(near.recipe.steps[2]).parts[0].strokes)
    stroke = near.recipe.region_of(near.recipe.steps[2]).parts[0].strokes[0]
    cut, _ = seen(near)
    r = room.rect
    assert stroke.points[0] == pytest.approx([(cut.x + r["width"] / 2) / W, (cut.y + r["height"] / 2) / H], abs=0.004)
    near.wait(lambda: np.array_equal(seen(near)[1], true(near, seen(near)[0])))


@pytest.mark.browser
def test_keys_go_to_the_subject_and_to_where_a_guard_warns(near):
    near.find("body").send_keys("f")
    [middle] = frames.frame(near.library.db, near.frame).facts.middles[:1]
    near.wait(lambda: abs(seen(near)[0].x + seen(near)[0].width / 2 - middle[0] * W) < 3)
    near.all("[data-open-lane]")[0].click()
    number = near.find(".lane[data-open] [data-slider][data-path$='/ev'] input[type=number]")
    number.clear()
    number.send_keys("3", Keys.ENTER)
    near.wait(lambda: near.all("[data-guard][data-warns]"))
    near.wait(lambda: near.find("[data-close-go='guard']").is_displayed())
    near.find("body").click()
    near.find("body").send_keys("g")
    near.reads("place 1 of", "[data-close-told]")


@pytest.mark.browser
def test_the_next_frame_of_a_walk_opens_at_the_same_part(desk):
    with desk.bench(STEPS, H, W, 2) as person:
        version = recipes.save_recipe(desk.library.db, look_recipe())
        looks.give_look(desk.library, person.shoot, version.id, 1.0)
        first, second = (f.id for f in frames.frames(desk.library.db, person.shoot)[:2])
        desk.driver.get(f"{desk.address}/frames/{first}?only=all")
        person.find("[data-close='1']").click()
        rests(person, "#picture")
        person.find("body").send_keys(Keys.ARROW_LEFT, Keys.ARROW_UP)
        person.wait(lambda: seen(person)[0].x < W / 2 - 500)
        rests(person, "#picture")
        before, _ = seen(person)
        person.press("Later")
        person.wait(lambda: f"/frames/{second}" in desk.driver.current_url)
        rests(person, "#picture")
        cut, pixels = seen(person)
        assert cut == before
        close, row = CloseView(desk.library, ReadyFrames()), frames.frame(desk.library.db, second)
        assert np.array_equal(pixels, close.cut(second, applying.plan_of_frame(desk.library, row), cut))
        person.find("[data-close='fit']").click()
        person.find("body").send_keys(Keys.ARROW_LEFT)
        person.wait(lambda: f"/frames/{first}" in desk.driver.current_url)
        desk.driver.execute_script("sessionStorage.clear()")


@pytest.mark.browser
def test_a_wide_screen_is_sent_wide_pictures(desk):
    """Of a frame with a green that sRGB does not have; Chromium is told that its screen has Display P3."""
    wide = {"features": [{"name": "color-gamut", "value": "p3"}]}
    desk.driver.execute_cdp_cmd("Emulation.setEmulatedMedia", wide)
    try:
        strong = [{"id": "a", "name": "Strong", "adjustments": [{"kind": "saturation", "saturation": 100}]}]
        with desk.bench(strong, H, W, 2) as person:
            person.find("[data-close='1']").click()
            rests(person)
            space = "return document.querySelector(arguments[0]).getContext('2d').getContextAttributes().colorSpace"
            assert desk.driver.execute_script(space, ".close-canvas") == "display-p3"
            assert desk.driver.execute_script(space, "#key-canvas") == "display-p3"
            x, y, w, h, data = desk.driver.execute_script(SEEN)
            seen_p3 = np.frombuffer(base64.b64decode(data), np.uint8).reshape(h, w, 4)[..., :3]
            frame, close = frames.frames(desk.library.db, person.shoot)[0].id, CloseView(desk.library, ReadyFrames())
            cut = Cut(round(x), round(y), w, h)
            p3, plain = (close.cut(frame, person.recipe, cut, space=s) for s in ("display-p3", "srgb"))
            assert np.abs(seen_p3.astype(int) - p3).max() <= 2 and np.abs(seen_p3.astype(int) - plain).max() > 10
    finally:
        desk.driver.execute_cdp_cmd("Emulation.setEmulatedMedia", {"features": []})

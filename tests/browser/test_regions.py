"""Regions at the Bench as hands make them: drawn, painted, picked, combined, shared, and seen on every witness."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

STEPS = [
    {"id": "a", "name": "Lift", "adjustments": [{"kind": "exposure", "ev": 1.0}]},
    {"id": "b", "name": "Calm", "adjustments": [{"kind": "exposure", "ev": -1.0}]},
]


@pytest.fixture
def hands(desk):
    with desk.bench(STEPS) as person:
        person.open(0)
        yield person


@pytest.mark.browser
@pytest.mark.parametrize("kind", ["ramp", "band", "pool"])
def test_a_gradient_is_drawn_with_the_mouse_and_moved_with_the_keyboard_alone(hands, kind):
    hands.add(kind)
    hands.tool("draw")
    hands.drag((0.3, 0.25), (0.55, 0.8))
    hands.wait(lambda: hands.find("#overlay").get_attribute("data-tool") == "")
    drawn = {"ramp": ("x1", "y1", 0.3, 0.25), "band": ("x", "y", 0.425, 0.525), "pool": ("x", "y", 0.3, 0.25)}[kind]

    def place():
        part = hands.parts[0]
        return getattr(part, drawn[0]), getattr(part, drawn[1])

    hands.wait(lambda: place() == pytest.approx(drawn[2:], abs=0.02))
    if kind == "pool":
        assert (hands.parts[0].rx, hands.parts[0].ry) == pytest.approx((0.25, 0.55), abs=0.03)
    # by keys from here on: reach the first handle with Tab's focus, move it, and turn with a number field
    before = place()
    hands.driver.execute_script("arguments[0].focus()", hands.handle("Start" if kind == "ramp" else "Middle"))
    ActionChains(hands.driver).send_keys(Keys.ARROW_RIGHT, Keys.ARROW_DOWN).perform()
    hands.wait(lambda: place()[0] > before[0] + 0.005 and place()[1] > before[1] + 0.005)
    name, value = {"ramp": ("x2", "0.9"), "band": ("angle", "30"), "pool": ("softness", "25")}[kind]
    field = hands.find(f".lane[data-open] [data-path*='/parts/'][data-path$='/{name}']")
    field.send_keys(Keys.CONTROL + "a")
    field.send_keys(value, Keys.ENTER)
    hands.wait(
        lambda: getattr(hands.parts[0], name) == pytest.approx(float(value) / (100 if name == "softness" else 1))
    )
    hands.wait(lambda: hands.all("#overlay .contours .level-50"))


@pytest.mark.browser
def test_one_side_moves_alone_lines_hold_level_and_an_anchor_moves_nothing(hands):
    hands.add("band")
    handle = hands.handle("Fade below")
    ActionChains(hands.driver).key_down(Keys.ALT).click_and_hold(handle).move_by_offset(0, 30).release().key_up(
        Keys.ALT
    ).perform()
    hands.wait(lambda: hands.parts[0].fade_b > 0.24)
    assert hands.parts[0].fade_a == 0.2
    ActionChains(hands.driver).click_and_hold(hands.handle("Fade below")).move_by_offset(0, -20).release().perform()
    hands.wait(lambda: hands.parts[0].fade_a != 0.2)
    assert hands.parts[0].fade_a == pytest.approx(hands.parts[0].fade_b)
    ActionChains(hands.driver).key_down(Keys.SHIFT).click_and_hold(hands.handle("Turn")).move_by_offset(
        -20, 25
    ).release().key_up(Keys.SHIFT).perform()
    hands.settled("#key-canvas")
    assert hands.parts[0].angle % 90 == 0
    # at the subject's box now, in other numbers, and the picture stays as it was
    seen = hands.settled("#key-canvas")
    Select(hands.find(".lane[data-open] [data-anchor]")).select_by_visible_text("subject")
    hands.wait(lambda: hands.parts[0].anchor == "subject")
    assert hands.parts[0].full == pytest.approx(0.08 / 0.44, abs=0.01)
    hands.wait(lambda: hands.all("#overlay .anchor"))
    assert hands.settled("#key-canvas") == pytest.approx(seen, abs=0.5)


@pytest.mark.browser
def test_a_brush_paints_erases_and_shows_what_was_painted(hands):
    plain = hands.settled("#key-canvas")
    hands.add("brush")
    hands.tool("brush")
    hands.drag((0.2, 0.3), (0.8, 0.3), (0.5, 0.32))
    hands.wait(lambda: len(hands.parts[0].strokes) == 1)
    first = hands.parts[0].strokes[0]
    assert not first.erase and len(first.points) >= 3
    assert first.points[0] == pytest.approx((0.2, 0.3), abs=0.02)
    hands.wait(lambda: hands.all("#overlay .contours .level-50"))
    painted = hands.settled("#key-canvas")
    hands.driver.execute_script("document.activeElement.blur()")
    size = float(hands.find("[data-brush-number=size]").get_attribute("value"))
    ActionChains(hands.driver).send_keys("+").send_keys("e").perform()
    assert float(hands.find("[data-brush-number=size]").get_attribute("value")) > size
    assert hands.find("[data-stroke=erase]").get_attribute("aria-pressed") == "true"
    hands.drag((0.2, 0.3), (0.5, 0.31))
    hands.wait(lambda: len(hands.parts[0].strokes) == 2)
    assert hands.parts[0].strokes[1].erase and hands.parts[0].strokes[1].size > first.size
    hands.wait(lambda: abs(hands.picture("#key-canvas") - painted) > 0.05)
    assert abs(hands.settled("#key-canvas") - plain) > 0.05
    hands.tap(hands.find(".lane[data-open] [data-brush-tick=shown]"))
    hands.wait(lambda: len(hands.all("#overlay .painted .stroke")) == 2)
    assert not hands.all(".lane[data-open] [data-to-frame]"), "these strokes repair no mask, so that is not offered"
    hands.press("Undo")
    hands.wait(lambda: len(hands.parts[0].strokes) == 1)


@pytest.mark.browser
def test_an_object_is_seen_before_it_is_picked_and_a_colour_is_sampled(hands):
    hands.add("picked")
    hands.tool("pick")
    hands.hand(0.5, 0.6).perform()
    hands.hand(0.51, 0.61).perform()
    hands.wait(lambda: hands.all("#overlay .would-take"))
    assert hands.find("#overlay").get_attribute("data-takes") == "animal"
    hands.hand(0.5, 0.6).click().perform()
    hands.wait(lambda: [p.piece.kind for p in hands.parts[0].picks] == ["animal"])
    hands.hand(0.5, 0.1).click().perform()
    hands.wait(lambda: [p.piece.kind for p in hands.parts[0].picks] == ["animal", "sky"])
    hands.hand(0.5, 0.1).perform()
    ActionChains(hands.driver).key_down(Keys.ALT).click().key_up(Keys.ALT).perform()
    hands.wait(lambda: [p.away for p in hands.parts[0].picks] == [False, False, True])
    hands.add("colour_match", "only within")
    hands.tool("sample")
    hands.hand(0.5, 0.6).click().perform()
    hands.wait(lambda: len(hands.parts[1].samples) == 1)
    light, _, b = hands.parts[1].samples[0]
    assert 0.4 < light < 0.8 and b > 0.05  # the warm disc of the made-up frame
    hands.wait(lambda: hands.all(".lane[data-open] .sample"))
    hands.tap(hands.find(".lane[data-open] .sample"))
    hands.wait(lambda: hands.parts[1].samples == [])


@pytest.mark.browser
def test_background_within_a_ramp_without_a_brush_shared_inverted_and_seen_on_witnesses(hands):
    hands.add("background")
    hands.add("ramp", "only within")
    hands.add("brush", "take away")
    hands.tool("brush")
    hands.drag((0.1, 0.1), (0.4, 0.12), (0.25, 0.1))
    sentence = "background, only within ramp 1, without brush 2"
    hands.wait(lambda: hands.recipe.sentence(hands.recipe.steps[0]) == sentence)
    hands.reads(sentence, ".lane[data-open] [data-sentence]")
    hands.chip("share")
    name = hands.find(".lane[data-open] [data-share] input[name=name]")
    name.send_keys("Far behind", Keys.ENTER)
    hands.reads("Far behind (shared)", ".lane[data-open] [data-sentence]")
    hands.open(1)
    hands.chip("share")
    form = hands.find(".lane[data-open] [data-take-region]")
    Select(form.find_element("name", "from")).select_by_visible_text("Far behind (shared)")
    form.find_element("name", "invert").click()
    hands.tap(form.find_element("css selector", "button"))
    hands.wait(lambda: hands.recipe.steps[1].shared is not None and hands.recipe.steps[1].shared.invert)
    hands.reads("all but Far behind (shared)", ".lane[data-open] [data-sentence]")
    # contours of the open step on the key frame and on every witness
    hands.wait(
        lambda: all(w.find_elements("css selector", ".contours .line") for w in hands.all(".witness svg.overlay"))
    )
    hands.press("Grey mask")
    hands.settled("#key-canvas")
    opposite = hands.picture("#key-canvas")
    hands.open(0)
    hands.settled("#key-canvas")
    assert hands.picture("#key-canvas") + opposite == pytest.approx(255, abs=6)
    witness = hands.settled(".witness canvas")
    hands.chip("edges")
    hands.tap(hands.find(".lane[data-open] [data-path$='region/invert']"))
    hands.wait(lambda: abs(hands.settled(".witness canvas") - (255 - witness)) < 8)
    # gone again: who loses it is said, and each keeps a copy
    hands.chip("share")
    hands.press("Delete the shared region")
    hands.reads("Lift, Calm", "#ask-dialog")
    hands.press("Give each a copy")
    hands.wait(lambda: hands.recipe.regions == {})
    assert len(hands.recipe.steps[1].region.parts) == 3


@pytest.mark.browser
def test_an_image_comes_in_and_a_wrong_one_is_refused_in_words(hands, tmp_path):
    from PIL import Image

    hands.add("image")
    wrong, right = tmp_path / "photo.png", tmp_path / "mask.png"
    Image.new("RGB", (20, 20)).save(wrong, format="JPEG")
    Image.linear_gradient("L").save(right)
    hands.find(".lane[data-open] [data-file=mask]").send_keys(str(wrong))
    hands.reads("grey PNG", ".toast")
    hands.driver.get_log("browser")  # the refusal itself is in the browser's log
    hands.find(".lane[data-open] [data-file=mask]").send_keys(str(right))
    hands.wait(lambda: hands.parts[0].picture != "")
    hands.wait(lambda: hands.all("#overlay .contours .level-50"))

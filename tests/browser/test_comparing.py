"""Comparing: side by side near and far, the base without masked steps, guards' stripes and sharpened edges closely."""

import base64

import numpy as np
import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.support.ui import Select

from lenskeep.core.plan import Plan
from lenskeep.core.recipes.models import Recipe, unmasked
from lenskeep.store import frames
from lenskeep.studio.bench.ready_frames import ReadyFrames
from lenskeep.studio.close.view import CloseView
from tests.browser.close import rests, seen

H, W = 900, 1350
SUBJECT = {"parts": [{"kind": "subject"}]}
STEPS = [
    {"id": "a", "name": "Whole", "adjustments": [{"kind": "exposure", "ev": -1}]},
    {"id": "b", "name": "Lift", "region": SUBJECT, "adjustments": [{"kind": "exposure", "ev": 3.5}]},
    {"id": "c", "name": "Crisp", "adjustments": [{"kind": "sharpen", "sharpen": 60, "radius": 10}]},
]
BESIDE = """
const c = document.querySelector('[data-beside-canvas]');
const r = c.getBoundingClientRect();
const bytes = c.getContext('2d').getImageData(0, 0, c.width, c.height).data;
let text = '';
for (let i = 0; i < bytes.length; i += 32768) text += String.fromCharCode(...bytes.subarray(i, i + 32768));
return [c.width, c.height, r.width, r.height, btoa(text)];
"""


@pytest.fixture
def hands(desk):
    with desk.bench(STEPS, H, W, 2) as person:
        person.original = CloseView(desk.library, ReadyFrames())
        person.frame = frames.frames(desk.library.db, person.shoot)[0].id
        yield person


def beside(person):
    """The left picture's pixels, and its size on the screen."""
    w, h, wide, tall, data = person.driver.execute_script(BESIDE)
    return np.frombuffer(base64.b64decode(data), np.uint8).reshape(h, w, 4)[..., :3], (wide, tall)


@pytest.mark.browser
def test_side_by_side_shows_the_original_at_the_same_size_and_part(hands):
    bright = hands.settled("#key-canvas")
    alone = hands.find("#key-box").size
    hands.find("#beside").click()
    hands.wait(lambda: hands.find("[data-beside-canvas]").is_displayed() and beside(hands)[0].mean() > 1)
    hands.settled("#key-canvas")
    pixels, size = beside(hands)
    box = hands.find("#key-box").size
    assert size == pytest.approx((box["width"], box["height"]), abs=1)
    assert abs(pixels.mean() - bright) > 3 and box["width"] < alone["width"] * 1.01
    hands.find("[data-close='1']").click()
    rests(hands)

    def same_part():
        cut, finished = seen(hands)
        left = beside(hands)[0]
        if left.shape != finished.shape:
            return False
        return np.array_equal(left, hands.original.cut(hands.frame, Plan(()), cut, "original"))

    hands.wait(same_part)
    hands.find("body").send_keys("f")
    hands.wait(same_part)
    # the base: without the step that works in a part of the frame
    Select(hands.find("#beside-of")).select_by_value("base")
    plain = unmasked(Recipe.model_validate(hands.recipe.model_dump()))

    def base_part():
        cut, finished = seen(hands)
        left = beside(hands)[0]
        return left.shape == finished.shape and np.array_equal(left, hands.original.cut(hands.frame, plain, cut))

    hands.wait(base_part)
    hands.find("#beside").click()
    hands.wait(lambda: not hands.find("[data-beside-canvas]").is_displayed())


@pytest.mark.browser
def test_the_base_is_held_and_follows_the_look(hands):
    finished = hands.settled("#key-canvas")
    hands.find("#base").click()
    hands.wait(lambda: hands.picture("#key-canvas") < finished - 3)
    hands.reads("base: without the masked steps", "#which")
    base = hands.picture("#key-canvas")
    slider = hands.find("#lane-a .lane-row input[type=range]")
    hands.set(slider, 0)
    hands.wait(lambda: hands.picture("#key-canvas") > base + 5)
    hands.find("#base").click()
    hands.wait(lambda: not hands.find("#which").is_displayed())
    keys = ActionChains(hands.driver)
    hands.driver.execute_script("document.activeElement.blur()")
    bright = hands.settled("#key-canvas")
    keys.key_down("b").perform()
    hands.wait(lambda: hands.picture("#key-canvas") < bright - 3)
    ActionChains(hands.driver).key_up("b").perform()
    hands.wait(lambda: abs(hands.picture("#key-canvas") - bright) < 1)
    assert [s.enabled for s in hands.recipe.steps] == [True] * 3


@pytest.mark.browser
def test_a_guard_stripes_and_edges_are_seen_closely_too(hands):
    hands.wait(lambda: hands.find("[data-guard=clipped]").get_attribute("data-warns") is not None)
    hands.find("[data-close='1']").click()
    rests(hands)
    _, plain = seen(hands)
    hands.find("[data-guard=clipped]").click()
    hands.wait(lambda: np.abs(seen(hands)[1].astype(int) - plain).max() > 100)
    hands.find("[data-guard=clipped]").click()
    hands.wait(lambda: np.array_equal(seen(hands)[1], plain))
    hands.open(2)
    hands.find(".lane[data-open] [data-fold-button]").click()
    edges = hands.find(".lane[data-open] [data-path$='/edges'] input[type=range]")
    hands.wait(edges.is_displayed)
    hands.driver.execute_script(
        "arguments[0].value = 60; arguments[0].dispatchEvent(new Event('input', {bubbles: true}))", edges
    )

    def grey():
        pixels = seen(hands)[1].astype(int)
        return np.abs(pixels - pixels.mean(-1, keepdims=True)).max() < 8

    hands.wait(grey)
    hands.wait(lambda: not grey())  # a moment after the hand rests the picture is back


@pytest.mark.browser
def test_side_by_side_on_the_page_of_a_frame(hands):
    from lenskeep.store import recipes
    from lenskeep.studio import looks

    version = recipes.save_recipe(hands.library.db, hands.recipe)
    looks.give_look(hands.library, hands.shoot, version.id, 1.0)
    hands.wait(lambda: frames.frame(hands.library.db, hands.frame).result_key)
    hands.driver.get(f"{hands.address}/frames/{hands.frame}")
    hands.find("#beside").click()
    hands.wait(lambda: beside(hands)[0].mean() > 1)
    box = hands.find("#compare").size
    assert beside(hands)[1] == pytest.approx((box["width"], box["height"]), abs=1)
    hands.find("[data-close='1']").click()
    rests(hands, "#picture")

    def same_part():
        cut, finished = seen(hands)
        left = beside(hands)[0]
        return left.shape == finished.shape and np.array_equal(
            left, hands.original.cut(hands.frame, Plan(()), cut, "original")
        )

    hands.wait(same_part)
    hands.driver.execute_script("sessionStorage.clear()")
    hands.driver.get(f"{hands.address}/scenes/{hands.shoot}/bench")
    hands.settled("#key-canvas")

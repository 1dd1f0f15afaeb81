"""Cleaning up on the page of a frame with mouse and keyboard: far and near, back and forth, from elsewhere."""

import base64

import cv2
import numpy as np
import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from lenskeep.store import frames
from lenskeep.studio import bring_in, removing
from tools.made_up import DEMO

pytestmark = pytest.mark.browser
H, W = 1067, 1600
SPECKS = ((0.2, 0.15), (0.5, 0.1))


@pytest.fixture(scope="module")
def photograph(tmp_path_factory):
    picture = cv2.imread(str(DEMO.parent / "dune-wedding" / "DUN_0301.jpg"))
    for x, y in SPECKS:
        cv2.circle(picture, (round(x * W), round(y * H)), 16, (0, 0, 0), -1)
    path = tmp_path_factory.mktemp("specks") / "specks.png"
    cv2.imwrite(str(path), picture)
    return path


@pytest.fixture
def cleaner(desk, photograph):
    with desk.bench([{"id": "a", "name": "Lift", "adjustments": [{"kind": "exposure", "ev": 0.2}]}]) as person:
        shoot = bring_in.create_shoot(person.library, "Specks")
        [person.id] = bring_in.receive(person.library, shoot, photograph, photograph.name).frame_ids
        person.wait(lambda: frames.frame(person.library.db, person.id).found, 90)
        person.driver.get(f"{person.address}/frames/{person.id}")
        person.find("body").send_keys("u")
        person.wait(lambda: person.find("#clean-bar").is_displayed())
        yield person
        person.rest_then_leave()  # the page asks for its frame, which is gone after
        removing.remove_shoot(person.library, shoot)


def marks(person):
    return frames.frame(person.library.db, person.id).override.clean.done


def to(person, x, y):
    svg = person.find("[data-clean-overlay]")
    size = svg.size
    where = round((x - 0.5) * size["width"]), round((y - 0.5) * size["height"])
    return ActionChains(person.driver, duration=60).move_to_element_with_offset(svg, *where)


def far(person, x, y):
    """Brightness of the picture as it stands on the page."""
    return person.driver.execute_script(
        "const i = document.getElementById('after'); const c = document.createElement('canvas');"
        "if (!i.complete) return -1; c.width = i.naturalWidth; c.height = i.naturalHeight;"
        "const g = c.getContext('2d'); g.drawImage(i, 0, 0);"
        "return g.getImageData(arguments[0] * c.width, arguments[1] * c.height, 1, 1).data[1];",
        x,
        y,
    )


def test_a_mark_is_healed_seen_far_and_near_undone_and_filled_otherwise(cleaner):
    (x, y), _ = SPECKS
    assert far(cleaner, x, y) < 40
    cleaner.set(cleaner.find("[data-clean=size]"), 2.6)
    to(cleaner, x, y).click().perform()
    cleaner.wait(lambda: len(marks(cleaner)) == 1)
    cleaner.reads("1 mark", "#clean-bar")
    cleaner.wait(lambda: far(cleaner, x, y) > 120)
    cleaner.find("body").send_keys("s")
    cleaner.wait(lambda: marks(cleaner)[0].other == 1)
    ActionChains(cleaner.driver).key_down(Keys.CONTROL).send_keys("z").key_up(Keys.CONTROL).perform()
    cleaner.wait(lambda: not marks(cleaner))
    cleaner.wait(lambda: far(cleaner, x, y) < 40)
    cleaner.press("Redo", "#clean-bar button")
    cleaner.wait(lambda: far(cleaner, x, y) > 120)
    # closely: the file's own pixels, healed where one looks
    (x, y) = SPECKS[1]
    to(cleaner, x, y).perform()
    cleaner.find("body").send_keys("z")
    cleaner.wait(lambda: cleaner.find("#picture").get_attribute("data-close-rests") is not None)
    svg = cleaner.find("[data-clean-overlay]").rect
    room = cleaner.find("#picture").rect
    before = near(cleaner)
    spot = (
        svg["x"] + x * svg["width"] - room["x"] - room["width"] / 2,
        svg["y"] + y * svg["height"] - room["y"] - room["height"] / 2,
    )
    ActionChains(cleaner.driver).move_to_element_with_offset(
        cleaner.find("#picture"), *map(round, spot)
    ).click().perform()
    cleaner.wait(lambda: len(marks(cleaner)) == 2)
    cleaner.wait(lambda: near(cleaner) > before + 1)


def near(person):
    """The darkest fifth of a thousand of the close view's pixels."""
    data = person.driver.execute_script(
        "const c = document.querySelector('.close-canvas');"
        "const b = c.getContext('2d').getImageData(0, 0, c.width, c.height).data;"
        "let t = ''; for (let i = 1; i < b.length; i += 4 * 7) t += String.fromCharCode(b[i]); return btoa(t);"
    )
    return float(np.percentile(np.frombuffer(base64.b64decode(data), np.uint8), 0.02))


def test_a_clone_by_keys_alone_and_by_the_pointer(cleaner):
    cleaner.find("body").send_keys("c")
    cleaner.reads("Hold Alt", "#clean-bar")
    svg = cleaner.find("[data-clean-overlay]")
    to(cleaner, 0.3, 0.8).click().perform()
    cleaner.reads("Say first where to take it from", "body")
    assert not marks(cleaner)
    to(cleaner, 0.5, 0.5).perform()
    cleaner.driver.execute_script("arguments[0].focus()", svg)
    keys = ActionChains(cleaner.driver)
    keys.send_keys("a").send_keys(*[Keys.ARROW_RIGHT] * 5).send_keys(Keys.ENTER).perform()
    cleaner.wait(lambda: len(marks(cleaner)) == 1)
    [one] = marks(cleaner)
    assert one.kind == "clone" and one.across == pytest.approx(-0.1, abs=0.005) and abs(one.down) < 0.005
    assert one.points[0][0] == pytest.approx(0.6, abs=0.01)
    # the next stroke keeps the distance
    to(cleaner, 0.3, 0.8).click_and_hold().move_by_offset(40, 0).release().perform()
    cleaner.wait(lambda: len(marks(cleaner)) == 2)
    assert marks(cleaner)[1].across == one.across and len(marks(cleaner)[1].points) > 1
    cleaner.find("body").send_keys("k")
    to(cleaner, 0.35, 0.5).click().perform()
    cleaner.wait(lambda: [m.kind for m in marks(cleaner)] == ["clone", "clone", "colour"])

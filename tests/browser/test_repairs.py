"""Repairing masks on the frame page with mouse and keyboard: each way of doing it, and where it is seen."""

import io
import json
import zipfile

import numpy as np
import pytest
from PIL import Image
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from lenskeep.store import frames, recipes
from lenskeep.studio import find, looks
from lenskeep.studio.library import Library
from tools.made_up import look_recipe, ready_shoot
from tools.running.browser import Person, open_browser
from tools.running.server import Server

pytestmark = pytest.mark.browser
SURFACE = "[data-repair-overlay]"


class Mender(Person):
    """Somebody on the page of a shoot's doubtful frame, whose subject's mask is wrong."""

    def __init__(self, driver, address, library, shoot):
        super().__init__(driver, address)
        self.library, self.shoot = library, shoot
        self.wait(lambda: all(f.finished for f in self.rows()), 90)
        self.id = self.rows()[2].id
        self.complaints()
        self.driver.get(f"{self.address}/frames/{self.id}?only=doubtful")
        self.reads("Doubtful", "#panel")
        self.find("body").send_keys("r")
        self.wait(lambda: self.find("#repair-bar").is_displayed())
        self.wait(lambda: self.tinted(0.5, 0.6) > 200)

    def rows(self):
        return frames.frames(self.library.db, self.shoot)

    @property
    def frame(self):
        return frames.frame(self.library.db, self.id)

    def tinted(self, x, y):
        """How much tint there is at a place, 0…255."""
        return self.driver.execute_script(
            "const c = document.querySelector('[data-repair-tint]');"
            "return c.getContext('2d').getImageData(arguments[0] * c.width, arguments[1] * c.height, 1, 1).data[3];",
            x,
            y,
        )

    def hand(self, x, y):
        box = self.find(SURFACE)
        size = box.size
        across, down = round((x - 0.5) * size["width"]), round((y - 0.5) * size["height"])
        return ActionChains(self.driver, duration=60).move_to_element_with_offset(box, across, down)

    def stroke(self, start, end):
        size = self.find(SURFACE).size
        by = round((end[0] - start[0]) * size["width"]), round((end[1] - start[1]) * size["height"])
        self.hand(*start).click_and_hold().move_by_offset(*by).release().perform()

    def tool(self, words, css="#repair-bar button"):
        self.press(words, css)

    def made(self, count):
        self.wait(lambda: len(self.frame.override.repairs.done) == count)
        self.ends()


@pytest.fixture(scope="module")
def open_shoots(tmp_path_factory):
    """(browser, address, library, shoots): all brought in before the application runs, which would look for masks."""
    folder = tmp_path_factory.mktemp("repairs")
    library = Library(folder / "home")
    shoots = [ready_shoot(library, folder / f"card-{k}", 6, 400 + 2 * k, 600) for k in range(11)]
    version = recipes.save_recipe(library.db, look_recipe(ev=1.5))
    for shoot in shoots:
        looks.give_look(library, shoot, version.id, 1.0)
    driver = open_browser(folder / "profile")
    try:
        with Server(library.home) as server:
            yield driver, server.address, library, iter(shoots)
    finally:
        driver.quit()


@pytest.fixture
def mender(open_shoots):
    driver, address, library, shoots = open_shoots
    made = Mender(driver, address, library, next(shoots))
    yield made
    made.driver.execute_script("localStorage.clear()")
    assert made.complaints() == []


def brightness(data, x, y):
    picture = np.asarray(Image.open(data).convert("L"), float)
    h, w = picture.shape
    return float(picture[int((y - 0.03) * h) : int((y + 0.03) * h), int((x - 0.02) * w) : int((x + 0.02) * w)].mean())


def test_painting_is_seen_at_once_everywhere_and_on_no_other_frame(mender, tmp_path):
    others = [f.wanted_key for f in mender.rows() if f.id != mender.id]
    before = brightness(mender.library.result(mender.frame.result_key), 0.12, 0.85)
    mender.find("[data-repair=edges]").click()
    mender.stroke((0.08, 0.85), (0.2, 0.85))
    assert mender.tinted(0.12, 0.85) > 150, "the stroke is there before the server was asked"
    mender.made(1)
    mender.reads("Trusted", "#panel")
    mender.reads("by hand", "#panel table")
    mender.wait(lambda: mender.frame.finished)
    shown = mender.wait(lambda: mender.frame.result_key in mender.find("#after").get_attribute("src"))
    assert shown
    assert brightness(mender.library.result(mender.frame.result_key), 0.12, 0.85) > before + 25
    assert [f.wanted_key for f in mender.rows() if f.id != mender.id] == others
    # found again, and under another version of the recipe
    find.queue_finding(mender.library, mender.shoot, everything=True)
    mender.wait(lambda: mender.frame.found and mender.frame.facts.subject.by_hand, 90)
    darker = recipes.save_recipe(mender.library.db, look_recipe(name="Night", ev=-1.5))
    looks.give_look(mender.library, mender.shoot, darker.id, 1.0)
    mender.wait(lambda: all(f.finished for f in mender.rows()), 90)
    own = brightness(mender.library.result(mender.frame.result_key), 0.12, 0.85)
    [plain] = [f for f in mender.rows() if f.id == mender.id + 1]
    assert own < brightness(mender.library.result(plain.result_key), 0.12, 0.85) - 20
    # handed over
    mender.driver.get(f"{mender.address}/shoots/{mender.shoot}/hand-over")
    mender.press("Hand over", "main button")
    mender.reads("files are ready", seconds=90)
    link = mender.find("a[href*='download'], a[download]").get_attribute("href")
    bundle = zipfile.ZipFile(io.BytesIO(mender.fetched(link)))
    name = mender.frame.file_name
    assert abs(brightness(io.BytesIO(bundle.read(name)), 0.12, 0.85) - own) < 4
    # the recipe that leaves knows nothing of it
    assert "painted" not in json.dumps(darker.recipe.model_dump(mode="json"))


def test_erasing_undo_and_redo_by_keys(mender):
    mender.find("[data-repair=edges]").click()
    mender.find("body").send_keys("e")
    mender.stroke((0.46, 0.6), (0.54, 0.6))
    mender.made(1)
    assert mender.frame.override.repairs.done[0].away
    mender.wait(lambda: mender.tinted(0.5, 0.6) < 40)
    mender.find("body").send_keys(Keys.CONTROL + "z")
    mender.made(0)
    mender.wait(lambda: mender.tinted(0.5, 0.6) > 200)
    mender.tool("Redo")
    mender.made(1)
    mender.wait(lambda: mender.tinted(0.5, 0.6) < 40)
    mender.tool("As found")
    mender.made(0)


def test_a_click_takes_a_piece_in_or_away_or_alone(mender):
    mender.find("body").send_keys("c")
    mender.hand(0.5, 0.15).perform()
    mender.wait(lambda: mender.all(f"{SURFACE} .would-take"))
    mender.hand(0.5, 0.15).click().perform()
    mender.made(1)
    mender.wait(lambda: mender.tinted(0.5, 0.15) > 200 and mender.tinted(0.5, 0.6) > 200)
    mender.hand(0.5, 0.15).key_down(Keys.ALT).click().key_up(Keys.ALT).perform()
    mender.made(2)
    mender.wait(lambda: mender.tinted(0.5, 0.15) < 40)
    mender.find("[data-repair=alone]").click()
    mender.hand(0.1, 0.9).click().perform()
    mender.made(3)
    mender.wait(lambda: mender.tinted(0.1, 0.9) > 200 and mender.tinted(0.5, 0.6) < 40)


def test_a_hole_is_filled_and_an_island_goes_by_one_click_each(mender):
    before = mender.frame.found_facts.subject.area
    mender.find("[data-repair=edges]").click()
    mender.find("body").send_keys("e")
    mender.hand(0.5, 0.6).click().perform()
    mender.made(1)
    mender.find("body").send_keys("e")
    mender.hand(0.1, 0.9).click().perform()
    mender.made(2)
    mender.wait(lambda: mender.tinted(0.5, 0.6) < 80 and mender.tinted(0.1, 0.9) > 180)
    mender.find("body").send_keys("c")
    mender.hand(0.5, 0.6).perform()
    mender.wait(lambda: mender.all(f"{SURFACE} .would-take"))
    mender.hand(0.5, 0.6).click().perform()
    mender.made(3)
    mender.wait(lambda: mender.tinted(0.5, 0.6) > 240)
    mender.hand(0.1, 0.9).key_down(Keys.ALT).click().key_up(Keys.ALT).perform()
    mender.made(4)
    mender.wait(lambda: mender.tinted(0.1, 0.9) < 20)
    assert [one.kind for one in mender.frame.override.repairs.done] == ["painted", "painted", "gap", "gap"]
    assert mender.frame.facts.subject.area == pytest.approx(before, abs=3e-3)


def test_none_here_and_the_next_doubtful_frame(mender):
    """As who came from the check does it: they go back to it from the next frame as well."""
    mender.driver.get(f"{mender.address}/frames/{mender.id}?repair&from=check")
    mender.wait(lambda: mender.tinted(0.5, 0.6) > 200)
    mender.tool("None here")
    mender.made(1)
    mender.wait(lambda: mender.tinted(0.5, 0.6) == 0)
    mender.reads("No subject was found here", "#panel")
    mender.find("body").send_keys("n")
    mender.reads("IMG_005")
    assert mender.find("#repair-bar").is_displayed(), "the next one is opened ready to be repaired"
    mender.press("Check")
    mender.wait(lambda: mender.driver.current_url.endswith("/check"))


def test_an_outline_point_by_point(mender):
    mender.find("body").send_keys("o")
    for place in ((0.02, 0.7), (0.2, 0.7), (0.2, 0.9)):
        mender.hand(*place).click().perform()
    mender.find("body").send_keys(Keys.BACKSPACE)
    for place in ((0.2, 0.95), (0.02, 0.95)):
        mender.hand(*place).click().perform()
    mender.find("body").send_keys(Keys.ENTER)
    mender.made(1)
    mender.wait(lambda: mender.tinted(0.1, 0.85) > 200 and mender.tinted(0.3, 0.85) < 40)


def test_size_by_keys_and_by_dragging_opacity_by_digits(mender):
    size = mender.find("[data-repair=size]")
    first = float(size.get_attribute("value"))
    mender.find("body").send_keys("+")
    mender.wait(lambda: float(size.get_attribute("value")) > first)
    larger = float(size.get_attribute("value"))
    mender.hand(0.5, 0.5).key_down(Keys.SHIFT).click_and_hold().move_by_offset(-120, 0).release().key_up(
        Keys.SHIFT
    ).perform()
    mender.wait(lambda: float(size.get_attribute("value")) < 0.7 * larger)
    assert not mender.frame.override.repairs.done, "dragging for size paints nothing"
    mender.find("body").send_keys("4")
    mender.stroke((0.1, 0.9), (0.2, 0.9))
    mender.made(1)
    assert mender.frame.override.repairs.done[0].opacity == 0.4


def test_another_mask_and_nearer(mender):
    Select(mender.find("[data-repair=mask]")).select_by_value("sky")
    mender.wait(lambda: mender.tinted(0.5, 0.2) > 200)
    mender.find("h2").click()
    mender.hand(0.5, 0.2).perform()
    mender.find("body").send_keys("z")
    mender.wait(lambda: mender.find(SURFACE).size["width"] == mender.frame.width)
    mender.find("body").send_keys("z")
    mender.wait(lambda: mender.find("#picture").get_attribute("data-close-on") is None)
    mender.driver.find_element("id", "repair").click()
    mender.wait(lambda: not mender.find("#repair-bar").is_displayed())


def test_at_the_bench_on_the_key_frame_and_a_witness(mender):
    mender.driver.get(f"{mender.address}/scenes/{mender.shoot}/bench")
    mender.wait(mender.rests)
    before = mender.picture("#key-canvas")
    mender.find("body").send_keys("r")
    mender.wait(lambda: mender.find("#repair-bar").is_displayed())
    mender.wait(lambda: mender.tinted(0.5, 0.6) > 200)
    mender.find("[data-repair=edges]").click()
    mender.stroke((0.05, 0.85), (0.3, 0.85))
    key = mender.rows()[0].id
    mender.wait(lambda: frames.frame(mender.library.db, key).override.repairs.done)
    mender.find("body").send_keys("r")
    mender.wait(lambda: not mender.find("#repair-bar").is_displayed())
    mender.wait(lambda: mender.picture("#key-canvas") != before)
    assert mender.find("#key-box").get_attribute("data-box").startswith("0.0"), "what is anchored follows the mask"
    mender.find("body").send_keys("r")
    mender.wait(lambda: mender.find("#repair-bar").is_displayed())
    mender.all(".witness")[0].click()
    mender.wait(lambda: "/frames/" in mender.driver.current_url)
    mender.wait(lambda: mender.find("#repair-bar").is_displayed())
    mender.press("Bench")
    mender.wait(lambda: mender.driver.current_url.endswith("/bench"))


def test_a_repair_is_carried_to_one_frame_of_the_burst(mender):
    """Offered to all, looked at side by side, taken over on one; the others stay as they were."""
    carry = mender.find("[data-repair=carry]")
    assert "(5)" in carry.text and not carry.is_enabled(), "nothing is repaired yet"
    mender.find("[data-repair=edges]").click()
    mender.stroke((0.08, 0.85), (0.2, 0.85))
    mender.made(1)
    mender.wait(carry.is_enabled)
    mender.press("Carry to the burst")
    mender.reads("with the repair", "dialog")
    rows = mender.all("dialog [data-offer]")
    assert len(rows) == 5
    other = int(rows[1].get_attribute("data-offer"))
    loaded = "return [...document.querySelectorAll('dialog [data-offer]')][1].querySelectorAll('img')[1].naturalWidth"
    mender.wait(lambda: mender.driver.execute_script(loaded) > 100)
    rows[1].find_element("tag name", "button").click()
    mender.reads("Taken over", f"[data-offer='{other}']")
    took = [f.id for f in mender.rows() if f.override.repairs.done]
    assert took == sorted([mender.id, other])
    mender.press("Close", "dialog button")
    mender.wait(lambda: not mender.all("dialog[open]"))
    mender.wait(lambda: all(f.finished for f in mender.rows()), 60)


def test_a_dragged_click_takes_all_that_it_crosses(mender):
    """From the ground into the sky: two pieces at once; after E they are taken away."""
    mender.find("body").send_keys("c")
    mender.stroke((0.1, 0.8), (0.15, 0.3))
    mender.made(1)
    mender.wait(lambda: mender.tinted(0.8, 0.8) > 100 and mender.tinted(0.8, 0.2) > 100)
    [sweep] = mender.frame.override.repairs.done
    assert (sweep.kind, sweep.away) == ("swept", False) and len(sweep.points) > 1
    mender.find("body").send_keys("e")
    mender.stroke((0.1, 0.2), (0.3, 0.2))
    mender.made(2)
    mender.wait(lambda: mender.tinted(0.8, 0.2) < 30 and mender.tinted(0.8, 0.8) > 100)

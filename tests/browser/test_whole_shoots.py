"""A shoot as a whole in the browser: selecting on the wall, its scenes, evening out, and the check by keys alone."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from lenskeep.core.recipes.models import Recipe
from lenskeep.store import checks, evenness, frames, looks, recipes, scenes
from lenskeep.store.evenness import Need
from lenskeep.studio import looks as giving
from tests.browser.hands import AtShoot, running_desk
from tools.made_up import look_recipe

pytestmark = pytest.mark.browser
SKY = {
    "id": "burn",
    "name": "Burn",
    "region": {"parts": [{"kind": "sky"}]},
    "adjustments": [{"kind": "exposure", "ev": 3.5}],
}


@pytest.fixture(scope="module")
def desk(tmp_path_factory):
    """A library of its own: scenes that are cut here are none that others count on."""
    with running_desk(tmp_path_factory.mktemp("whole")) as own:
        yield own


class Shooter(AtShoot):
    """Somebody who selects on the wall by pointer and keys."""

    @property
    def scene(self):
        return self.scenes[0]

    def keys(self, *what, held=None):
        chain = ActionChains(self.driver)
        if held:
            chain.key_down(held)
        chain.send_keys(*what)
        if held:
            chain.key_up(held)
        chain.perform()

    def click(self, tile, held):
        link = tile.find_element("css selector", "a")
        self.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", link)
        ActionChains(self.driver).key_down(held).click(link).key_up(held).perform()

    def selected(self, count):
        self.wait(lambda: self.find("[data-selected-count]").text == (str(count) if count else ""))

    def focus(self, number):
        self.driver.execute_script("document.querySelectorAll('.tile a')[arguments[0]].focus()", number)


def test_frames_are_selected_by_pointer_and_keys_and_changed_together(desk):
    me = Shooter(desk, 8)
    me.go(f"/shoots/{me.shoot}")
    me.wait(lambda: len(me.all(".tile img[alt*=finished]")) == 8)
    tiles = me.all(".tile")
    me.click(tiles[1], Keys.CONTROL)
    me.click(tiles[3], Keys.SHIFT)
    me.selected(3)
    me.click(me.all(".tile")[2], Keys.CONTROL)
    me.selected(2)
    me.focus(5)
    me.keys(" ")
    me.selected(3)
    me.keys(Keys.ARROW_RIGHT, held=Keys.SHIFT)
    me.selected(4)
    me.press("Base…")
    me.set(me.find("[data-do-base] input[name=ev]"), "0.5")
    me.press("Change the base")
    me.wait(lambda: [f.own_base.ev for f in me.rows] == [0, 0.5, 0, 0.5, 0, 0.5, 0.5, 0])
    me.focus(0)
    me.keys("4")
    me.wait(lambda: [f.rating for f in me.rows] == [0, 4, 0, 4, 0, 4, 4, 0])
    me.keys("z", held=Keys.CONTROL)
    me.wait(lambda: not any(f.rating for f in me.rows))
    me.keys("z", held=Keys.CONTROL)
    me.wait(lambda: not any(f.own_base.ev for f in me.rows))
    me.keys(Keys.ESCAPE)
    me.wait(lambda: not me.find("#selection").is_displayed())
    me.focus(0)
    me.keys("a", held=Keys.CONTROL)
    me.selected(8)
    me.keys("r")
    me.wait(lambda: all(f.rejected for f in me.rows))
    me.reads("rejected", ".tile")
    assert me.complaints() == []


def test_what_one_frame_has_is_copied_to_others(desk):
    me = Shooter(desk, 4)
    giving.change_frame(me.library, me.rows[0].id, strength=0.4)
    me.go(f"/shoots/{me.shoot}")
    me.wait(lambda: len(me.all(".tile img")) == 4)
    me.click(me.all(".tile")[0], Keys.CONTROL)
    me.keys("c", held=Keys.CONTROL)
    me.reads("Copied from IMG_000", ".toast-good")
    told, bar = (me.find(css).rect for css in (".toast-good", "#selection"))
    assert told["y"] + told["height"] <= bar["y"], "what is told does not lie over what can be done"
    me.keys(Keys.ESCAPE)
    me.click(me.all(".tile")[2], Keys.CONTROL)
    me.press("Copy…")
    me.find("[data-do-paste] input[name=look]").click()
    me.press("Paste onto these")
    me.wait(lambda: frames.frame(me.library.db, me.rows[2].id).override.strength == 0.4)
    assert me.complaints() == []


def test_a_scene_is_cut_named_and_joined_again(desk):
    me = Shooter(desk, 5)
    me.go(f"/shoots/{me.shoot}")
    me.wait(lambda: len(me.all(".tile img")) == 5)
    me.click(me.all(".tile")[3], Keys.CONTROL)
    me.find("#selection").find_elements("css selector", "[aria-expanded]")[3].click()
    me.press("Begin a scene with the first")
    me.wait(lambda: len(me.all(".scene")) == 2)
    second = me.all(".scene")[1]
    second.find_element("css selector", "[x-data] button").click()
    name = second.find_element("css selector", "input[name=name]")
    me.set(name, "On the boat")
    second.find_element("css selector", "form[action$=rename] button").click()
    me.reads("On the boat", "h2")
    assert [len(scenes.frame_ids(me.library.db, [s.id])) for s in scenes.shown(me.library.db, me.shoot)] == [3, 2]
    # a head may be exchanged between being found and being pressed: events still come from the renaming
    me.wait(lambda: me.all(".scene")[1].find_element("css selector", "[x-data] button").click() or True)
    me.press("Join to")
    me.wait(lambda: len(me.all(".scene")) == 1)
    assert me.complaints() == []


def test_a_scenes_look_is_stacked_in_a_dialog(desk):
    me = Shooter(desk, 3)
    other = recipes.save_recipe(me.library.db, look_recipe("Another one", -0.4))
    me.go(f"/shoots/{me.shoot}")
    me.press_for("Look…", "[data-add]")
    me.set(me.find("[data-add]"), other.id)
    me.wait(lambda: len(me.all(".layer")) == 2)
    me.set(me.all(".layer [data-strength]")[0], 40)
    me.find(".layer [data-down]").click()
    me.press("Apply to this scene")
    me.wait(lambda: len(looks.look(me.library.db, me.scene.id).layers) == 2)
    bottom, top = looks.look(me.library.db, me.scene.id).layers
    assert (bottom.version.id, bottom.strength) == (other.id, 0.4) and top.version.name == "Evening"
    me.wait(lambda: all(f.finished for f in me.rows))
    newer = recipes.save_recipe(me.library.db, look_recipe("Another one", -0.8))
    me.wait(lambda: not me.find("dialog").is_displayed() if me.all("dialog") else True)
    me.press_for("Look…", ".layer-newer")
    me.reads("exposure +0.8 EV", ".layer-newer")
    me.press("Move on to version 2")
    me.press("Apply to this scene")
    me.wait(lambda: looks.look(me.library.db, me.scene.id).layers[0].version.id == newer.id)
    assert me.complaints() == []


def test_a_scene_is_evened_out_as_ticked_and_undone(desk):
    me = Shooter(desk, 6)
    ids = [f.id for f in me.rows]
    needs = [Need(i, 0.0, 0.0, 0.0, True) for i in ids]
    needs[1], needs[4] = Need(ids[1], 0.8, -12.0, 0.0, True), Need(ids[4], -0.6, 0.0, 0.0, False)
    evenness.keep(me.library.db, me.scene.id, ids[0], needs)
    me.go(f"/shoots/{me.shoot}")
    me.reads("2 frames of 6 stand off", ".evenness")
    assert len(me.all(".even-chart a circle")) >= 5
    me.press("Even out…")
    me.reads("1 of 2 are sure and ticked")
    me.reads("Not sure", ".even-row")
    warmth = me.find(f"[name=use-mired-{ids[1]}]")
    picture = me.find(f"[data-row='{ids[1]}'] [data-then]").get_attribute("src")
    warmth.click()
    me.wait(lambda: me.find(f"[data-row='{ids[1]}'] [data-then]").get_attribute("src") != picture)
    me.find("#accept-even").click()
    me.wait(lambda: me.rows[1].own_base.ev == 0.8)
    assert me.rows[1].own_base.mired == 0 and me.rows[4].own_base.ev == 0, "only what was ticked, value by value"
    me.press("Undo")
    me.wait(lambda: not any(f.changed for f in me.rows))
    assert me.complaints() == []


def test_a_shoot_is_checked_by_keys_alone(desk):
    """Every key does what its label says, on 24 frames that need an eye; the next frame is there at once."""
    me = Shooter(desk, 24, look=False)
    version = recipes.save_recipe(me.library.db, Recipe.model_validate({"name": "Burnt", "steps": [SKY]}))
    giving.give_look(me.library, me.shoot, version.id, 1.0)
    me.go("/")
    me.wait(lambda: all(f.finished for f in me.rows), 120)
    me.go(f"/shoots/{me.shoot}/check")
    me.wait(lambda: me.find("#check").get_attribute("data-begun") is not None)
    assert me.find("[data-progress]").text == "0 seen, 24 to go"
    order = [f.file_name for f in me.rows]

    def name():
        return me.find("[data-name]").text

    def own(file_name):
        row = next(f for f in me.rows if f.file_name == file_name)
        return frames.frame(me.library.db, row.id).override.of_step("", "burn")

    first = name()
    faults = [f.text for f in me.all("[data-faults] li")]
    kinds = [f.get_attribute("data-kind") for f in me.all("[data-faults] li")]
    me.driver.execute_cdp_cmd("Network.enable", {})
    me.driver.execute_cdp_cmd("Network.setBlockedURLs", {"urls": ["*/where/*.png"]})
    for at in range(next(i for i, kind in enumerate(kinds) if kind != "doubt") + 1):
        me.keys("v")
        if kinds[at] == "doubt":
            me.wait(lambda at=at: me.find("[data-which]").text == faults[at])
    me.reads("can't be shown just now", ".toast")
    assert all("where" in message for message in me.complaints())
    me.driver.execute_cdp_cmd("Network.setBlockedURLs", {"urls": []})
    for fault in faults:  # each says on the picture where it is, also the one that could not be shown before
        me.keys("v")
        me.wait(lambda fault=fault: me.find("[data-which]").text == fault)
        drawn = bool(me.all("[data-contours] path.line")), me.find("[data-striped]").is_displayed()
        assert drawn[0] != drawn[1], fault
        assert [f.text for f in me.all("[data-faults] li[data-shown]")] == [fault]
    me.keys("v")
    me.wait(lambda: not me.find("[data-which]").is_displayed() and not me.find("[data-striped]").is_displayed())
    me.keys("v")
    me.wait(lambda: me.find("[data-which]").text == faults[0])
    me.keys("s", Keys.ARROW_LEFT)
    me.wait(lambda: name() == first and not me.find("[data-which]").is_displayed())
    me.keys("w")
    me.wait(lambda: own(first).strength == pytest.approx(0.7))
    me.wait(lambda: me.find("[data-strength]").text == "70 %")
    me.keys("l")
    me.wait(lambda: own(first).enabled is False)
    me.keys("z", held=Keys.CONTROL)
    me.wait(lambda: own(first).enabled is None)
    me.keys("p")
    me.keys("1")
    me.wait(lambda: own(first).region is not None and own(first).region.parts[0].kind == "subject")
    me.keys("b")
    me.wait(lambda: me.driver.switch_to.active_element.get_attribute("data-value") == "ev")
    me.keys(Keys.ARROW_UP, Keys.ENTER)
    me.wait(lambda: next(f for f in me.rows if f.file_name == first).own_base.ev == pytest.approx(0.1))
    me.keys(Keys.ENTER)
    me.wait(lambda: name() != first)
    second = name()
    me.keys("s")
    me.wait(lambda: name() not in (first, second))
    me.keys(Keys.ARROW_LEFT)
    me.wait(lambda: name() == second)
    me.keys(Keys.ARROW_LEFT)
    me.wait(lambda: name() == first and me.find("[data-progress]").text == "0 seen, 24 to go")
    late = me.driver.execute_async_script(
        "const done = arguments[0], out = []; let left = 20;"
        "function step() {"
        "  const image = document.querySelector('[data-picture]'), before = image.src, start = performance.now();"
        "  document.dispatchEvent(new KeyboardEvent('keydown', {key: 'Enter', bubbles: true}));"
        "  requestAnimationFrame(() => image.decode().then(() => {"
        "    const asked = performance.getEntriesByName(image.src).some((e) => e.startTime < start);"
        "    if (!asked) out.push(image.src);"
        "    left -= 1;"
        "    if (left && image.src !== before) setTimeout(step, 250); else done([left, out]);"
        "  }));"
        "}"
        "step();"
    )
    assert late == [0, []], "every picture was asked for before its turn came"
    while not me.find("[data-end]").is_displayed():
        me.keys("v")
        me.wait(lambda: me.find("[data-which]").text in [f.text for f in me.all("[data-faults] li")])
        me.keys(Keys.ENTER)
    assert not me.find("[data-striped]").is_displayed() and not me.find("[data-which]").is_displayed()
    assert not me.all("[data-contours] path"), "what was shown of the last frame is not left over the end"
    me.reads("All 24 seen", "[data-end]")
    me.wait(lambda: checks.counts(me.library.db, me.shoot) == (0, 24))
    assert {checks.told(me.library.db, f.id)[1] for f in me.rows} == {"accepted", "corrected"}
    me.go(f"/shoots/{me.shoot}/check")
    me.reads("All 24 seen", "[data-end]")
    assert sorted(order) == order and me.complaints() == []


def test_a_frames_base_follows_the_hand_and_is_undone(desk):
    me = Shooter(desk, 2)
    first = me.rows[0]
    me.go(f"/frames/{first.id}")
    me.wait(lambda: me.all("#base [data-slider]"))
    me.driver.execute_script(
        "const r = document.querySelector('[data-path=ev] input[type=range]'); r.value = 1;"
        "r.dispatchEvent(new Event('input', {bubbles: true}))"
    )
    me.wait(lambda: me.find("[data-trying]").is_displayed())
    assert me.rows[0].own_base.ev == 0, "trying keeps nothing"
    me.driver.execute_script(
        "document.querySelector('[data-path=ev] input[type=range]').dispatchEvent(new Event('change', {bubbles: true}))"
    )
    me.wait(lambda: me.rows[0].own_base.ev == 1)
    me.reads("the base of IMG_000.jpg", "#base-rest")
    me.wait(lambda: not me.find("[data-trying]").is_displayed())
    assert me.rows[0].result_key in me.find("#after").get_attribute("src")
    me.keys("z", held=Keys.CONTROL)
    me.wait(lambda: me.rows[0].own_base.ev == 0)
    me.press("Neutral click")
    me.find("#compare").click()
    me.wait(lambda: me.rows[0].own_base.mired != 0 or me.all(".toast"))
    assert me.complaints() == [] or "400" in str(me.complaints())


TOUCHED = """
window.touched = [0];
const count = (records) => {
  const elements = new Set(records.map((r) => r.target));
  window.touched[window.touched.length - 1] += elements.size;
};
new MutationObserver(count).observe(document.body, {subtree: true, childList: true, attributes: true});
(function next() { if (window.touched.at(-1)) window.touched.push(0); requestAnimationFrame(next); })();
"""
"""Counts the elements that are changed, of one picture of the screen after another."""


def test_five_thousand_frames_are_selected_without_a_stall(desk):
    """What a hand does to all of them changes what is drawn alone; ``benchmarks scale`` says how long that takes."""
    me = Shooter(desk, 1, look=False)
    columns = "shoot_id, scene_id, suffix, bytes, width, height, taken_at, brought_in_at, state, found_by, found_at"
    with me.library.db.writing() as write:
        write.execute(
            f"INSERT INTO frames ({columns}, place, file_name, sha256) WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL"
            f" SELECT i + 1 FROM n WHERE i < 4999) SELECT {', '.join('f.' + c for c in columns.split(', '))},"
            " f.place || printf(' %05d', i), printf('BIG_%05d.jpg', i), printf('%064x', i)"
            " FROM n, frames f WHERE f.shoot_id = ?",
            (me.shoot,),
        )
    me.go(f"/shoots/{me.shoot}")
    me.wait(lambda: len(me.all(".tile img")) >= 60)
    empty, full = (me.find(css).rect["height"] for css in (".tile-empty", ".tile[data-frame]"))
    assert empty == pytest.approx(full, abs=1), "a page that comes moves nothing of what is below it"
    me.driver.execute_script(TOUCHED)
    me.focus(0)
    me.keys("a", held=Keys.CONTROL)
    me.selected("5,000")
    me.keys(Keys.ESCAPE)
    me.wait(lambda: not me.find("#selection").is_displayed())
    me.focus(2)
    me.keys(" ")
    me.driver.execute_script("window.scrollTo(0, document.body.scrollHeight)")
    me.wait(lambda: "BIG_04999" in me.find("#tiles").text)
    last = me.all(".tile[data-frame]")[-1]
    me.click(last, Keys.SHIFT)
    me.selected("4,998")
    me.keys("3")
    me.wait(lambda: sum(f.rating == 3 for f in me.rows) == 4998)
    touched, drawn = me.driver.execute_script("return window.touched"), len(me.all(".tile[data-frame]"))
    me.complaints()  # the made-up frames have no pictures; other tests share this browser
    assert drawn < 300, "pages that are far away are not drawn"
    assert 100 < max(touched) < 600, f"elements changed at once: {touched}"

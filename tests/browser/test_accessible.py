"""Every screen, in both rooms, with lanes and dialogs open: nothing serious or critical by axe-core's rules."""

from importlib.resources import files

import pytest

from lenskeep.store import dust, evenness, frames, recipes, scenes
from lenskeep.store.evenness import Need
from lenskeep.studio import looks
from lenskeep.studio.cameras import learn_cameras
from lenskeep.studio.hand_over import ways
from lenskeep.studio.hand_over.options import DeliveryOptions
from tests.browser.close import rests
from tools.made_up import look_recipe

RULES = (files("axe_core_python") / "axe.min.js").read_text("utf-8")
RUN = """
const [only, done] = arguments;
const rules = only.length ? {runOnly: {type: "rule", values: only}} : {};
axe.run(document, {resultTypes: ["violations"], ...rules}).then((r) => done(r.violations
  .filter((v) => ["serious", "critical"].includes(v.impact))
  .map((v) => `${v.id}: ${v.nodes.map((n) => n.target.join(" ")).join(", ")}`)));
"""
STEPS = [
    {
        "id": "a",
        "name": "Lift",
        "region": {"parts": [{"kind": "subject"}, {"kind": "brush"}, {"kind": "ramp", "combine": "take away"}]},
        "adjustments": [{"kind": "exposure", "ev": 2}, {"kind": "curve"}, {"kind": "colour_bands"}],
    },
    {"id": "b", "name": "Tint", "adjustments": [{"kind": "colour_wash", "wash": 20}, {"kind": "text_mark"}]},
]


def clean(driver, where):
    """By all rules in the bright room; the dim one, which differs in its colours alone, by that of colours."""
    driver.execute_script(RULES)
    for room, rules in (("bright", []), ("dim", ["color-contrast"])):
        driver.execute_script("document.documentElement.dataset.room = arguments[0]")
        found = driver.execute_async_script(RUN, rules)
        assert found == [], (where, room, found)
    driver.execute_script("delete document.documentElement.dataset.room")


@pytest.mark.browser
def test_nothing_serious_on_any_screen(desk):
    with desk.bench(STEPS, 600, 900) as person:
        driver, library, shoot = desk.driver, desk.library, person.shoot
        version = recipes.save_recipe(library.db, look_recipe())
        looks.give_look(library, shoot, version.id, 1.0)
        frame = frames.frames(library.db, shoot)[2].id
        scene = scenes.shown(library.db, shoot)[0].id
        needs = [Need(f.id, 0.3 * n, 0.0, 0.0, n != 2) for n, f in enumerate(frames.summaries(library.db, shoot))]
        evenness.keep(library.db, scene, needs[0].frame_id, needs)
        pages = [
            "/",
            f"/scenes/{scene}/even",
            f"/shoots/{shoot}/check",
            f"/shoots/{shoot}",
            f"/shoots/{shoot}?show=doubtful",
            f"/shoots/{shoot}/hand-over",
            f"/shoots/{shoot}/dust",
            "/recipes",
        ]
        learn_cameras(library, shoot)
        dust.add(library.db, dust.cameras(library.db, shoot)[0], shoot, 0.3, 0.4, 0.004)
        ways.keep(library, "print", DeliveryOptions(form="tiff"))
        for place in [
            *pages,
            "/activity",
            f"/frames/{frame}?only=all",
            f"/frames/{frame}?only=all&repair",
            f"/frames/{frame}?clean",
        ]:
            driver.get(f"{desk.address}{place}")
            person.ends()
            clean(driver, place)
        driver.get(f"{desk.address}/shoots/{shoot}")
        person.wait(lambda: person.all(".even-chart"))
        person.find(".tile .tile-tick").click()
        for button in range(5):
            person.find("#selection").find_elements("css selector", "[aria-expanded]")[button].click()
            clean(driver, f"selection {button}")
            person.find("#selection").find_elements("css selector", "[aria-expanded]")[button].click()
        person.press("Look…", ".scene-head button")
        person.wait(lambda: person.all(".layer"))
        clean(driver, "look of a scene")
        driver.get(f"{desk.address}/scenes/{shoot}/bench")
        person.settled("#key-canvas")
        for lane in (0, 1):
            person.open(lane)
            for button in person.all(".lane[data-open] [data-fold-button]"):
                person.tap(button)
            clean(driver, f"lane {lane}")
        person.open(0)
        for chip in ("brush", "ramp", "edges", "share"):
            person.chip(chip)
            clean(driver, chip)
        person.find("#found-open").click()
        person.wait(lambda: person.all("#found-list [data-found]"))
        person.find("#found-list [data-found]").click()
        person.wait(lambda: person.find("#gathered").is_displayed())
        clean(driver, "what was found")
        person.find("[data-gathered-clear]").click()
        person.find("#beside").click()
        person.settled("#key-canvas")
        clean(driver, "side by side")
        person.find("[data-close='1']").click()
        rests(person)
        clean(driver, "close view")
        person.find("[data-open-history]").click()
        person.wait(lambda: person.find("#history-dialog").is_displayed())
        clean(driver, "history")
        driver.execute_script("document.querySelector('#history-dialog').close()")
        person.find("#save-open").click()
        person.wait(lambda: person.find("#save-dialog").is_displayed())
        clean(driver, "saving")

"""Pictures of every main view of the demo's shoots, into docs/screenshots: ``make shots``.

Usage: python -m tools.shots [--home LIBRARY] [--out FOLDER] [--size 1280x800] [NAME ...]
"""

import argparse
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from lenskeep.core.recipes.models import Recipe
from lenskeep.demo.seed import DUNES, ready
from lenskeep.store import evenness, frames, scenes, shoots
from lenskeep.studio import dusting, evening
from lenskeep.studio.bench import draft as bench
from lenskeep.studio.library import Library
from lenskeep.studio.queue import make_runner
from tools.running.browser import Person, open_browser
from tools.running.server import Server
from tools.small_png import write_if_changed

ONLY_SHOWN = ("bench-brush", "bench-guard")
"""Views that change the draft; it is put back after them."""
TRIAL = Recipe.model_validate(
    {
        "name": "Meadow, soft",
        "steps": [
            {
                "id": "curve",
                "name": "Shape the light",
                "region": {"parts": [{"kind": "subject"}]},
                "adjustments": [{"kind": "curve", "points": [[0, 0], [0.3, 0.27], [0.7, 0.76], [1, 1]]}],
            },
            {
                "id": "bands",
                "name": "Colours towards earth",
                "adjustments": [{"kind": "colour_bands", "green_turn": -40, "yellow_turn": -15, "green_chroma": -35}],
            },
            {
                "id": "much",
                "name": "Brighten the sky",
                "region": {"parts": [{"kind": "sky"}]},
                "adjustments": [{"kind": "exposure", "ev": 0.8}, {"kind": "glow", "glow": 20}],
            },
        ],
    }
)
ROOT = Path(__file__).parent.parent


def views(library: Library, shoot_id: int) -> dict[str, tuple[str, Callable[[Person], None]]]:
    """Name: (address, what to do there)."""
    scene = scenes.shown(library.db, shoot_id)[0]
    wall, at_bench = f"/shoots/{shoot_id}", f"/scenes/{scene.id}/bench"
    half_done = shoots.shoot_by_name(library.db, DUNES.title)
    assert half_done is not None
    dunes = frames.frames(library.db, half_done.id)
    worst = min(dunes, key=lambda f: f.facts.subject.trust if f.facts and f.result_key else 1)

    def nothing(_: Person) -> None:
        pass

    def rest(person: Person) -> None:
        person.settled("#key-canvas")

    def open_lane(number: int) -> Callable[[Person], None]:
        def act(person: Person) -> None:
            rest(person)
            person.all("[data-open-lane]")[number].click()
            rest(person)

        return act

    def trial(number: int, then: Callable[[Person], None] = nothing) -> Callable[[Person], None]:
        """With the draft below, a lane open and scrolled to what it does."""

        def act(person: Person) -> None:
            bench.load(library, scene.id, TRIAL)
            person.driver.refresh()
            open_lane(number)(person)
            person.find("#stage-edge").send_keys(*[Keys.ARROW_UP] * 4)
            if person.find(".lane[data-open] .adjustment").get_attribute("data-opens") is not None:
                person.find(".lane[data-open] [data-fold-button]").click()
            then(person)
            time.sleep(2)

        return act

    def guard(person: Person) -> None:
        person.find("[data-guard=clipped]").click()

    def with_part(kind: str, tool: str, what: Callable[[Person], None]) -> Callable[[Person], None]:
        """On a draft of its own step, thrown away by Undo at the end."""

        def act(person: Person) -> None:
            rest(person)
            Select(person.find("#add-step [name=where]")).select_by_value(kind)
            person.press("Add a step")
            person.wait(lambda: person.all(f".lane[data-open] [data-tool={tool}]"))
            rest(person)
            person.find(".lane[data-open] [data-chip^='part-']").click()
            person.wait(lambda: person.find("#overlay").get_attribute("data-tool") == tool)
            what(person)
            rest(person)
            time.sleep(1.5)

        return act

    def over(person: Person, across: int, down: int) -> ActionChains:
        return ActionChains(person.driver).move_to_element_with_offset(person.find("#overlay"), across, down)

    def paint(person: Person) -> None:
        over(person, -110, 60).click_and_hold().move_by_offset(20, 60).move_by_offset(40, 30).release().perform()
        rest(person)
        over(person, -20, 80).perform()

    def selected(person: Person) -> None:
        for number, held in ((1, Keys.CONTROL), (3, Keys.SHIFT)):
            link = person.all(".tile:not([data-folded]) a")[number]
            ActionChains(person.driver).key_down(held).click(link).key_up(held).perform()
        person.press("Base…")

    def begun(person: Person) -> None:
        person.wait(lambda: person.find("#check").get_attribute("data-begun") is not None)

    def closely(person: Person) -> None:
        open_lane(2)(person)
        person.find("[data-close='1']").click()
        person.find("body").send_keys("f")
        time.sleep(3)

    def pointed(person: Person) -> None:
        rest(person)
        for across, down in ((110, 60), (-30, -170)):
            over(person, across, down).click().perform()
            time.sleep(1)
        over(person, -130, 90).perform()
        time.sleep(1)

    def ramp(person: Person) -> None:
        open_lane(3)(person)
        person.find(".lane[data-open] [data-chip^='part-']").click()
        time.sleep(1)

    def choosing(person: Person) -> None:
        open_lane(5)(person)
        person.driver.execute_script("document.querySelector('.lane[data-open] [data-choose=effects]').click()")
        person.wait(lambda: len(person.all(".choice-picture img")) > 20)
        Select(person.find("[data-choices-shelf]")).select_by_visible_text("Tones")
        time.sleep(2)
        tone = person.all(".choice[data-shelf=Tones] .choice-picture")[9]
        ActionChains(person.driver).move_to_element(tone).perform()
        time.sleep(2)

    def lined_up(person: Person) -> None:
        script = "return [...document.querySelectorAll('.line-up-cell img')].every((i) => i.complete && i.naturalWidth)"
        person.wait(lambda: len(person.all(".line-up-cell")) > 20 and person.driver.execute_script(script))
        person.wait(lambda: all("Pull" in t.text for t in person.all(".line-up tfoot td")), 60)
        person.all("[data-tick]")[1].click()

    def cleaning(person: Person) -> None:
        person.wait(lambda: person.find("#clean-bar").is_displayed())
        svg = person.find("[data-clean-overlay]")
        size = svg.size
        x, y = (round((share - 0.5) * span) for share, span in ((0.637, size["width"]), (0.13, size["height"])))
        hand = ActionChains(person.driver, duration=80).move_to_element_with_offset(svg, x, y).click_and_hold()
        for _ in range(4):
            hand.move_by_offset(2, round(0.045 * size["height"]))
        hand.perform()

    def over_the_mask(person: Person) -> None:
        person.wait(lambda: person.find("#repair-bar").is_displayed())
        time.sleep(1.5)
        ActionChains(person.driver).move_to_element(person.find("[data-repair-overlay]")).perform()

    return {
        "shoots": ("/", nothing),
        "wall": (wall, nothing),
        "wall-selecting": (wall, selected),
        "even": (f"/scenes/{scene.id}/even", nothing),
        "check": (f"{wall}/check", begun),
        "bench": (at_bench, rest),
        "bench-step": (at_bench, ramp),
        "bench-pointing": (at_bench, pointed),
        "bench-choosing": (at_bench, choosing),
        "bench-close": (at_bench, closely),
        "line-up": (f"/scenes/{scene.id}/line-up", lined_up),
        "bench-brush": (at_bench, with_part("brush", "brush", paint)),
        "bench-guard": (at_bench, trial(2, guard)),
        "frame-clean": (f"/frames/{dunes[0].id}?clean", cleaning),
        "dust": (f"/shoots/{half_done.id}/dust", nothing),
        "frame-doubtful": (f"/frames/{worst.id}?only=doubtful", nothing),
        "frame-repair": (f"/frames/{worst.id}?only=doubtful&repair", over_the_mask),
        "hand-over": (f"{wall}/hand-over", nothing),
        "recipe-book": ("/recipes", nothing),
    }


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("names", nargs="*")
    parser.add_argument("--home", type=Path)
    parser.add_argument("--out", type=Path, default=ROOT / "docs" / "screenshots")
    parser.add_argument("--size", default="1280x800")
    words = parser.parse_args()
    words.out.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as scratch:
        library = Library(words.home or Path(scratch) / "home")
        shoot_id = ready(library, print)
        own = [s.id for s in scenes.shown(library.db, shoot_id)]
        if not all(evenness.needs(library.db, i) for i in own):
            evening.measure(library, shoot_id, own)
            make_runner(library).run_until_idle()
        dusty = shoots.shoot_by_name(library.db, DUNES.title)
        if dusty is not None and not dusting.of_shoot(library, dusty.id):
            dusting.queue_search(library, dusty.id)
            make_runner(library).run_until_idle()
        driver = open_browser(Path(scratch) / "profile")
        width, height = (int(n) for n in words.size.split("x"))
        try:
            with Server(library.home) as server:
                person = Person(driver, server.address)
                device = {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False}
                driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", device)
                for name, (address, act) in views(library, shoot_id).items():
                    if words.names and name not in words.names:
                        continue
                    driver.get(server.address + address)
                    act(person)
                    time.sleep(1.2)
                    written = write_if_changed(words.out / f"{name}.png", driver.get_screenshot_as_png())
                    while "/bench" in address and bench.draft(library, shoot_id).undo and name in ONLY_SHOWN:
                        bench.undo(library, shoot_id)
                    driver.execute_script("localStorage.clear()")
                    print(name, "written" if written else "as it was", *person.complaints(), flush=True)
        finally:
            driver.quit()


if __name__ == "__main__":
    main()

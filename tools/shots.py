"""Pictures of every main view of the demo shoot, into docs/screenshots: ``make shots``.

Usage: python -m tools.shots [--home LIBRARY] [--out FOLDER] [--size 1280x800] [NAME ...]
"""

import argparse
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.support.ui import Select

from lenskeep.core.detect.find import DETECTOR
from lenskeep.demo.seed import ready
from lenskeep.store import frames
from lenskeep.studio import bench
from lenskeep.studio.library import Library
from tests.browser.conftest import Person, open_browser
from tests.server import Server

ONLY_SHOWN = ("bench-brush", "bench-pick")
"""Views that change the draft; it is put back after them."""
ROOT = Path(__file__).parent.parent


def views(library: Library, shoot_id: int) -> dict[str, tuple[str, Callable[[Person], None]]]:
    """Name: (address, what to do there)."""
    rows = frames.frames(library.db, shoot_id, DETECTOR)
    wall, at_bench = f"/shoots/{shoot_id}", f"/shoots/{shoot_id}/bench"
    worst = min(rows, key=lambda f: f.facts.trust if f.facts else 0)

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

    def grey(person: Person) -> None:
        open_lane(5)(person)
        person.press("Grey mask")
        rest(person)

    def with_part(kind: str, tool: str, what: Callable[[Person], None]) -> Callable[[Person], None]:
        """On a draft of its own step, thrown away by Undo at the end."""

        def act(person: Person) -> None:
            rest(person)
            Select(person.find("#add-step [name=where]")).select_by_value(kind)
            person.press("Add a step")
            person.wait(lambda: person.all(f".lane[data-open] [data-tool={tool}]"))
            rest(person)
            person.find(f".lane[data-open] [data-tool={tool}]").click()
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

    def hover(person: Person) -> None:
        over(person, 100, 60).perform()
        over(person, 104, 64).perform()

    def dim(person: Person) -> None:
        rest(person)
        person.press("Dim room")

    def save(person: Person) -> None:
        rest(person)
        person.press("Save the recipe")

    def divided(person: Person) -> None:
        person.press("Divider")

    return {
        "shoots": ("/", nothing),
        "wall": (wall, nothing),
        "wall-doubtful": (f"{wall}?show=doubtful", nothing),
        "bench": (at_bench, rest),
        "bench-step": (at_bench, open_lane(4)),
        "bench-ramp": (at_bench, open_lane(3)),
        "bench-shared": (at_bench, open_lane(1)),
        "bench-brush": (at_bench, with_part("brush", "brush", paint)),
        "bench-pick": (at_bench, with_part("picked", "pick", hover)),
        "bench-mask": (at_bench, grey),
        "bench-dim": (at_bench, dim),
        "bench-save": (at_bench, save),
        "frame": (f"/frames/{rows[4].id}", divided),
        "frame-doubtful": (f"/frames/{worst.id}?only=doubtful", nothing),
        "hand-over": (f"{wall}/hand-over", nothing),
        "recipe-book": ("/recipes", nothing),
        "activity": ("/activity", nothing),
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
                    driver.save_screenshot(str(words.out / f"{name}.png"))
                    while "/bench" in address and bench.draft(library, shoot_id).undo and name in ONLY_SHOWN:
                        bench.undo(library, shoot_id)
                    driver.execute_script("localStorage.clear()")
                    print(name, *person.complaints(), flush=True)
        finally:
            driver.quit()


if __name__ == "__main__":
    main()

"""The close view and the brush in the browser, on an original of 24 megapixels with eight masked steps; medians.

A cut is timed from the key that moves the picture to its true pixels on the screen, a slider from its event to the
picture with it, the brush from the pointer's event to the second frame of the screen after it. Then three frames of 45
megapixels are opened closely in turn, and the server's memory is read.
"""

import statistics
import tempfile
import time
from importlib.resources import files
from pathlib import Path
from typing import Any

from selenium.webdriver.common.action_chains import ActionChains

from benchmarks.bench_screen import MOVE, REST_SECONDS
from benchmarks.speed import LARGER, large_jpeg
from lenskeep.files.recipes import recipe_from_json
from lenskeep.store import frames
from lenskeep.studio import bring_in
from lenskeep.studio.bench import draft
from lenskeep.studio.library import Library
from lenskeep.studio.queue import make_runner
from tools.running.browser import Person, open_browser
from tools.running.server import Server

TIMES = 15
WINDOW = (1830, 1180)
"""In which the picture's room is about 1280 × 600."""
RESTS = "return document.querySelector('#key-frame').hasAttribute('data-close-rests')"
MOVED = """
const [key, done] = arguments;
const room = document.querySelector("#key-frame");
const start = performance.now();
document.dispatchEvent(new KeyboardEvent("keydown", {key, bubbles: true}));
const look = () => room.hasAttribute("data-close-rests") ? requestAnimationFrame(() => done(performance.now() - start))
  : requestAnimationFrame(look);
look();
"""
PAINTED = """
const [x, y, done] = arguments;
const svg = document.querySelector("#overlay");
const r = document.querySelector("#key-frame").getBoundingClientRect();
const start = performance.now();
const at = {clientX: r.left + x * r.width, clientY: r.top + y * r.height, buttons: 1, pointerId: 1, bubbles: true};
svg.dispatchEvent(new PointerEvent("pointermove", at));
requestAnimationFrame(() => requestAnimationFrame(() => done(performance.now() - start)));
"""
UNDER = "const c = document.querySelector('.paint-canvas'); return Boolean(c) && !c.hidden && c.width > 10"


def _library(folder: Path, size: tuple[int, int], count: int) -> tuple[Library, int]:
    """A library with so many large frames, their masks found, and the demo's eight steps on the Bench."""
    library = Library(folder / "home")
    shoot = bring_in.create_shoot(library, "Large")
    for number in range(count):
        path = folder / f"large-{number}.jpg"
        large_jpeg(path, size[0] - 2 * number, size[1])
        bring_in.receive(library, shoot, path, path.name)
    assert make_runner(library, 2).run_until_idle()
    text = (files("lenskeep.demo") / "pier-evening.json").read_text("utf-8")
    draft.load(library, shoot, recipe_from_json(text).recipe)
    return library, shoot


def _closely(person: Person) -> None:
    person.find("[data-close='1']").click()
    person.wait(lambda: person.driver.execute_script(RESTS))


def _timed(driver: Any, address: str, shoot: int) -> dict[str, float]:
    person = Person(driver, address)
    driver.set_window_size(*WINDOW)
    driver.get(f"{address}/scenes/{shoot}/bench")
    person.settled("#key-canvas")
    _closely(person)
    for _ in range(9):
        driver.execute_async_script(MOVED, "ArrowLeft")
    moved = [driver.execute_async_script(MOVED, "ArrowRight") for _ in range(TIMES)]
    driver.execute_script("arguments[0].click()", person.all("[data-open-lane]")[0])
    slider = person.find(".lane[data-open] .adjustment [data-path*=adjustments] input[type=range]")
    low, high = (float(slider.get_attribute(k) or 0) for k in ("min", "max"))
    slid = []
    for number in range(TIMES + 3):
        value = low + (high - low) * (0.3 + 0.4 * ((number * 7) % 10) / 10)
        time.sleep(REST_SECONDS)  # until the last move's witnesses and measurements are done
        slid.append(driver.execute_async_script(MOVE, slider, value)[0])
    person.find("[data-paint='darker']").click()
    person.wait(lambda: person.find("#overlay").get_attribute("data-tool") == "brush")
    ActionChains(driver).move_to_element(person.find("#key-frame")).click_and_hold().move_by_offset(9, 0).perform()
    person.wait(lambda: driver.execute_script(UNDER))
    painted = [driver.execute_async_script(PAINTED, 0.1 + 0.8 * k / 60, 0.4 + 0.1 * (k % 2)) for k in range(60)]
    ActionChains(driver).release().perform()
    return {name: statistics.median(v) for name, v in (("move", moved), ("slider", slid[3:]), ("brush", painted))}


def _resident(pid: int) -> float:
    """Gigabytes that a process takes of the machine's memory at most."""
    text = Path(f"/proc/{pid}/status").read_text()
    return int(text.split("VmHWM:")[1].split()[0]) / 1e6


def _opened_in_turn(driver: Any, address: str, library: Library, shoot: int) -> None:
    person = Person(driver, address)
    for frame in frames.frames(library.db, shoot):
        driver.get(f"{address}/frames/{frame.id}")
        person.find("[data-close='1']").click()
        person.wait(lambda: person.find("#picture").get_attribute("data-close-rests") is not None)


def measured() -> dict[str, float]:
    """{"move", "slider", "brush"} in milliseconds, and "gigabytes" of the server at most."""
    with tempfile.TemporaryDirectory() as one, tempfile.TemporaryDirectory() as three:
        driver = open_browser(Path(one) / "profile")
        try:
            library, shoot = _library(Path(one), (6000, 4000), 1)
            with Server(library.home) as server:
                out = _timed(driver, server.address, shoot)
            library, shoot = _library(Path(three), LARGER, 3)
            with Server(library.home) as server:
                _opened_in_turn(driver, server.address, library, shoot)
                return out | {"gigabytes": _resident(server.process.pid)}
        finally:
            driver.quit()


if __name__ == "__main__":
    for name, value in measured().items():
        print(f"{name}: {value:.2f}")

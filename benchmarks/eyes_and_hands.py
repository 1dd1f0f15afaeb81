"""What a large shoot's wall and check let somebody wait for, measured in the browser."""

import statistics
import time
from dataclasses import dataclass
from pathlib import Path

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tools.running.browser import Person, open_browser
from tools.running.server import Server

SEEN = """
    const first = [...document.querySelectorAll(".tile img")].slice(0, 12);
    return first.length === 12 && first.every((i) => i.complete && i.naturalWidth);
"""
STALLS = """
    window.stalls = [];
    const keep = (list) => list.getEntries().forEach((e) => window.stalls.push(e.duration));
    new PerformanceObserver(keep).observe({entryTypes: ["longtask"]});
"""
"""A task of the page's that holds up every hand for more than 50 ms is a stall."""
ONWARDS = """
    const [times, done] = arguments, took = [];
    const image = document.querySelector("[data-picture]");
    function step() {
      const before = image.src, start = performance.now();
      document.dispatchEvent(new KeyboardEvent("keydown", {key: "s", bubbles: true}));
      requestAnimationFrame(() => image.decode().then(() => {
        if (image.src === before) return done(took);
        took.push(performance.now() - start);
        return took.length < times ? setTimeout(step, 250) : done(took);
      }));
    }
    step();
"""
"""From one frame of the check to the next, a quarter of a second after the last one came."""
STEPS = 20


@dataclass(frozen=True)
class Waits:
    """Milliseconds until the first tiles are seen, of a hand's longest stall, until the check's next picture."""

    tiles: float = 0.0
    stall: float = 0.0
    onwards: float = 0.0


def measured(server: Server, shoot: int, frames: int, folder: Path) -> Waits:
    """Of a shoot of so many frames, medians but for the stall; without doubtful frames ``onwards`` is 0."""
    driver = open_browser(folder)
    try:
        person = Person(driver, server.address)
        driver.set_script_timeout(120)
        driver.get(f"{server.address}/")
        took = []
        for _ in range(5):
            began = time.perf_counter()
            driver.get(f"{server.address}/shoots/{shoot}")
            person.wait(lambda: driver.execute_script(SEEN))
            took.append(1000.0 * (time.perf_counter() - began))
        stall = _selected(person, frames)
        driver.get(f"{server.address}/shoots/{shoot}/check")
        person.wait(lambda: person.find("#check").get_attribute("data-begun") is not None)
        time.sleep(2.0)  # until what comes next is decoded
        onwards = driver.execute_async_script(ONWARDS, STEPS) if person.find("[data-picture]").is_displayed() else []
        return Waits(statistics.median(took), stall, statistics.median(onwards) if onwards else 0.0)
    finally:
        driver.quit()


def _selected(person: Person, frames: int) -> float:
    """Everything selected by keys and let go, then scrolled to the end and selected by a range."""
    driver = person.driver
    driver.execute_script(STALLS)

    def told(count: int) -> None:
        shown = f"{count:,}" if count else ""
        person.wait(lambda: person.find("[data-selected-count]").text == shown)

    driver.execute_script("document.querySelector('.tile a').focus()")
    ActionChains(driver).key_down(Keys.CONTROL).send_keys("a").key_up(Keys.CONTROL).perform()
    told(frames)
    ActionChains(driver).send_keys(Keys.ESCAPE).perform()
    told(0)
    driver.execute_script("document.querySelector('.tile a').focus()")
    ActionChains(driver).send_keys(" ").perform()
    told(1)
    driver.execute_script("window.scrollTo(0, document.body.scrollHeight)")
    person.wait(lambda: not person.all(".wall-page:last-child .tile-empty"))
    last = person.all(".tile[data-frame] a")[-1]
    ActionChains(driver).key_down(Keys.SHIFT).click(last).key_up(Keys.SHIFT).perform()
    told(frames)
    return max(driver.execute_script("return window.stalls"), default=0.0)

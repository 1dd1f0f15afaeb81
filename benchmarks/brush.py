"""How soon a stroke that repairs a mask is seen under the pointer, measured in the browser on a frame's page."""

import statistics
import tempfile
from pathlib import Path

from selenium.webdriver.common.action_chains import ActionChains

from lenskeep.store import frames
from lenskeep.studio.library import Library
from tools.made_up import ready_shoot
from tools.running.browser import Person, open_browser
from tools.running.server import Server

MOVES = 60
SURFACE = "[data-repair-overlay]"
# One move of the pointer: milliseconds until the picture was painted with it, two frames of the screen at least.
MOVE = """
const [x, y, done] = arguments;
const svg = document.querySelector("[data-repair-overlay]");
const r = svg.getBoundingClientRect();
const start = performance.now();
const at = {clientX: r.left + x * r.width, clientY: r.top + y * r.height, buttons: 1, pointerId: 1, bubbles: true};
svg.dispatchEvent(new PointerEvent("pointermove", at));
requestAnimationFrame(() => requestAnimationFrame(() => done(performance.now() - start)));
"""
TINTED = """
const c = document.querySelector("[data-repair-tint]");
return c.getContext("2d").getImageData(arguments[0] * c.width, arguments[1] * c.height, 1, 1).data[3];
"""


def measured() -> float:
    """Milliseconds, median of ``MOVES`` moves of one stroke."""
    with tempfile.TemporaryDirectory() as scratch:
        library = Library(Path(scratch) / "home")
        shoot = ready_shoot(library, Path(scratch) / "card", 1, 800, 1200)
        [frame] = frames.summaries(library.db, shoot)
        driver = open_browser(Path(scratch) / "profile")
        try:
            with Server(library.home) as server:
                person = Person(driver, server.address)
                driver.get(f"{server.address}/frames/{frame.id}?repair")
                person.wait(lambda: driver.execute_script(TINTED, 0.5, 0.6) > 200)
                surface = person.find(SURFACE)
                away = round(-0.45 * surface.size["width"]), round(0.4 * surface.size["height"])
                ActionChains(driver).move_to_element_with_offset(surface, *away).click_and_hold().perform()
                spent = [
                    driver.execute_async_script(MOVE, 0.05 + 0.9 * k / MOVES, 0.85 + 0.05 * (k % 2))
                    for k in range(MOVES)
                ]
                assert driver.execute_script(TINTED, 0.5, 0.87) > 100, "nothing was painted"
                ActionChains(driver).release().perform()
        finally:
            driver.quit()
    return statistics.median(spent)

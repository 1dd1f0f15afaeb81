"""How soon looks are seen that are chosen, drawn back or lined up, measured in the browser on the first demo shoot."""

import statistics
import tempfile
import time
from importlib.resources import files
from pathlib import Path

from benchmarks.bench_screen import MOVE, REST_SECONDS
from lenskeep.demo.seed import ready
from lenskeep.files.recipes import recipe_from_json
from lenskeep.studio.bench import draft as bench
from lenskeep.studio.library import Library
from tools.running.browser import Person, open_browser
from tools.running.server import Server

MOVES, ROUNDS = 12, 3
COLUMNS, ROWS, TWENTY = 8, 6, 20

# The choosing is opened: milliseconds until the first picture, and until the twentieth, was there.
OPEN = """
const done = arguments[0];
const start = performance.now();
const seen = [];
document.addEventListener("load", function heard(event) {
  if (!event.target.matches?.(".choice-picture img")) return;
  seen.push(performance.now() - start);
  if (seen.length < 20) return;
  document.removeEventListener("load", heard, true);
  done([seen[0], seen[19]]);
}, true);
document.querySelector(".lane[data-open] [data-choose=effects]").click();
"""
FULL = """
const cells = [...document.querySelectorAll(".line-up-cell img")];
return cells.length >= arguments[0] && cells.every((c) => c.complete && c.naturalWidth);
"""


def measured(home: Path | None = None) -> dict[str, float]:
    """Milliseconds until a moved total strength is seen on the key frame, until the first and the twentieth choice are
    there; seconds until a line-up of ``COLUMNS`` × ``ROWS`` is full.
    """
    with tempfile.TemporaryDirectory() as scratch:
        library = Library(home or Path(scratch) / "home")
        shoot_id = ready(library, print)
        text = (files("lenskeep.demo") / "pier-evening.json").read_text("utf-8")
        bench.load(library, shoot_id, recipe_from_json(text).recipe)
        driver = open_browser(Path(scratch) / "profile")
        driver.set_script_timeout(60)
        try:
            with Server(library.home) as server:
                person = Person(driver, server.address)
                driver.get(f"{server.address}/scenes/{shoot_id}/bench")
                person.settled("#key-canvas")
                slider = person.find(".lane-whole input[type=range]")
                key = []
                for i in range(MOVES + 2):
                    time.sleep(REST_SECONDS)
                    first, _ = driver.execute_async_script(MOVE, slider, 40 + (i * 37) % 120)
                    key += [first] if i >= 2 else []
                opened = []
                for number in range(ROUNDS):  # a step of its own each, since pictures are kept
                    driver.get(f"{server.address}/scenes/{shoot_id}/bench")
                    person.settled("#key-canvas")
                    opener = person.all("[data-open-lane]")[-1 - number]
                    driver.execute_script("arguments[0].click()", opener)
                    time.sleep(REST_SECONDS)
                    opened.append(driver.execute_async_script(OPEN))
                full = _line_up(person, shoot_id)
        finally:
            driver.quit()
    first, twentieth = (statistics.median(one) for one in zip(*opened, strict=True))
    return {"strength_ms": statistics.median(key), "first_ms": first, "twenty_ms": twentieth, "line_up_s": full}


def _line_up(person: Person, shoot_id: int) -> float:
    """From nothing on the page to every cell of it; the frames were looked at before."""
    person.driver.get(f"{person.address}/scenes/{shoot_id}/line-up")
    person.wait(lambda: person.driver.execute_script(FULL, ROWS))
    person.driver.execute_script(
        "const rows = document.querySelectorAll('.line-up tbody tr'); for (const r of [...rows].slice(6)) r.remove();"
        "for (const drop of [...document.querySelectorAll('[data-drop]')]) drop.click();"
    )
    start = time.perf_counter()
    person.driver.execute_script(
        "const add = document.querySelector('[data-add]'); const options = [...add.options].slice(2, 10);"
        "for (const o of options) { add.value = o.value; add.dispatchEvent(new Event('change', {bubbles: true})); }"
    )
    person.wait(lambda: person.driver.execute_script(FULL, COLUMNS * ROWS), 60)
    return time.perf_counter() - start

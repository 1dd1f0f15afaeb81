"""How soon a slider's move is seen on the Bench, measured in the browser on the first demo shoot."""

import statistics
import tempfile
import time
from importlib.resources import files
from pathlib import Path

from lenskeep.demo.seed import ready
from lenskeep.files.recipes import recipe_from_json
from lenskeep.store import jobs
from lenskeep.studio.bench import draft as bench
from lenskeep.studio.library import Library
from tools.running.browser import Person, open_browser
from tools.running.server import Server

MOVES = 32
REST_SECONDS = 2.0

# One move: milliseconds until the key frame, and until all witnesses, were painted with it.
MOVE = """
const [slider, value, done] = arguments;
const start = performance.now();
const seen = {};
const heard = (kind) => (event) => requestAnimationFrame(() => {
  if (seen[kind] === undefined) seen[kind] = performance.now() - start;
  if (seen.key !== undefined && seen.witnesses !== undefined) {
    document.removeEventListener("lk:key-drawn", onKey);
    document.removeEventListener("lk:witnesses-drawn", onWitnesses);
    done([seen.key, seen.witnesses]);
  }
});
const onKey = heard("key");
const onWitnesses = heard("witnesses");
document.addEventListener("lk:key-drawn", onKey);
document.addEventListener("lk:witnesses-drawn", onWitnesses);
slider.value = value;
slider.dispatchEvent(new Event("input", {bubbles: true}));
"""


def measured(home: Path | None = None) -> dict[str, float]:
    """Milliseconds, median of ``MOVES`` moves of sliders, of eight steps in turn, with six witnesses beside."""
    with tempfile.TemporaryDirectory() as scratch:
        library = Library(home or Path(scratch) / "home")
        shoot_id = ready(library, print)
        text = (files("lenskeep.demo") / "pier-evening.json").read_text("utf-8")
        bench.load(library, shoot_id, recipe_from_json(text).recipe)
        assert not any(j.active for j in jobs.jobs(library.db))
        driver = open_browser(Path(scratch) / "profile")
        try:
            with Server(library.home) as server:
                person = Person(driver, server.address)
                driver.get(f"{server.address}/scenes/{shoot_id}/bench")
                assert len(person.all(".witness")) == 6
                person.settled("#key-canvas")
                lanes = len(person.all("[data-open-lane]"))
                assert lanes == 8
                key, witnesses = [], []
                for i in range(MOVES + 3):
                    if i % 4 == 0:  # every step in turn: those below the one that moves need not be rendered again
                        opener = person.all("[data-open-lane]")[(i // 4) % lanes]
                        driver.execute_script("arguments[0].click()", opener)
                        slider = person.find(".lane[data-open] .adjustment [data-path*=adjustments] input[type=range]")
                        low, high = (float(slider.get_attribute(k) or 0) for k in ("min", "max"))
                    time.sleep(REST_SECONDS)  # until the last move's witnesses and measurements are done
                    value = low + (high - low) * (0.3 + 0.4 * ((i * 7) % 10) / 10)
                    first, last = driver.execute_async_script(MOVE, slider, value)
                    if i >= 3:  # the first moves fill the caches
                        key.append(first)
                        witnesses.append(last)
        finally:
            driver.quit()
    return {"key_ms": statistics.median(key), "witnesses_ms": statistics.median(witnesses)}

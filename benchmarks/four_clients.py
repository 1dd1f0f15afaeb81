"""Four people on one library at once: one at the Bench, one on the wall, one in the check, one who brings cards in,
hands over and removes. Pictures that were answered are held against ones rendered by themselves; how long answers and
transactions took is printed.

``python -m benchmarks clients [minutes]``
"""

import os
import random
import re
import sys
import tempfile
import threading
import time
from collections import defaultdict
from collections.abc import Callable
from pathlib import Path

from lenskeep.core.recipes.changes import SetValues
from lenskeep.core.recipes.settings import setting_at
from lenskeep.store import frames, jobs, recipes, scenes
from lenskeep.studio import applying, looks
from lenskeep.studio.bench import draft
from lenskeep.studio.bench.stage import KEY_SIDE, Stage
from lenskeep.studio.library import Library
from lenskeep.studio.queue import make_runner
from lenskeep.studio.tasks.render import render_on_screen
from tools.made_up import look_recipe, ready_shoot, write_photo
from tools.running.server import Server
from tools.running.stalls import Stalls
from tools.running.visitor import Visitor

LONGEST_MS, LONGEST_TRANSACTION_MS = 1000.0, 50.0
START_SECONDS = 4.0
"""After a start the server reads its kernels and its workers come up; people begin to work a moment after."""


class Clients:
    """What four people do, and what they were answered."""

    def __init__(self, home: Path, scratch: Path, address: str, end: float) -> None:
        self.home, self.scratch, self.address, self.end = home, scratch, address, end
        self.took: dict[str, list[float]] = defaultdict(list)
        self.seen: list[tuple[int, float, bytes]] = []
        self.wrong: list[str] = []
        self.begun, self.late = time.perf_counter(), list[tuple[str, float, float]]()

    def timed(self, what: str, call: Callable[[], object]) -> object:
        began = time.perf_counter()
        answer = call()
        ms = 1000.0 * (time.perf_counter() - began)
        self.took[what].append(ms)
        if ms > LONGEST_MS:
            self.late.append((f"{what} at {began - self.begun:.0f} s", time.time(), ms))
        return answer

    def until_the_end(self, act: Callable[[Visitor, random.Random], None], seed: int) -> None:
        visitor, chance = Visitor(self.address), random.Random(seed)
        while time.monotonic() < self.end:
            try:
                act(visitor, chance)
            except Exception as error:
                self.wrong.append(f"{act.__name__}: {error!r}"[:300])

    def json(self, visitor: Visitor, path: str, **body: object) -> bytes:
        answer = visitor.http.post(path, json=body)
        if answer.status_code >= 400 and answer.status_code != 409:  # somebody was quicker: that is said, and right
            raise AssertionError(f"{path}: {answer.status_code} {answer.text[:200]}")
        return bytes(answer.content)

    def bench(self, visitor: Visitor, chance: random.Random) -> None:
        ev, frame = round(chance.uniform(-1, 1), 2), chance.randint(1, 6)
        value = setting_at("steps/subject/adjustments/a1/ev", ev).model_dump(mode="json")
        asked = {"frame": frame, "values": [value], "side": "key"}
        data = self.timed("a slider's picture", lambda: self.json(visitor, "/scenes/1/bench/picture", **asked))
        self.seen.append((frame, ev, bytes(data)))  # type: ignore[arg-type]
        self.timed("a value set", lambda: self.json(visitor, "/scenes/1/bench/set", values=[value], did="light"))
        time.sleep(0.1)

    def wall(self, visitor: Visitor, chance: random.Random) -> None:
        self.timed("the wall", lambda: visitor.get("/shoots/1"))
        some = chance.sample(range(7, 13), 4)  # the Bench is held against what these leave as it is
        do = chance.choice([{"what": "rate", "rating": chance.randint(0, 5)}, {"what": "base", "values": {"ev": 0.1}}])
        self.timed("done to several", lambda: self.json(visitor, "/shoots/1/do", frames=some, do=do))
        if chance.random() < 0.5:
            self.timed("undone", lambda: visitor.http.post("/shoots/1/back", json={"way": "undo"}))
        time.sleep(0.2)

    def check(self, visitor: Visitor, chance: random.Random) -> None:
        self.timed("the check", lambda: visitor.get("/shoots/1/check"))
        frame = chance.randint(1, 12)
        self.timed("a frame's page", lambda: visitor.get(f"/frames/{frame}"))
        self.timed("a strength", lambda: visitor.post(f"/frames/{frame}/strength", strength=chance.randint(40, 160)))
        time.sleep(0.2)

    def card(self, visitor: Visitor, chance: random.Random) -> None:
        folder = self.scratch / f"card-{chance.randrange(10**9)}"
        for n in range(5):
            write_photo(folder / f"{n}.jpg", chance.randrange(10**6), height=400, width=600)
        made = self.timed("a folder", lambda: visitor.post("/shoots/from-folder", folder=str(folder), name=folder.name))
        shoot = made["id"]  # type: ignore[index]
        time.sleep(chance.uniform(0.5, 4))
        out = str(self.scratch / "out")
        self.timed("a hand-over", lambda: visitor.post("/shoots/1/hand-over", form="folder", folder=out, quality="80"))
        time.sleep(chance.uniform(0.5, 3))
        self.timed("a removal", lambda: visitor.post(f"/shoots/{shoot}/remove"))


def _wrong_pictures(clients: Clients, library: Library) -> int:
    """Pictures of the Bench and finished ones that are others than when they are rendered by themselves."""
    stage, wrong = Stage(library), 0
    recipe = draft.recipe_now(library, 1)
    for frame, ev, data in random.Random(1).sample(clients.seen, min(60, len(clients.seen))):
        own = SetValues(values=[setting_at("steps/subject/adjustments/a1/ev", ev)]).on(recipe)
        wrong += stage.picture(frame, own, KEY_SIDE) != data
    for row in frames.frames(library.db, 1):
        want = applying.wanting_of(library, row)
        there = library.result(row.result_key).read_bytes()
        with tempfile.TemporaryDirectory() as scratch:
            task = applying.task_of(library, row, want, row.override, row.result_key)
            task.out.folder = Path(scratch)
            render_on_screen(task)
            wrong += (Path(scratch) / task.picture).read_bytes() != there
    return wrong


def _transactions(log: str) -> list[tuple[str, float, float]]:
    """Where long transactions were, as the log tells: the lines that led there, when they ended and how long they took
    (ms).
    """
    out = []
    for entry in re.split(r"^(?=20\d\d-)", log, flags=re.MULTILINE):
        if found := re.match(r"(\S+ \S+),(\d+) .* a transaction took (\d+) ms", entry):
            over = time.mktime(time.strptime(found[1], "%Y-%m-%d %H:%M:%S")) + int(found[2]) / 1000.0
            lines = re.findall(r'lenskeep/(\S+)", line (\d+), in (\w+)', entry)
            out.append((" < ".join(f"{f}:{n} {w}" for f, n, w in reversed(lines[-6:])), over, float(found[3])))
    return out


def _told(what: str, over: float, ms: float, stalls: Stalls) -> str:
    """What took long, and for how much of it the machine itself stood still."""
    return f"{ms:.0f} ms, of which the machine stood still for {stalls.within(over - ms / 1000.0, over):.0f}: {what}"


def main(words: list[str]) -> int:
    """Returns how much was wrong."""
    minutes = float(next(iter(words), "20"))
    with tempfile.TemporaryDirectory() as folder:
        scratch = Path(folder)
        os.environ["LENSKEEP_FOLDERS"] = os.environ["LENSKEEP_TARGETS"] = folder
        library = Library(scratch / "home")
        shoot = ready_shoot(library, scratch / "first", 12, 800, 1200)
        looks.give_look(library, shoot, recipes.save_recipe(library.db, look_recipe()).id, 1.0)
        make_runner(library, 0).run_until_idle()
        draft.load(library, scenes.first_scene(library.db, shoot).id, look_recipe())  # type: ignore[union-attr]
        stalls = Stalls(scratch)
        with stalls, Server(scratch / "home", workers=2) as server:
            time.sleep(START_SECONDS)
            clients = Clients(scratch / "home", scratch, server.address, time.monotonic() + 60 * minutes)
            acts = (clients.bench, clients.wall, clients.check, clients.card)
            people = [threading.Thread(target=clients.until_the_end, args=(act, n)) for n, act in enumerate(acts)]
            for person in people:
                person.start()
            for person in people:
                person.join()
            end = time.monotonic() + 120
            while any(j.active for j in jobs.jobs(library.db)) and time.monotonic() < end:
                time.sleep(0.2)
        applying.queue_stale(library, shoot, [f.id for f in frames.summaries(library.db, shoot)])
        make_runner(library, 0).run_until_idle()
        log = scratch / "home" / "logs" / "lenskeep.log"
        text = log.read_text() if log.exists() else ""
        held = _transactions(text)
        places = [_told(*one, stalls) for one in (*clients.late, *held)]
        wrong = _wrong_pictures(clients, library)
    print(f"Four clients, {minutes:g} minutes")
    for what, times in sorted(clients.took.items()):
        times.sort()
        late = times[int(0.999 * len(times))]
        print(
            f"  {what:22s} {len(times):6d} times, median {times[len(times) // 2]:6.0f} ms, "
            f"all but one in a thousand {late:6.0f}, most {times[-1]:6.0f} ms"
        )
    over = sum(times[-1] > LONGEST_MS for what, times in clients.took.items() if what != "a folder")
    longest = max((ms for _, _, ms in held), default=0)
    print(f"  transactions over {LONGEST_TRANSACTION_MS:.0f} ms: {len(held)}, the longest {longest:.0f} ms")
    for place in places:
        print(f"    {place}")
    print(f"  kinds of answer over {LONGEST_MS:.0f} ms: {over}; pictures that were wrong: {wrong}")
    print(f"  refused or failed: {len(clients.wrong)} {clients.wrong[:3]}; defects: {text.count('defect ')}")
    return wrong + len(held) + over + len(clients.wrong)


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]) > 0)

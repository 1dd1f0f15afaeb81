"""Damaged files, one after another into the running application: it must answer each in words, stay small and quick,
and never fall.

``python -m benchmarks hostile [count] [seed]``; what is not as it should be is kept in ``hostile-found/``.
"""

import re
import statistics
import sys
import tempfile
import threading
import time
from collections import Counter
from dataclasses import dataclass, field
from pathlib import Path
from queue import Queue

import psutil

from lenskeep.core.recipes.models import Recipe
from lenskeep.store import recipes, shoots
from lenskeep.studio.bench import draft as bench
from lenskeep.studio.library import Library
from tools.damaged import Damaged, damaged
from tools.made_up import look_recipe, ready_shoot
from tools.running.server import Server
from tools.running.visitor import Visitor

CLIENTS = 3
SLOW_SECONDS, MOST_BYTES, PAGE_SECONDS = 5.0, 1.5e9, 0.2
A_SHOOT = 400
"""So many files go into one shoot before it is removed, so that lists stay as long as people's are."""
RAW = re.compile(r"Traceback|Error\b|0x[0-9a-f]{4,}|object at|pydantic|\[Errno|NoneType|embedded null|\bException\b")
FOUND = Path("hostile-found")


@dataclass
class Seen:
    """What happened."""

    answers: Counter[str] = field(default_factory=Counter)
    faults: list[str] = field(default_factory=list)
    unforeseen: list[str] = field(default_factory=list)
    seconds: list[float] = field(default_factory=list)
    pages: list[float] = field(default_factory=list)
    most_bytes: int = 0
    lock: threading.Lock = field(default_factory=threading.Lock)

    def fault(self, file: Damaged, what: str) -> None:
        with self.lock:
            self.faults.append(f"{file.name} ({file.how}): {what}")
        FOUND.mkdir(exist_ok=True)
        (FOUND / file.name).write_bytes(file.data)
        print(f"  FAULT {file.name} ({file.how}): {what[:300]}", flush=True)


class Guest:
    """One client: brings files in, each in its way."""

    def __init__(self, address: str, bench_shoot: int, seen: Seen) -> None:
        self.visitor, self.bench_shoot, self.seen = Visitor(address), bench_shoot, seen
        self.shoot, self.brought = 0, 0

    def take(self, file: Damaged) -> None:
        began = time.perf_counter()
        try:
            status, words = self._sent(file)
        except Exception as error:
            self.seen.fault(file, f"no answer: {error!r}")
            return
        took = time.perf_counter() - began
        with self.seen.lock:
            self.seen.seconds.append(took)
            self.seen.answers[f"{file.way} {'refused' if words else 'taken'}"] += 1
            if any("defect" in w for w in words):
                self.seen.unforeseen.append(f"{file.name} ({file.how}): {words}")
        if any("defect" in w for w in words):
            FOUND.mkdir(exist_ok=True)
            (FOUND / f"unforeseen-{file.name}").write_bytes(file.data)
        if status >= 500 or status not in (200, 303, 422, 413):
            self.seen.fault(file, f"{status}: {words}")
        for reason in words:
            if len(reason) < 15 or RAW.search(reason):
                self.seen.fault(file, f"not in words: {reason}")
        if took > SLOW_SECONDS:
            self.seen.fault(file, f"took {took:.1f} s")

    def _sent(self, file: Damaged) -> tuple[int, list[str]]:
        """(status, reasons why it was refused)."""
        http = self.visitor.http
        if file.way == "photo":
            if self.brought % A_SHOOT == 0:
                if self.shoot:
                    self.visitor.post(f"/shoots/{self.shoot}/remove")
                self.shoot = self.visitor.post("/shoots", name=f"Hostile {file.name}")["id"]
            self.brought += 1
            answer = http.post(f"/shoots/{self.shoot}/files", files={"file": (file.name, file.data)})
            if answer.status_code != 200:
                return answer.status_code, [answer.text]
            return 200, [reason for _, reason in answer.json()["refused"]]
        if file.way == "recipe":
            answer = http.post("/recipes/import", files={"file": (file.name, file.data)})
        else:
            index = {"table": 0, "picture": 1, "mask": 0}[file.way]
            form = {"step": "a", "index": str(index), "kind": file.way}
            address = f"/scenes/{self.bench_shoot}/bench/file"
            answer = http.post(address, data=form, files={"file": (file.name, file.data)})
        return answer.status_code, [] if answer.status_code in (200, 303) else [answer.text]


def _bench_recipe() -> Recipe:
    region = {"parts": [{"kind": "image"}]}
    adjustments = [{"kind": "colour_table"}, {"kind": "overlay"}]
    return Recipe.model_validate({"name": "Open", "steps": [{"id": "a", "region": region, "adjustments": adjustments}]})


def _probe(address: str, shoot: int, seen: Seen, ended: threading.Event) -> None:
    """Look at pages all the while, as somebody at work would."""
    visitor = Visitor(address)
    pages = ("/", f"/shoots/{shoot}", "/recipes", f"/scenes/{shoot}/bench")
    number = 0
    while not ended.wait(0.2):
        began = time.perf_counter()
        visitor.get(pages[number % len(pages)])
        took, number = time.perf_counter() - began, number + 1
        with seen.lock:
            seen.pages.append(took)


def _weigh(pid: int, seen: Seen, ended: threading.Event) -> None:
    """The server's memory with that of its helpers; what they share counts once."""
    server = psutil.Process(pid)
    while not ended.wait(0.5):
        total = 0
        for process in (server, *server.children(recursive=True)):
            try:
                total += process.memory_full_info().pss
            except psutil.Error:
                continue
        seen.most_bytes = max(seen.most_bytes, total)


def _forget_recipes(library: Library) -> None:
    """What was taken goes again, so that the book stays as long as people's are."""
    with library.db.writing() as write:
        write.execute("DELETE FROM recipe_versions WHERE id NOT IN (SELECT version_id FROM looks)")
        write.execute("DELETE FROM recipes WHERE id NOT IN (SELECT recipe_id FROM recipe_versions)")


def main(words: list[str]) -> int:
    """Returns the number of faults."""
    numbers = [int(w) for w in words if w.isdigit()]
    count, seed = (*numbers, *(100_000, 20261126)[len(numbers) :])
    seen, ended, began = Seen(), threading.Event(), time.monotonic()
    print(f"Hostile: {count:,} damaged files, seed {seed}", flush=True)
    with tempfile.TemporaryDirectory() as scratch:
        library = Library(Path(scratch) / "home")
        shoot = ready_shoot(library, Path(scratch) / "card", 24)
        recipes.save_recipe(library.db, look_recipe())
        bench.load(library, shoot, _bench_recipe())
        with Server(library.home) as server:
            queue: Queue[Damaged | None] = Queue(maxsize=50)
            guests = [Guest(server.address, shoot, seen) for _ in range(CLIENTS)]

            def work(guest: Guest) -> None:
                while (file := queue.get()) is not None:
                    guest.take(file)

            threads = [threading.Thread(target=work, args=(g,)) for g in guests]
            threads += [threading.Thread(target=_probe, args=(server.address, shoot, seen, ended))]
            threads += [threading.Thread(target=_weigh, args=(server.process.pid, seen, ended))]
            for thread in threads:
                thread.start()
            for number, file in enumerate(damaged(count, seed), 1):
                queue.put(file)
                if server.process.poll() is not None:
                    seen.fault(file, "the server fell")
                    break
                if number % 500 == 0:
                    _forget_recipes(library)
                if number % 5000 == 0:
                    _say(seen, number, time.monotonic() - began)
            for _ in guests:
                queue.put(None)
            for thread in threads[:CLIENTS]:
                thread.join()
            ended.set()
            for thread in threads[CLIENTS:]:
                thread.join()
        assert shoots.shoot(library.db, shoot) is not None
    return _show(seen, time.monotonic() - began)


def _say(seen: Seen, number: int, seconds: float) -> None:
    pages = sorted(seen.pages)
    p95 = pages[int(0.95 * len(pages))] if pages else 0.0
    print(
        f"  {number:7,d} files, {number / seconds:.0f} a second, {len(seen.faults)} faults, {len(seen.unforeseen)} "
        f"unforeseen, {seen.most_bytes / 1e6:.0f} MB at most, pages {1000 * p95:.0f} ms (p95)",
        flush=True,
    )


def _show(seen: Seen, seconds: float) -> int:
    for kind, count in sorted(seen.answers.items()):
        print(f"  {kind:24s} {count:7,d}")
    pages = sorted(seen.pages)
    middle, longest = statistics.median(seen.seconds), max(seen.seconds)
    print(f"  slowest file {longest:.2f} s (at most {SLOW_SECONDS:g}), median {middle:.3f} s")
    print(f"  memory at most {seen.most_bytes / 1e9:.2f} GB (at most {MOST_BYTES / 1e9:g})")
    middle, p95, last = (1000 * pages[int(share * (len(pages) - 1))] for share in (0.5, 0.95, 1.0))
    most = 1000 * PAGE_SECONDS
    print(f"  pages meanwhile: median {middle:.0f} ms, p95 {p95:.0f}, slowest {last:.0f} ms (p95 at most {most:.0f})")
    print(f"  unforeseen, though answered in words: {len(seen.unforeseen)}")
    for words in seen.unforeseen[:20]:
        print(f"    {words[:200]}")
    late = p95 > most
    faults = len(seen.faults) + (seen.most_bytes > MOST_BYTES) + late
    print(f"  faults: {faults}, in {seconds:.0f} s", flush=True)
    return faults


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]) > 0)

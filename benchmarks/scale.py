"""How the application answers with 50, 500 and 5,000 frames, while a look is being applied to all of them.

``python -m benchmarks scale [SIZES …]``. Photographs are small and all different; facts and masks are those that the
detectors really find on the demo's frames. Prints a table; every time is the 95th percentile in milliseconds.
"""

import itertools
import shutil
import statistics
import tempfile
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from importlib.resources import as_file, files
from pathlib import Path

import cv2
import numpy as np
import psutil

from benchmarks.eyes_and_hands import Waits
from benchmarks.eyes_and_hands import measured as waited
from lenskeep.files.written import sum_of
from lenskeep.store import arrivals, findings, frames, jobs, recipes, scenes, walls
from lenskeep.store.database import Database
from lenskeep.studio import bring_in, looks
from lenskeep.studio import find as finding
from lenskeep.studio.bench import draft as bench
from lenskeep.studio.library import Library
from lenskeep.studio.queue import make_runner
from lenskeep.work.engines.here import Processes
from lenskeep.work.runner import Runner
from tools.made_up import look_recipe
from tools.running.server import Server
from tools.running.visitor import Visitor

SIZES = (50, 500, 5000)
TIMES = 100
FIRST_TILES_MS, ANSWER_MS, STALL_MS, MEMORY_MB, GROWTH, ITEM_MS = 1000.0, 150.0, 200.0, 700.0, 1.3, 3.0


@dataclass
class Measured:
    """Times in milliseconds by what was asked, and the rest of the table."""

    size: int
    times: dict[str, float] = field(default_factory=dict)
    waits: Waits = field(default_factory=Waits)
    item_ms: float = 0.0
    memory_mb: float = 0.0
    database_mb: float = 0.0


def templates(folder: Path) -> Library:
    """A library with the demo's frames at a small size and what is really found on them."""
    library = Library(folder / "templates")
    shoot = bring_in.create_shoot(library, "Templates")
    with as_file(files("lenskeep.demo")) as demo:
        for path in sorted(demo.glob("*/*.jpg"))[::3]:
            small = cv2.resize(cv2.imread(str(path)), None, fx=0.3, fy=0.3, interpolation=cv2.INTER_AREA)
            target = folder / path.name
            cv2.imwrite(str(target), small)
            bring_in.receive(library, shoot, target, path.name)
    finding.queue_finding(library, shoot)
    make_runner(library, 2).run_until_idle()
    return library


def filled(library: Library, models: Library, size: int) -> int:
    """A shoot of so many different frames, each with the facts and masks of one of the models'."""
    rows = [f for f in frames.frames(models.db, 1) if f.facts is not None]
    shoot = bring_in.create_shoot(library, f"{size} frames")
    small = [cv2.imread(str(models.computed(f.content).thumb)) for f in rows]
    with library.db.writing():
        for n in range(size):
            model, picture = rows[n % len(rows)], small[n % len(rows)].copy()
            picture[0, :8] = np.frombuffer(n.to_bytes(24, "big"), np.uint8).reshape(8, 3)
            draft = library.home / "draft.png"
            cv2.imwrite(str(draft), picture, [cv2.IMWRITE_PNG_COMPRESSION, 1])
            sha = sum_of(draft)
            original = library.original(sha, ".png")
            original.parent.mkdir(parents=True, exist_ok=True)
            draft.rename(original)
            taken = f"2026-09-12T{10 + n // 3600:02d}:{n // 60 % 60:02d}:{n % 60:02d}"
            frame = arrivals.add_frame(
                library.db, shoot, file_name=f"IMG_{n:05d}.png", sha256=sha, suffix=".png", size=1,
                width=picture.shape[1], height=picture.shape[0], taken_at=taken,
            )  # fmt: skip
            assert frame is not None and model.facts is not None
            computed, source = library.computed(sha), models.computed(model.content)
            computed.folder.mkdir(parents=True)
            for path in source.folder.iterdir():
                if path.name != "base.jpg":
                    (computed.folder / path.name).hardlink_to(path)
            shutil.copy(source.thumb, computed.base)
            findings.keep_facts(library.db, sha, model.facts, frame)
        first = frames.summaries(library.db, shoot)[0]
        scenes.set_key_frame(library.db, first.scene_id, first.id)
    bench.load(library, shoot, look_recipe())
    return shoot


def p95(ask: Callable[[], object], before: Callable[[], None], times: int = TIMES) -> float:
    """Milliseconds that nineteen of twenty answers stay under; what is done ``before`` each does not count."""
    ask()
    took = []
    for _ in range(times):
        before()
        began = time.perf_counter()
        ask()
        took.append(1000.0 * (time.perf_counter() - began))
    return statistics.quantiles(took, n=20)[-1]


def pages(visitor: Visitor, library: Library, shoot: int, version_id: int, out: Measured) -> None:
    """Every page, while a job runs: where it has ended, as a small shoot's does soon, the look is given once more."""
    strengths = itertools.cycle(range(40, 200))

    def give() -> None:
        if jobs.active_job(library.db, shoot) is None:
            form = {"version_id": version_id, "strength": next(strengths)}
            visitor.http.post(f"/shoots/{shoot}/look", data=form)

    http, rows = visitor.http, frames.summaries(library.db, shoot)
    doubtful = walls.page(library.db, shoot, "doubtful", "", 0, 60)
    walk = iter([f.id for f in doubtful] * 2 + [f.id for f in rows] * 2)
    middle = rows[len(rows) // 2]

    def get(address: str) -> Callable[[], object]:
        return lambda: http.get(address).raise_for_status()

    def edit() -> object:
        value = next(strengths) / 100
        values = [{"of": "step", "step": "subject", "field": "strength", "value": value}]
        return visitor.http.post(f"/scenes/{shoot}/bench/set", json={"values": values}).raise_for_status()

    def event() -> object:
        with http.stream("GET", f"/shoots/{shoot}/events?since=0") as answer:
            for line in answer.iter_lines():
                if line.startswith("event: standing"):
                    return line
        return None

    place = {"place": middle.place, "frame": str(middle.id)}
    asked: dict[str, Callable[[], object]] = {
        "home": get("/"),
        "wall": get(f"/shoots/{shoot}"),
        "a page of tiles": lambda: http.get(f"/shoots/{shoot}/tiles", params=place).raise_for_status(),
        "check": get(f"/shoots/{shoot}?show=doubtful"),
        "next frame": lambda: http.get(f"/frames/{next(walk)}?only=doubtful").raise_for_status(),
        "Bench": get(f"/scenes/{shoot}/bench"),
        "an edit at the Bench": edit,
        "an event during a job": event,
        "hand over": get(f"/shoots/{shoot}/hand-over"),
        "activity": get("/activity"),
    }
    for name, ask in asked.items():
        out.times[name] = p95(ask, give)


def nothing(task: int) -> int:
    """A task that takes no time, so that what is left is the queue's."""
    return task


class _Quick:
    run = staticmethod(nothing)

    def __init__(self, db: Database) -> None:
        self.db = db

    def prepare(self, job: jobs.Job, item: jobs.Item) -> int:
        frame = frames.frame(self.db, item.frame_id or 0)
        return frame.id if frame else 0

    def record(self, job: jobs.Job, item: jobs.Item, result: int) -> None:
        with self.db.writing() as write:
            write.execute("UPDATE frames SET reason = ? WHERE id = ?", (str(result), result))

    def failed(self, job: jobs.Job, item: jobs.Item, message: str) -> None:
        raise AssertionError(message)

    def finish(self, job: jobs.Job) -> str:
        return ""


def queue_ms(library: Library, shoot: int) -> float:
    """Milliseconds an item costs besides its work: read with its facts, handed over, taken back and written down."""
    ids = [f.id for f in frames.summaries(library.db, shoot)]
    warm = jobs.add_job(library.db, "quick", None, ids[:20])
    runner = Runner(library.db, {"quick": _Quick(library.db)}, lambda: Processes(2, []))
    runner.start()
    while jobs.job(library.db, warm).active:  # type: ignore[union-attr]
        time.sleep(0.02)
    began = time.perf_counter()
    job = jobs.add_job(library.db, "quick", None, ids)
    runner.wake()
    while jobs.job(library.db, job).active:  # type: ignore[union-attr]
        time.sleep(0.005)
    seconds = time.perf_counter() - began
    runner.stop()
    return 1000.0 * seconds / len(ids)


def measured(size: int, models: Library, folder: Path) -> Measured:
    out, library = Measured(size), Library(folder / "home")
    shoot = filled(library, models, size)
    out.item_ms = queue_ms(library, shoot)
    version = recipes.save_recipe(library.db, look_recipe())
    with Server(library.home, workers=1) as server:
        visitor = Visitor(server.address)
        process = psutil.Process(server.process.pid)
        looks.give_look(library, shoot, version.id, 1.0)
        pages(visitor, library, shoot, version.id, out)
        out.waits = waited(server, shoot, size, folder / "profile")
        out.memory_mb = process.memory_info().rss / 1e6
        visitor.close()
    out.database_mb = (library.home / "library.sqlite").stat().st_size / 1e6
    return out


def main(words: list[str]) -> int:
    """Returns how many figures are over their limit."""
    sizes = [int(w) for w in words if w.isdigit()] or list(SIZES)
    found: list[Measured] = []
    with tempfile.TemporaryDirectory(prefix="lenskeep-scale-") as scratch:
        models = templates(Path(scratch))
        for size in sizes:
            folder = Path(scratch) / str(size)
            folder.mkdir()
            found.append(measured(size, models, folder))
            print(f"  {size} frames measured", flush=True)
            shutil.rmtree(folder / "home", ignore_errors=True)
    return show(found)


def show(found: list[Measured]) -> int:
    print("p95 in ms while a look is applied" + "".join(f"{m.size:>10,}" for m in found) + "   growth")
    over = 0
    for name in found[0].times:
        row = [m.times[name] for m in found]
        grown = row[-1] / max(row[-2], 5.0) if len(row) > 1 else 1.0
        bad = [row[-1] > ANSWER_MS, grown > GROWTH]
        over += sum(bad)
        print(
            f"  {name:31s}" + "".join(f"{v:10.1f}" for v in row) + f"{grown:9.2f}  {'TOO MUCH' if any(bad) else 'ok'}"
        )
    rest = [
        ("first tiles in the browser, ms", [m.waits.tiles for m in found], FIRST_TILES_MS),
        ("longest stall, selecting all, ms", [m.waits.stall for m in found], STALL_MS),
        ("check's next picture, ms", [m.waits.onwards for m in found], ANSWER_MS),
        ("queue, ms an item", [m.item_ms for m in found], ITEM_MS),
        ("server's memory, MB", [m.memory_mb for m in found], MEMORY_MB),
        ("database, MB", [m.database_mb for m in found], float("inf")),
    ]
    for name, row, most in rest:
        over += row[-1] > most
        print(
            f"  {name:31s}" + "".join(f"{v:10.1f}" for v in row) + f"{'':9s}  {'TOO MUCH' if row[-1] > most else 'ok'}"
        )
    return over

"""Kills by SIGKILL at random moments: of the whole server during a job with real photographs, and of the runner with
quick items. Photographs come in file by file or from a card, beside them other shoots come and go, so that sweeps run,
and now and then the library is copied and brought back. After each kill it is looked through; at the end the
hand-over's ZIP is held against one made without.

``python -m benchmarks kills [server kills] [runner kills] [seed]``
"""

import hashlib
import io
import os
import random
import shutil
import sys
import tempfile
import threading
import time
import zipfile
from contextlib import suppress
from importlib.resources import as_file, files
from pathlib import Path

from PIL import Image

from benchmarks.kill_table import Table
from benchmarks.runner_kills import runner_kills
from benchmarks.visitor import Visitor
from lenskeep.files.recipes import recipe_from_json
from lenskeep.files.written import DRAFTS, sum_of
from lenskeep.store import deliveries, frames, health, jobs, recipes, shoots
from lenskeep.studio import find as finding
from lenskeep.studio import keeping, looks
from lenskeep.studio.hand_over import deliver
from lenskeep.studio.library import Library
from tools.running.server import Server

STAGES = ("bringing in", "finding", "applying", "handing over")
LONGEST = {"bringing in": 5.0, "finding": 5.0, "applying": 2.0, "handing over": 2.5}
"""Seconds of a stage within which the kill comes."""
LONGEST_WAIT = 900.0
"""Seconds after which a stage is said not to end: far more than it takes on a busy machine, kernels compiled first."""
PHOTOS = ("LKD_0113", "LKD_0124", "LKD_0133", "LKD_0201", "LKD_0221", "LKD_0231")
EXTRA_IN_ZIP = ("LKD_0101", "LKD_0114")


def photographs(folder: Path, most: int = len(PHOTOS)) -> Path:
    """Demo frames at 1200 px, and a ZIP of two more."""
    folder.mkdir(parents=True)
    with as_file(files("lenskeep.demo") / "ferry-dogs") as source:
        for name in (*PHOTOS[:most], *EXTRA_IN_ZIP):
            image = Image.open(source / f"{name}.jpg")
            image.thumbnail((1200, 1200))
            image.save(folder / f"{name}.jpg", quality=90, exif=image.getexif())
    with zipfile.ZipFile(folder / "more.zip", "w") as bundle:
        for name in EXTRA_IN_ZIP:
            bundle.write(folder / f"{name}.jpg", f"{name}.jpg")
    shutil.copytree(folder, folder.with_name("unpacked"), ignore=shutil.ignore_patterns("*.zip"), dirs_exist_ok=True)
    for name in EXTRA_IN_ZIP:
        (folder / f"{name}.jpg").unlink()
    return folder


def look_of_demo() -> recipes.Recipe:
    return recipe_from_json((files("lenskeep.demo") / "pier-evening.json").read_text("utf-8")).recipe


# --- one shoot, from files to ZIP, over the wire


class Shoot:
    """A shoot on its way; ``step`` does what is next, and can be done again after a kill. ``card``: its photographs
    come from a folder as a job, not one by one.
    """

    def __init__(self, home: Path, photos: Path, card: bool = False) -> None:
        self.library, self.photos, self.card = Library(home), photos, card
        self.count = len(list(photos.glob("*.jpg"))) + len(EXTRA_IN_ZIP)
        self.id = 0

    def stage(self) -> str | None:
        """What is to be done next; None when all is."""
        if not self.id or len(self.rows()) < self.count:
            return "bringing in"
        if any(finding.wants_finding(self.library, f) for f in self.rows()):
            return "finding"
        look = looks.look_of_shoot(self.library, self.id)
        if look is None or not all(f.finished for f in self.rows()):
            return "applying"
        return None if self.delivered() else "handing over"

    def rows(self) -> list[frames.FrameRow]:
        return frames.frames(self.library.db, self.id)

    def delivered(self) -> jobs.Job | None:
        past = jobs.jobs(self.library.db, self.id)
        return next((j for j in past if j.kind == deliver.KIND and j.state == "done"), None)

    def active(self) -> jobs.Job | None:
        return jobs.active_job(self.library.db, self.id)

    def start(self, visitor: Visitor, stage: str | None) -> None:
        """Ask for a stage, unless something is under way."""
        if stage == "bringing in" and self.card:
            known = [s["id"] for s in visitor.http.get("/shoots.json").json() if s["name"] == "Two dogs"]
            if known:
                self.id = known[0]
            else:
                folder = str(self.photos.with_name("unpacked"))
                self.id = visitor.post("/shoots/from-folder", folder=folder, name="Two dogs")["id"]
        elif stage == "bringing in":
            if not self.id:
                known = [s["id"] for s in visitor.http.get("/shoots.json").json() if s["name"] == "Two dogs"]
                self.id = known[0] if known else visitor.post("/shoots", name="Two dogs")["id"]
            for path in sorted(self.photos.iterdir()):
                visitor.bring(self.id, path)
        elif self.active():
            return
        elif stage == "finding":
            visitor.post(f"/shoots/{self.id}/find")
        elif stage == "applying":
            version = recipes.save_recipe(self.library.db, look_of_demo())
            visitor.post(f"/shoots/{self.id}/look", version_id=version.id, strength=100)
        elif stage == "handing over":
            visitor.post(f"/shoots/{self.id}/hand-over", quality=88)


def run_through(shoot: Shoot, seconds: float = LONGEST_WAIT) -> dict[str, str]:
    """To the end, without a kill; returns the sums of the ZIP's pictures by name."""
    with Server(shoot.library.home) as server:
        visitor, end = Visitor(server.address), time.monotonic() + seconds
        while (stage := shoot.stage()) is not None:
            if time.monotonic() > end:
                raise AssertionError(f"{stage} does not end: {shoot.active()}")
            shoot.start(visitor, shoot.stage())
            time.sleep(0.1)
        job = shoot.delivered()
        assert job is not None
        data = visitor.get(f"/deliveries/{job.id}.zip")
        visitor.close()
    with zipfile.ZipFile(io.BytesIO(data)) as bundle:
        assert bundle.testzip() is None
        return {n: _sum(bundle.read(n)) for n in bundle.namelist() if n.endswith(".jpg")}


def _sum(data: bytes) -> str:
    return hashlib.sha256(data).hexdigest()


def come_and_go(visitor: Visitor, photos: Path, chance: random.Random) -> None:
    """Another shoot with one of the same photographs and one of its own comes, and goes again: sweeps follow."""
    made = visitor.post("/shoots", name="Passing")["id"]
    for path in chance.sample(sorted(photos.glob("*.jpg")), 2):
        visitor.bring(made, path)
    visitor.post(f"/shoots/{made}/remove")


def bring_back(shoot: Shoot, when: str, table: Table) -> None:
    """The library as it is now, copied and brought back: everything that can be compared is the same."""
    with tempfile.TemporaryDirectory() as scratch:
        told = keeping.backup(Library(shoot.library.home), Path(scratch) / "copy").wrong
        again = Library(Path(scratch) / "again")
        told += keeping.restore(Path(scratch) / "copy", again).wrong
        for words in told:
            table.fault(when, f"copied and brought back: {words}")
        for name in ("shoots", "scenes", "layers", "recipe_versions", "findings", "deeds"):
            own, back = (sorted(map(repr, map(tuple, lib.db.reader.execute(f"SELECT * FROM {name}"))))
                         for lib in (Library(shoot.library.home), again))  # fmt: skip
            if own != back:
                table.fault(when, f"{name} came back otherwise")


def kill_once(shoot: Shoot, chance: random.Random, table: Table) -> None:
    """Start the server, ask for what is next, kill it at a random moment, and look at what is left."""
    stage = shoot.stage() or "nothing"
    server = Server(shoot.library.home)
    with server:
        moment = chance.uniform(0.0, LONGEST[stage])
        passing = chance if chance.random() < 0.35 else None
        asking = threading.Thread(target=_ask, args=(shoot, server.address, passing))
        asking.start()
        time.sleep(moment)
        server.kill()
        asking.join(30)
    table.kills[f"{stage} from a card" if shoot.card and stage == "bringing in" else stage] += 1
    if passing:
        table.kills["of these, while shoots come and go"] += 1
    if chance.random() < 0.1:
        bring_back(shoot, f"{stage}, copied after kill {table.kills[stage]}", table)
    look_through(shoot, f"{stage}, kill {table.kills[stage]}", table)


def _ask(shoot: Shoot, address: str, passing: random.Random | None) -> None:
    with suppress(Exception):  # the server is killed under its hands
        visitor = Visitor(address, 20.0)
        shoot.start(visitor, shoot.stage())
        if passing:
            come_and_go(visitor, shoot.photos, passing)


def look_through(shoot: Shoot, when: str, table: Table) -> None:
    """Whether the library holds everything it has promised so far."""
    library = Library(shoot.library.home)  # opened anew, as the next start does
    for words in health.faults(library.db):
        table.fault(when, words)
    rows = frames.frames(library.db, shoot.id) if shoot.id else []
    if len({f.sha256 for f in rows}) != len(rows):
        table.fault(when, "a frame is there twice")
    for frame in rows:
        original = library.original(frame.sha256, frame.suffix)
        if not original.is_file() or sum_of(original) != frame.sha256:
            table.fault(when, f"{frame.file_name}: the original is not what it was")
        if frame.state == "failed" or frame.render_problem:
            table.fault(when, f"{frame.file_name}: given up: {frame.problem or frame.render_problem}")
        if frame.result_key and not _opens(library.result(frame.result_key)):
            table.fault(when, f"{frame.file_name}: its finished picture is not whole")
        if (
            frame.facts is not None
            and frame.state == "ready"
            and not library.computed(frame.content).holds(frame.facts)
        ):
            table.fault(when, f"{frame.file_name}: masks are missing")
    for job in jobs.jobs(library.db):
        if job.failed or job.state == "failed":
            table.fault(when, f"job {job.id} ({job.kind}) failed: {jobs.failures(library.db, job.id) or job.message}")
        for made in deliveries.delivered(library.db, job.id):
            path = deliver.folder_of(library, job) / made.name
            if not path.is_file() or sum_of(path) != made.sha256:
                table.fault(when, f"{made.name} of a hand-over is not what was written down")


def _opens(path: Path) -> bool:
    try:
        with Image.open(path) as image:
            image.load()
    except (OSError, SyntaxError):
        return False
    return True


def at_the_end(shoot: Shoot, expected: dict[str, str], when: str, table: Table) -> None:
    """Without further kills the shoot is finished by itself, and leaves as it would have without any."""
    try:
        got = run_through(shoot)
    except AssertionError as error:
        table.fault(when, str(error))
        return
    if got != expected:
        table.fault(when, f"the ZIP differs: {sorted(set(got.items()) ^ set(expected.items()))}")
    left = list((shoot.library.home / "incoming").glob("*"))
    if left:
        table.fault(when, f"left in incoming: {left}")
    drafts = list(shoot.library.home.rglob(DRAFTS))
    if drafts:
        table.fault(when, f"drafts are left: {drafts}")
    look_through(shoot, when, table)
    for words in keeping.verify(Library(shoot.library.home)).wrong:
        table.fault(when, f"verify: {words}")


def server_kills(count: int, seed: int, table: Table) -> None:
    chance = random.Random(seed)
    with tempfile.TemporaryDirectory() as scratch:
        photos = photographs(Path(scratch) / "card")
        expected = run_through(Shoot(Path(scratch) / "without", photos))
        done, number = 0, 0
        while done < count:
            home = Path(scratch) / f"home-{number}"
            shoot = Shoot(home, photos, card=number % 8 == 0 or number % 8 == 5)
            stage = STAGES[number % len(STAGES)]
            _go_to(shoot, stage)
            for _ in range(chance.randint(3, 6)):
                if done >= count or shoot.stage() is None:
                    break
                kill_once(shoot, chance, table)
                shoot.id = shoot.id or _own_shoot(shoot.library)
                done += 1
            number += 1
            at_the_end(shoot, expected, f"the end of library {number}", table)
            shutil.rmtree(home, ignore_errors=True)
            print(f"  {done} of {count} server kills, {len(table.faults)} faults", flush=True)


def _go_to(shoot: Shoot, stage: str) -> None:
    """Without a kill, to where ``stage`` is the next thing to do."""
    if shoot.stage() == stage:
        return
    with Server(shoot.library.home) as server:
        visitor, end = Visitor(server.address), time.monotonic() + LONGEST_WAIT
        # finding begins by itself with what comes in, and is not waited for: it would be over
        while (now := shoot.stage()) != stage or (stage != "finding" and shoot.active()):
            assert time.monotonic() < end, f"{now} does not end: {shoot.active()}"
            if now != stage:  # asked once: it may have ended by the time it is started, and the next one must not begin
                shoot.start(visitor, now)
            time.sleep(0.05)
        visitor.close()


def _own_shoot(library: Library) -> int:
    return next((s.id for s in shoots.shoots(library.db) if s.name == "Two dogs"), 0)


def main(words: list[str]) -> int:
    """Returns the number of faults."""
    numbers = [int(w) for w in words if w.isdigit()]
    os.environ.setdefault("LENSKEEP_FOLDERS", tempfile.gettempdir())
    servers, runners, seed = (*numbers, *(150, 850, 20261126)[len(numbers) :])
    table, began = Table(), time.monotonic()
    print(f"Kills: {servers} of the server, {runners} of the runner, seed {seed}", flush=True)
    runner_kills(runners, seed, table)
    server_kills(servers, seed, table)
    table.show()
    print(f"  in {time.monotonic() - began:.0f} s")
    return len(table.faults)


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]) > 0)

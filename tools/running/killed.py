"""A shoot that goes over the wire from files to ZIP, step by step, and can be gone on with after its server was killed;
and what must hold of its library after that.
"""

import hashlib
import io
import shutil
import time
import zipfile
from importlib.resources import as_file, files
from pathlib import Path

from PIL import Image

from lenskeep.files.recipes import recipe_from_json
from lenskeep.files.written import sum_of
from lenskeep.store import deliveries, frames, health, jobs, recipes
from lenskeep.studio import find as finding
from lenskeep.studio import looks
from lenskeep.studio.hand_over import deliver
from lenskeep.studio.library import Library
from tools.running.kill_table import Table
from tools.running.server import Server
from tools.running.visitor import Visitor

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


class Shoot:
    """A shoot on its way; ``start`` asks for what is next, and can be asked again after a kill. ``card``: its
    photographs come from a folder as a job, not one by one.
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

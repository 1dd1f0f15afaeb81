"""Sweeping: what kills have left behind, and originals, masks and hand-overs that no row refers to any more.

Only for whoever alone runs this library's jobs. What is young is spared, since somebody may be about to write it down.
"""

import fcntl
import shutil
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from lenskeep.files.written import DRAFTS, drop_abandoned
from lenskeep.store import assets, jobs, references, rooms
from lenskeep.studio import card
from lenskeep.studio.hand_over import deliver
from lenskeep.studio.library import Library
from lenskeep.studio.tidy import tidy

KIND = "sweep"
YOUNG_SECONDS = 900.0


@dataclass
class Swept:
    """How much was taken away."""

    files: int = 0
    bytes: int = 0

    def take(self, path: Path) -> None:
        """Remove a file, or a folder with all that is in it."""
        for each in sorted(path.rglob("*")) if path.is_dir() else [path]:
            if each.is_file():
                self.files, self.bytes = self.files + 1, self.bytes + each.stat().st_size
        if path.is_dir():
            shutil.rmtree(path, ignore_errors=True)
        else:
            path.unlink(missing_ok=True)

    def words(self) -> str:
        """What was done, for a job's message."""
        if not self.files:
            return "Nothing was left over."
        return f"{self.files:,} files that nothing needs any more were removed: {self.bytes / 1e6:,.1f} MB."


def sweep_drafts(library: Library) -> None:
    """Remove the drafts and half-received files that a kill left behind."""
    for folder in ("computed", "results", "deliveries", "originals", "assets"):
        for draft in (library.home / folder).rglob(DRAFTS):
            drop_abandoned(draft)
    for job in jobs.jobs(library.db, limit=1000):
        if job.kind == deliver.KIND and job.active and job.options.get("folder"):
            for draft in Path(str(job.options["folder"])).glob(DRAFTS):
                if len(draft.name) == 38:  # ours: a dot, 32 digits, .part
                    drop_abandoned(draft)
    sweep_incoming(library)


def sweep_incoming(library: Library) -> None:
    """Remove what was on its way in when its program ended. Folders in use are locked, and stay."""
    for folder in _children(library.home / "incoming"):
        if not folder.is_dir():
            folder.unlink(missing_ok=True)
            continue
        try:
            with (folder / ".lock").open("w") as handle:
                fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
                shutil.rmtree(folder, ignore_errors=True)
        except OSError:
            continue  # in use, or just gone


def sweep_unused(library: Library, now: float | None = None) -> Swept:
    """Remove originals, computed files, results and hand-overs that no row refers to."""
    swept, moment = Swept(), time.time() if now is None else now
    old = moment - YOUNG_SECONDS
    for path in _two_deep(library.home / "originals"):
        with library.placing(alone=True):  # nobody is between finding it there and writing it down
            # a worker that brings a folder in is, until the queue has written down what it did
            free = _older(path, old) or not jobs.going(library.db, card.KIND)
            if free and path.is_file() and not references.original(library.db, path.name[:64]):
                swept.take(path)
    for path in _two_deep(library.home / "computed"):
        if path.is_dir() and _older(path, old) and not references.original(library.db, path.name[:64]):
            swept.take(path)
    young = datetime.fromtimestamp(old, UTC).isoformat(timespec="milliseconds")
    for key in assets.unused(library.db, young):
        size = assets.forget(library.db, key, young)
        swept.files, swept.bytes = swept.files + (size is not None), swept.bytes + (size or 0)
    for path in _children(library.home / "deliveries"):
        if path.name.isdigit() and not references.job(library.db, int(path.name)):
            swept.take(path)
    return swept


def sweep_results(library: Library, now: float | None = None) -> Swept:
    """Remove every finished picture that no frame shows or wants, though there may be room for it."""
    swept, old = Swept(), (time.time() if now is None else now) - YOUNG_SECONDS
    for path in _two_deep(library.home / "results"):
        if _older(path, old) and not references.result(library.db, path.name.split(".")[0]):
            swept.take(path)
    return swept


def queue_sweep(library: Library) -> None:
    """Sweep when the jobs before it are done, and finished pictures as well: something was removed by hand."""
    with library.db.writing():
        if not jobs.queued(library.db, KIND):
            jobs.add_job(library.db, KIND, None, [], {"removed": True})


def _children(folder: Path) -> Iterator[Path]:
    yield from sorted(folder.iterdir()) if folder.is_dir() else ()


def _two_deep(folder: Path) -> Iterator[Path]:
    for inner in _children(folder):
        if inner.is_dir():
            yield from _children(inner)


def _older(path: Path, moment: float) -> bool:
    try:
        return path.stat().st_mtime < moment
    except FileNotFoundError:
        return False


def _nothing(_: Any) -> None:
    """There are no items."""


class Sweeping:
    """Handler of "sweep" jobs, which have no items."""

    run: Callable[[Any], Any] = staticmethod(_nothing)

    def __init__(self, library: Library) -> None:
        self.library = library

    def prepare(self, job: jobs.Job, item: jobs.Item) -> None:
        return None

    def record(self, job: jobs.Job, item: jobs.Item, result: Any) -> None:
        """There are no items."""

    def failed(self, job: jobs.Job, item: jobs.Item, message: str) -> None:
        """There are no items."""

    def finish(self, job: jobs.Job) -> str:
        swept, tidied = sweep_unused(self.library), tidy(self.library)
        if job.options.get("removed"):
            more = sweep_results(self.library)
            swept = Swept(swept.files + more.files, swept.bytes + more.bytes)
        rooms.note_tidied(self.library.db)
        return f"{swept.words()} {tidied.words()}".strip()

"""Room in the library: what takes how much, and what can be computed again taken away when it is over its budget.

First goes what no frame refers to, the longest unused first; then masks and finished pictures of shoots that nobody has
opened in a while. Originals, hand-overs and small pictures stay. What is gone is found and rendered again when its
shoot is worked on.
"""

import os
import shutil
import time
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path

from lenskeep.store import finished, frames, jobs, references, rooms
from lenskeep.studio.library import BASE_PICTURE, THUMB, WORKING, Library
from lenskeep.work.defects import defect

OPEN_DAYS = 14
"""A shoot that was opened within so many days is open: nothing of it goes."""
SHARE_OF_DISK = 0.2
DUE_SECONDS = 3600.0
YOUNG_SECONDS = 900.0


def budget_bytes(library: Library) -> int:
    """``LENSKEEP_CACHE_GB``, or a fifth of the disk."""
    text = os.environ.get("LENSKEEP_CACHE_GB", "")
    try:
        return int(float(text) * 1e9)
    except ValueError:
        return int(SHARE_OF_DISK * shutil.disk_usage(library.home).total)


@dataclass(frozen=True)
class Room:
    """What the library takes, in bytes. ``masks`` are masks with the pictures beside them, ``looks`` finished pictures
    at screen size; both can be made again, and are held to ``budget``.
    """

    originals: int
    masks: int
    looks: int
    hand_overs: int
    assets: int
    database: int
    budget: int

    @property
    def again(self) -> int:
        """What can be made again."""
        return self.masks + self.looks

    @property
    def total(self) -> int:
        return self.originals + self.again + self.hand_overs + self.assets + self.database


def room(library: Library) -> Room:
    """Measured now: it looks at every file."""
    size = {name: sum(s for _, s, _ in _files(library.home / name)) for name in ("originals", "deliveries", "assets")}
    return Room(
        originals=size["originals"],
        masks=sum(s for _, s, _ in _files(library.home / "computed")),
        looks=sum(s for _, s, _ in _files(library.home / "results")),
        hand_overs=size["deliveries"],
        assets=size["assets"],
        database=sum(p.stat().st_size for p in library.home.glob("library.sqlite*")),
        budget=budget_bytes(library),
    )


def room_words(found: Room) -> list[tuple[str, str]]:
    """What takes how much, in words."""
    rows = [
        ("Originals", found.originals),
        ("Masks and working pictures", found.masks),
        ("Finished pictures", found.looks),
        ("Hand-overs to download", found.hand_overs),
        ("Pictures of recipes", found.assets),
        ("Database", found.database),
        ("Room for what can be made again", found.budget),
    ]
    return [(words, f"{size / 1e9:.2f} GB" if size >= 1e8 else f"{size / 1e6:.1f} MB") for words, size in rows]


def _files(folder: Path) -> Iterator[tuple[Path, int, float]]:
    """(path, size, when it was last used or written) of every file below a folder."""
    pending = [folder]
    while pending:
        try:
            entries = list(os.scandir(pending.pop()))
        except OSError:
            continue
        for entry in entries:
            if entry.is_dir(follow_symlinks=False):
                pending.append(Path(entry.path))
                continue
            try:
                stat = entry.stat()
            except OSError:
                continue  # just gone
            yield Path(entry.path), stat.st_size, max(stat.st_mtime, stat.st_atime)


@dataclass
class Tidied:
    """What was taken away: files nothing referred to, and shoots whose masks and pictures are to be made again."""

    files: int = 0
    bytes: int = 0
    shoots: int = 0

    def words(self) -> str:
        if not self.files:
            return ""
        told = f" {self.shoots} shoots were put to rest." if self.shoots else ""
        return f"{self.files:,} files that can be made again were removed: {self.bytes / 1e6:,.1f} MB.{told}"


def tidy(library: Library, budget: int | None = None, now: float | None = None) -> Tidied:
    """Bring what can be made again under its budget. Only for whoever alone runs this library's jobs."""
    limit = budget_bytes(library) if budget is None else budget
    moment = time.time() if now is None else now
    done = Tidied()
    held = [*_files(library.home / "computed"), *_files(library.home / "results")]
    over = sum(size for _, size, _ in held) - limit
    for path, size, _ in sorted(_unused(library, held, moment), key=lambda each: each[2]):
        if over <= 0:
            return done
        path.unlink(missing_ok=True)
        done.files, done.bytes, over = done.files + 1, done.bytes + size, over - size
    since = datetime.fromtimestamp(moment, UTC) - timedelta(days=OPEN_DAYS)
    for shoot_id in rooms.resting(library.db, since.isoformat(timespec="milliseconds")):
        if over <= 0:
            return done
        gone = _put_to_rest(library, shoot_id, done)
        over -= gone
        done.shoots += gone > 0
    return done


def _unused(library: Library, held: list[tuple[Path, int, float]], moment: float) -> Iterator[tuple[Path, int, float]]:
    """Finished pictures that no frame shows or wants, and masks of other detectors than those that frames speak of."""
    finders, cleaned = rooms.finders(library.db), rooms.cleaned(library.db)
    for path, size, used in held:
        if moment - used < YOUNG_SECONDS:
            continue  # somebody may be about to write it down
        if path.is_relative_to(library.home / "results"):
            if not references.result(library.db, path.name.split(".")[0]):
                yield path, size, used
        elif path.name not in (BASE_PICTURE, WORKING, THUMB) and not _needed(path.name, finders, cleaned):
            yield path, size, used


def _needed(name: str, finders: set[str], cleaned: set[str]) -> bool:
    """Whether a computed file belongs to detectors or to marks that frames speak of."""
    first, second = (*name.split("."), "")[:2]
    return second in cleaned if first == "clean" else first in finders


def _put_to_rest(library: Library, shoot_id: int, done: Tidied) -> int:
    """Take the masks and finished pictures of a shoot away, but for the small untouched ones; returns the bytes."""
    before = done.bytes
    with library.db.writing():
        rows = frames.summaries(library.db, shoot_id)
        finished.drop_results(library.db, shoot_id)
        rooms.let_rest(library.db, shoot_id)
    for frame in rows:
        paths = [library.result(frame.result_key), library.tile(frame.result_key)] if frame.result_key else []
        if not rooms.needed_elsewhere(library.db, frame.sha256, shoot_id):
            paths += [p for p in library.computed(frame.content).folder.glob("*") if p.name != THUMB]
        for path in paths:
            try:
                size = path.stat().st_size
                path.unlink()
            except OSError:
                continue
            done.files, done.bytes = done.files + 1, done.bytes + size
    return done.bytes - before


def queue_when_due(library: Library, kind: str) -> None:
    """Tidy again when the last time is a while ago; ``kind`` is the job that does it."""
    try:
        if rooms.seconds_since_tidied(library.db) > DUE_SECONDS and not jobs.queued(library.db, kind):
            jobs.add_job(library.db, kind, None, [])
    except Exception:
        defect("queueing the tidying")  # the next job queues it

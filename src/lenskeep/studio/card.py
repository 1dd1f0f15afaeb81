"""Bringing in a folder of this machine by its path, such as a camera's card: a job like any other, file by file."""

import os
import signal
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from pydantic import BaseModel

from lenskeep.core.names import shown_name
from lenskeep.core.problems import UserProblem
from lenskeep.files.archive import is_zip
from lenskeep.files.reading.photo import Base
from lenskeep.store import arrivals, frames, jobs, shoots
from lenskeep.studio import find as finding
from lenskeep.studio.bring_in import copied, create_shoot, photo_paths
from lenskeep.studio.library import THUMB, Library, placing
from lenskeep.studio.space import FOUND_BYTES, check_room
from lenskeep.studio.untrusted import Examined, examine
from lenskeep.work.apart import wait_seconds
from lenskeep.work.engines.carried import InFile, OutFolder, land

KIND = "bring-in"
MOST_FILES, MOST_BYTES = 50_000, 1_000_000_000_000
USUAL = ("/media", "/mnt", "/run/media")


def readable_folders() -> list[Path]:
    """The folders of this machine that may be read: those of ``LENSKEEP_FOLDERS`` (separated by colons), or one's own
    and those where disks and cards appear.
    """
    return folders_named("LENSKEEP_FOLDERS")


def folders_named(setting: str) -> list[Path]:
    """The folders that a setting names, separated by colons; one's own, and those where disks and cards appear, where
    it names none.
    """
    named = [Path(part).expanduser() for part in os.environ.get(setting, "").split(os.pathsep) if part.strip()]
    usual = [Path.home(), *(Path(p) for p in USUAL)]
    return [p.resolve() for p in (named or usual) if p.is_dir()]


class GivenFile(BaseModel):
    """What an item keeps: the file it is about."""

    path: str


def queue_folder(library: Library, shoot_id: int, text: str, anywhere: bool = False) -> int:
    """Queue bringing in every photograph of a folder and those below it; returns the job. ``anywhere`` is for whoever
    sits at the machine's own command line. Raises UserProblem.
    """
    folder, given = look_through(library, text, anywhere)
    return jobs.add_job(library.db, KIND, shoot_id, [None] * len(given), {"folder": str(folder)}, given)


def shoot_of_folder(library: Library, text: str, name: str = "") -> int:
    """A new shoot out of a folder; returns it. Raises UserProblem, and then there is none."""
    folder, given = look_through(library, text)
    with library.db.writing():
        shoot_id = create_shoot(library, name.strip() or folder.name or "Folder")
        jobs.add_job(library.db, KIND, shoot_id, [None] * len(given), {"folder": str(folder)}, given)
    return shoot_id


def look_through(library: Library, text: str, anywhere: bool = False) -> tuple[Path, list[str]]:
    """The folder, and what items keep of the photographs in it and below; a card may take long. Raises UserProblem."""
    folder = _checked(library, text, anywhere)
    paths = [p for p in photo_paths(folder) if anywhere or p.resolve().is_relative_to(folder)]  # no link leads out
    sizes = sum(p.stat().st_size for p in paths)
    if not paths:
        raise UserProblem(f"There is no file in {folder} that could be a photograph.")
    if len(paths) > MOST_FILES or sizes > MOST_BYTES:
        raise UserProblem(f"{folder} holds more than {MOST_FILES:,} files or 1 TB. Bring it in in parts.")
    check_room(library.home, sizes + len(paths) * FOUND_BYTES, f"bringing in {folder.name}")
    return folder, [GivenFile(path=str(path)).model_dump_json() for path in paths]


def _checked(library: Library, text: str, anywhere: bool) -> Path:
    try:
        folder = Path(text.strip()).expanduser()
        whole, there = folder.is_absolute(), folder.is_dir()
        folder = folder.resolve()
    except (OSError, ValueError, RuntimeError) as error:
        raise UserProblem("This is not the name of a folder. Type its whole path, from the root.") from error
    if not whole:
        raise UserProblem("Type the folder's whole path, from the root.")
    if not anywhere and not any(folder.is_relative_to(root) for root in readable_folders()):
        raise UserProblem(f"{folder} may not be read. {folders_words()}")
    if not there:
        raise UserProblem(f"There is no folder {folder} on this machine.")
    if library.holds(folder):
        raise UserProblem(f"{folder} is inside Lens Keep's own library.")
    return folder


def folders_words() -> str:
    """Which folders may be read."""
    return f"Folders in {', '.join(map(str, readable_folders()))} can be brought in; LENSKEEP_FOLDERS names others."


@dataclass(frozen=True)
class CardTask:
    """``originals`` is where the library keeps originals, if whoever runs this sees it."""

    file: InFile
    name: str
    raw_base: Base
    originals: OutFolder


@dataclass(frozen=True)
class CardResult:
    seen: Examined
    thumb: bytes = field(repr=False)
    in_place: bool = False


def take(task: CardTask) -> CardResult:
    """Look at a file to its last pixel, and copy it into the library when that is seen. A decoder that hangs takes its
    process with it, which the queue blames on this file alone. Raises PhotoProblem.
    """
    with task.file.on_disk() as path, _in_time(path):
        if not path.is_file():
            raise UserProblem(f"{task.name} is not there any more. Is the card still in?")
        if is_zip(path):
            raise UserProblem(f"{task.name} is a ZIP. Unpack it, or drop it on the page.")
        seen, thumb = examine(path, task.name, task.raw_base)
        if task.originals.folder is None:
            return CardResult(seen, thumb)
        with placing(task.originals.folder.parent):
            copied(path, _place(task.originals.folder, seen), seen.sha256, task.name)
        return CardResult(seen, thumb, in_place=True)


class _in_time:
    """Ends this process when a file takes too long; only where there is a main thread to be told so."""

    def __init__(self, path: Path) -> None:
        self._seconds = int(wait_seconds(path.stat().st_size if path.is_file() else 0)) + 1

    def __enter__(self) -> None:
        with suppress(ValueError):
            signal.signal(signal.SIGALRM, signal.SIG_DFL)
            signal.alarm(self._seconds)

    def __exit__(self, *_: object) -> None:
        signal.alarm(0)


def _place(originals: Path, seen: Examined) -> Path:
    return originals / seen.sha256[:2] / f"{seen.sha256}{seen.suffix}"


class BringingIn:
    """Handler of "bring-in" jobs."""

    run: Callable[[Any], Any] = staticmethod(take)
    durable = True

    def __init__(self, library: Library) -> None:
        self.library = library

    @staticmethod
    def _path(item: jobs.Item) -> Path:
        return Path(GivenFile.model_validate_json(item.given).path)

    def prepare(self, job: jobs.Job, item: jobs.Item) -> CardTask | None:
        shoot, path = shoots.shoot(self.library.db, job.shoot_id or 0), self._path(item)
        if shoot is None:
            return None
        originals = OutFolder(self.library.home / "originals")
        return CardTask(InFile(path), _shown(path), shoot.raw_base, originals)

    def receive(self, job: jobs.Job, item: jobs.Item, result: CardResult) -> None:
        seen, path = result.seen, self._path(item)
        if not result.in_place:
            with self.library.placing():
                copied(path, self.library.original(seen.sha256, seen.suffix), seen.sha256, _shown(path))
        land({THUMB: result.thumb}, self.library.computed(frames.content_of(seen.sha256, seen.base)).folder)

    def record(self, job: jobs.Job, item: jobs.Item, result: CardResult) -> None:
        """The original is in its place, and young: whoever sweeps passes it over. Raises UserProblem otherwise."""
        seen, shoot_id = result.seen, job.shoot_id or 0
        if not self.library.original(seen.sha256, seen.suffix).is_file():
            raise UserProblem(f"{_shown(self._path(item))} is not in its place in the library. Bring it in again.")
        frame_id = arrivals.add_seen(self.library.db, shoot_id, _shown(self._path(item)), seen)
        if frame_id is not None:
            finding.queue_new(self.library, shoot_id, [frame_id])

    def failed(self, job: jobs.Job, item: jobs.Item, message: str) -> None:
        if job.shoot_id is not None and shoots.shoot(self.library.db, job.shoot_id):
            shoots.add_refusal(self.library.db, job.shoot_id, _shown(self._path(item)), message)

    def finish(self, job: jobs.Job) -> str:
        return f"{job.done} of {job.total} files were brought in from {job.options.get('folder', 'the folder')}."


def _shown(path: Path) -> str:
    return shown_name(path.name)[-200:] or "unnamed"

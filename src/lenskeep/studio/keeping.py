"""Keeping a library safe: a copy of what can't be made again, brought back from it, and a look at whether all is well.

A copy holds the database, the originals and the assets of recipes. Masks and finished pictures are made again.
"""

import json
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

from lenskeep.core.problems import UserProblem
from lenskeep.files.written import DRAFTS, copy_faithfully, sum_of, write_whole, written_whole
from lenskeep.store import deliveries, finished, frames, health, jobs, recipes, references, shoots
from lenskeep.store.database import copy_database
from lenskeep.store.moves import asset_file
from lenskeep.store.recipes import KINDS
from lenskeep.studio import find as finding
from lenskeep.studio import looks
from lenskeep.studio.hand_over import deliver
from lenskeep.studio.library import Library
from lenskeep.studio.space import check_room

MARK = "lens-keep-backup.json"
Say = Callable[[str], None]


@dataclass
class Report:
    """What ``verify`` has found: how much was looked at, and what is wrong, in words."""

    originals: int = 0
    assets: int = 0
    frames: int = 0
    wrong: list[str] = field(default_factory=list)
    left_over: int = 0


def backup(library: Library, folder: Path, say: Say = lambda _: None) -> int:
    """Copy the database, and every original and asset that the copy lacks; returns how many originals were copied.
    Raises UserProblem.
    """
    folder = folder.expanduser().resolve()
    if library.holds(folder):
        raise UserProblem("Choose a folder outside of the library, best on another disk.")
    if folder.is_dir() and any(folder.iterdir()) and not (folder / MARK).is_file():
        raise UserProblem(f"{folder} holds other things. Choose an empty folder, or one with an earlier backup.")
    _ = library.db
    try:
        folder.mkdir(parents=True, exist_ok=True)
        write_whole(folder / MARK, json.dumps({"format": "lenskeep-backup/1"}).encode())
        copied = 0
        with written_whole(folder / "library.sqlite") as draft:  # takes the place of the last one when all is there
            library.db.copy_to(draft)
            wanted = references.originals_in(draft)
            todo = [w for w in wanted if not _same(library.original(*w[:2]), Library(folder).original(*w[:2]))]
            present = [w for w in todo if library.original(*w[:2]).is_file()]
            check_room(folder, sum(library.original(*w[:2]).stat().st_size for w in present), "the backup")
            for sha256, suffix, name in todo:
                _copy(library.original(sha256, suffix), Library(folder).original(sha256, suffix), sha256, name)
                copied += 1
                say(f"{copied} of {len(todo)} originals copied")
            _copy_assets(draft, library.home, folder, say)
    except OSError as error:
        raise UserProblem(f"{folder} can't be written to: {error.strerror or error}.") from error
    return copied


def restore(folder: Path, library: Library, say: Say = lambda _: None) -> int:
    """Bring a library back from a copy, where there is none yet; queues finding masks and rendering the looks. Returns
    the number of originals. Raises UserProblem.
    """
    folder = folder.expanduser().resolve()
    if not (folder / MARK).is_file() or not (folder / "library.sqlite").is_file():
        raise UserProblem(f"{folder} is not a backup that 'lenskeep backup' has made to its end.")
    if (library.home / "library.sqlite").exists():
        raise UserProblem(
            f"There is a library at {library.home} already. Move it aside, or choose another place with LENSKEEP_HOME."
        )
    source = Library(folder)
    try:
        library.home.mkdir(parents=True, exist_ok=True)
        with written_whole(library.home / "library.sqlite") as draft:
            copy_database(folder / "library.sqlite", draft)
            wanted = references.originals_in(draft)
            sizes = (source.original(*w[:2]) for w in wanted)
            check_room(library.home, sum(p.stat().st_size for p in sizes if p.is_file()), "bringing the library back")
            for count, (sha256, suffix, name) in enumerate(wanted, 1):
                target = library.original(sha256, suffix)
                if not target.is_file():
                    _copy(source.original(sha256, suffix), target, sha256, name)
                say(f"{count} of {len(wanted)} originals brought back")
            _copy_assets(draft, source.home, library.home, say)
    except OSError as error:
        raise UserProblem(f"{library.home} can't be written to: {error.strerror or error}.") from error
    for shoot in shoots.shoots(library.db):
        look = looks.look_of_shoot(library, shoot.id)
        finished.drop_results(library.db, shoot.id)
        finding.queue_finding(library, shoot.id)
        if look is not None and not look.unreadable:
            looks.give_look(library, shoot.id, look.version.id, look.strength)
    return len(wanted)


def _copy_assets(database: Path, source: Path, target: Path, say: Say) -> None:
    """Copy what recipes refer to. What is lost already is said and left out: it keeps nobody's photographs waiting."""
    for key in references.assets_in(database):
        there, copy = asset_file(source, key), asset_file(target, key)
        if copy.is_file() and sum_of(copy) == key:
            continue
        if not there.is_file() or not copy_faithfully(there, copy, key):
            say(f"A picture or table of a recipe is gone or was altered, and was left out ({there}).")


def _same(source: Path, copy: Path) -> bool:
    """Whether the copy is there; originals never change, and the name is the sum."""
    return copy.is_file() and (not source.is_file() or source.stat().st_size == copy.stat().st_size)


def _copy(source: Path, target: Path, sha256: str, name: str) -> None:
    if not source.is_file():
        raise UserProblem(f"The original of {name} is gone ({source}). Everything before it was copied.")
    if not copy_faithfully(source, target, sha256):
        raise UserProblem(f"The original of {name} was altered ({source}). Everything before it was copied.")


def verify(library: Library, say: Say = lambda _: None) -> Report:
    """Look through the whole library: database, originals and assets by their sums, recipes, masks, hand-overs,
    leftovers.
    """
    report = Report()
    report.wrong += health.faults(library.db)
    known = references.originals(library.db)
    for sha256, suffix, name in known:
        path = library.original(sha256, suffix)
        if not path.is_file():
            report.wrong.append(f"The original of {name} is gone. Bring it in again.")
        elif sum_of(path) != sha256:
            report.wrong.append(f"The original of {name} was altered. Bring it in again.")
        report.originals += 1
        if report.originals % 100 == 0:
            say(f"{report.originals} of {len(known)} originals looked at")
    for key in references.assets_in(library.db.path):
        path = asset_file(library.home, key)
        report.assets += 1
        if not path.is_file() or sum_of(path) != key:
            how = "was altered" if path.is_file() else "is gone"
            report.wrong.append(f"A picture or table of a recipe {how} ({path}). Bring it back from a backup.")
    for version in recipes.versions(library.db, None, *KINDS):
        if version.unreadable:
            report.wrong.append(f"{version.name}, version {version.version}: {version.unreadable}")
    for shoot in shoots.shoots(library.db):
        for frame in frames.frames(library.db, shoot.id):
            report.frames += 1
            if frame.spoilt:
                report.wrong.append(f"{shoot.name}, {frame.file_name}: what was changed by hand on it can't be read.")
            if frame.facts is not None and not library.computed(frame.content, frame.found_by).holds(frame.found_facts):
                report.wrong.append(f"{shoot.name}, {frame.file_name}: masks are gone. Find them again on the wall.")
    report.wrong += _broken_deliveries(library)
    names = {sha256 for sha256, _, _ in known}
    originals = [p for p in (library.home / "originals").glob("*/*") if p.name[:64] not in names]
    report.left_over = len(originals) + len(list(library.home.rglob(DRAFTS)))
    return report


def _broken_deliveries(library: Library) -> list[str]:
    out = []
    for job in jobs.jobs(library.db, limit=1000):
        if job.kind == deliver.KIND and job.state == "done" and not job.options.get("folder"):
            folder, made = deliver.folder_of(library, job), deliveries.delivered(library.db, job.id)
            broken = sum(not (folder / m.name).is_file() or sum_of(folder / m.name) != m.sha256 for m in made)
            if broken:
                out.append(f"The hand-over of {job.created_at[:10]} lacks {broken} of its files. Hand over once more.")
    return out

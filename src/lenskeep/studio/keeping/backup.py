"""A copy of a library: the database first, then whatever of its files the copy lacks."""

import json
from pathlib import Path

from lenskeep.core.problems import UserProblem
from lenskeep.files.written import copy_faithfully, holds, sum_of, write_whole, written_whole
from lenskeep.store import frames, references, shoots
from lenskeep.store.moves import asset_file
from lenskeep.store.salvage import damages, salvage
from lenskeep.studio.keeping.copies import Copied, Say, copied_well, copy_original
from lenskeep.studio.library import Library
from lenskeep.studio.space import check_room

MARK = "lens-keep-backup.json"
DATABASE, BEFORE = "library.sqlite", "library.before.sqlite"
SUMS = "computed.json"
"""The sums of the masks and working pictures that a copy holds, by their paths."""


def backup(library: Library, folder: Path, say: Say = lambda _: None) -> Copied:
    """Copy the database; then every original, asset and mask that the copy lacks or holds badly. What can't be copied
    is passed over and told. Nothing is written to the library. Raises UserProblem.
    """
    folder = folder.expanduser().resolve()
    if library.holds(folder):
        raise UserProblem("Choose a folder outside of the library, best on another disk.")
    if folder.is_dir() and any(folder.iterdir()) and not (folder / MARK).is_file():
        raise UserProblem(f"{folder} holds other things. Choose an empty folder, or one with an earlier backup.")
    _ = library.db
    done = Copied()
    try:
        folder.mkdir(parents=True, exist_ok=True)
        write_whole(folder / MARK, json.dumps({"format": "lenskeep-backup/1"}).encode())
        _copy_database(library, folder, done)
        _copy_originals(library, Library(folder), done, say)
        copy_assets(folder / DATABASE, library.home, folder, done)
        _copy_computed(library, folder, say)
    except OSError as error:
        raise UserProblem(f"{folder} can't be written to: {error.strerror or error}.") from error
    return done


def _copy_database(library: Library, folder: Path, done: Copied) -> None:
    """The last copy of it stays beside the new one. What is damaged is mended as far as it can be read."""
    with written_whole(folder / DATABASE) as draft:
        library.db.copy_to(draft)
        if damages(draft):
            whole = draft.with_name(f"{draft.name[:20]}.whole.part")
            whole.unlink(missing_ok=True)
            try:
                lost = salvage(draft, whole)
                whole.replace(draft)
            finally:
                whole.unlink(missing_ok=True)
            done.wrong.append(f"The library's database is damaged; what can be read of it was copied. {' '.join(lost)}")
        if (folder / DATABASE).is_file():
            (folder / DATABASE).replace(folder / BEFORE)


def _copy_originals(library: Library, copy: Library, done: Copied, say: Say) -> None:
    todo = []
    for sha256, suffix, name in references.originals_in(copy.home / DATABASE):
        source = library.original(sha256, suffix)
        if not holds(copy.original(sha256, suffix), sha256):
            todo.append((sha256, suffix, name, source.stat().st_size if source.is_file() else 0))
    check_room(copy.home, sum(size for *_, size in todo), "the backup")
    for count, (sha256, suffix, name, _) in enumerate(todo, 1):
        copy_original(library, copy, sha256, suffix, name, done)
        say(f"{count} of {len(todo)} originals copied")


def copy_assets(database: Path, source: Path, target: Path, done: Copied) -> None:
    """Copy what recipes refer to."""
    for key in references.assets_in(database):
        how = copied_well(asset_file(source, key), asset_file(target, key), key)
        if how:
            done.wrong.append(f"A picture or table of a recipe {how} ({asset_file(source, key)}). It was left out.")


def _copy_computed(library: Library, folder: Path, say: Say) -> None:
    """The masks that frames have, and the pictures beside them. What is gone is found again, and not told."""
    before, sums = sums_in(folder).keys(), dict[str, str]()
    for shoot in shoots.shoots(library.db):
        for frame in frames.summaries(library.db, shoot.id):
            computed = library.computed(frame.content, frame.found_by)
            for path in computed.held() if frame.found else ():
                name = str(path.relative_to(library.home))
                if sha256 := _copy_one(path, folder / name):
                    sums[name] = sha256
    write_whole(folder / SUMS, json.dumps(sums).encode())
    for name in before - sums.keys():
        (folder / name).unlink(missing_ok=True)
    if sums:
        say(f"Masks and working pictures are there too: {len(sums):,} files.")


def _copy_one(source: Path, target: Path) -> str:
    """Returns the sum; "" where it is gone or another by now, since the library is in use: it is found again."""
    try:
        sha256 = sum_of(source)
        return sha256 if holds(target, sha256) or copy_faithfully(source, target, sha256) else ""
    except FileNotFoundError:
        return ""


def sums_in(folder: Path) -> dict[str, str]:
    """What a copy says of its masks; nothing where it was made before there were any in it, or that is damaged."""
    try:
        held = json.loads((folder / SUMS).read_bytes())
    except (OSError, ValueError, RecursionError):
        return {}
    return {str(k): str(v) for k, v in held.items() if _ours(str(k))} if isinstance(held, dict) else {}


def _ours(name: str) -> bool:
    """Whether a path may be one of a library's masks."""
    parts = Path(name).parts
    return len(parts) == 4 and parts[0] == "computed" and ".." not in parts

"""Bringing in a shoot: files and ZIPs into the library, each checked, none altered, the bad ones listed."""

import os
from collections.abc import Iterable
from dataclasses import dataclass, field
from pathlib import Path

from lenskeep.core.names import shown_name
from lenskeep.core.problems import UserProblem
from lenskeep.files.archive import is_zip, unpack_photos
from lenskeep.files.problems import PhotoProblem, no_room
from lenskeep.files.written import copy_faithfully, holds
from lenskeep.store import arrivals, shoots
from lenskeep.studio import find as finding
from lenskeep.studio import untrusted
from lenskeep.studio.library import Library
from lenskeep.studio.space import FOUND_BYTES, check_room

_SIDECARS = {".xmp", ".thm", ".ini", ".db", ".txt~", ".ds_store"}


@dataclass
class Received:
    """What became of some files: ids of new frames, names that were there already, and (name, reason) of the rest."""

    frame_ids: list[int] = field(default_factory=list)
    known: list[str] = field(default_factory=list)
    refused: list[tuple[str, str]] = field(default_factory=list)

    def extend(self, other: "Received") -> None:
        self.frame_ids += other.frame_ids
        self.known += other.known
        self.refused += other.refused


def checked_shoot_name(name: str) -> str:
    """Raises UserProblem for a name that is empty, overlong or of nothing that could be seen."""
    name = shown_name(name)
    if not 1 <= len(name) <= 120:
        raise UserProblem("Give the shoot a name of 1 to 120 characters.")
    return name


def create_shoot(library: Library, name: str) -> int:
    """A new, empty shoot. Raises UserProblem for a bad name."""
    return shoots.add_shoot(library.db, checked_shoot_name(name))


def receive(library: Library, shoot_id: int, path: Path, name: str, sha256: str = "", ours: bool = False) -> Received:
    """Take one file, photograph or ZIP, into a shoot, and queue finding its masks. Never raises for what is in the
    file: it is listed instead. ``sha256`` is its sum where it is known; a file that is ``ours`` may be moved.
    """
    name = shown_name(name)[-200:] or "unnamed"
    if is_zip(path):
        return _receive_zip(library, shoot_id, path, name)
    received = Received()
    try:
        frame_id = _receive_photo(library, shoot_id, path, name, sha256, ours)
    except UserProblem as problem:
        _refuse(library, shoot_id, received, name, str(problem))
    except OSError as error:
        _refuse(library, shoot_id, received, name, f"{name} can't be read: {error.strerror or error}. Try it again.")
    else:
        if frame_id is None:
            received.known.append(name)
        else:
            received.frame_ids.append(frame_id)
    return received


def _refuse(library: Library, shoot_id: int, received: Received, name: str, reason: str) -> None:
    received.refused.append((name, reason))
    shoots.add_refusal(library.db, shoot_id, name, reason)


def receive_folder(library: Library, shoot_id: int, folder: Path) -> Received:
    """Take every file of a folder and its subfolders, hidden ones and sidecars left out."""
    received = Received()
    for path in photo_paths(folder):
        received.extend(receive(library, shoot_id, path, path.name))
    return received


def photo_paths(folder: Path) -> Iterable[Path]:
    """Files of a folder that are worth a try, in order of name."""
    for path in sorted(folder.rglob("*")):
        hidden = any(part.startswith(".") for part in path.relative_to(folder).parts)
        if path.is_file() and not hidden and path.suffix.lower() not in _SIDECARS:
            yield path


def _receive_zip(library: Library, shoot_id: int, path: Path, name: str) -> Received:
    received = Received()
    with library.scratch() as scratch:
        try:
            for inner, unpacked, reason in unpack_photos(path, scratch):
                if unpacked is None:
                    _refuse(library, shoot_id, received, inner, reason)
                    continue
                received.extend(_receive_inner(library, shoot_id, unpacked, inner))
                unpacked.unlink(missing_ok=True)
        except UserProblem as problem:
            _refuse(library, shoot_id, received, name, str(problem))
        except OSError as error:
            why = "the disk is full. Make room" if no_room(error) else f"{error.strerror or error}. See to that"
            reason = f"{name} was not unpacked to its end: {why} and bring it in again."
            _refuse(library, shoot_id, received, name, reason)
    return received


def _receive_inner(library: Library, shoot_id: int, path: Path, name: str) -> Received:
    """A file out of a ZIP; a ZIP inside a ZIP is not opened."""
    if is_zip(path):
        received = Received()
        _refuse(library, shoot_id, received, name, f"{name} is a ZIP inside a ZIP. Unpack it first.")
        return received
    return receive(library, shoot_id, path, name, ours=True)


def _receive_photo(library: Library, shoot_id: int, path: Path, name: str, sha256: str, ours: bool) -> int | None:
    shoot = shoots.shoot(library.db, shoot_id)
    if shoot is None:
        raise UserProblem("This shoot is no longer in the library.")
    check_room(library.home, (0 if ours else path.stat().st_size) + FOUND_BYTES, f"bringing in {name}")
    seen = untrusted.examined(library, path, name, shoot.raw_base, sha256)
    with library.placing():
        target = library.original(seen.sha256, seen.suffix)
        if ours:
            moved(path, target, seen.sha256)
        else:
            copied(path, target, seen.sha256, name)
        with library.db.writing(durable=True):
            frame_id = arrivals.add_seen(library.db, shoot_id, name, seen)
            if frame_id is not None:
                finding.queue_new(library, shoot_id, [frame_id])
            return frame_id


def moved(path: Path, target: Path, sha256: str) -> None:
    """Put a file that is ours in its place, whole and write-protected; one that is there already stays, unless it was
    altered.
    """
    if _there(target, sha256):
        return
    with path.open("rb") as handle:
        os.fsync(handle.fileno())
    path.chmod(0o444)
    target.parent.mkdir(parents=True, exist_ok=True)
    path.replace(target)


def _there(target: Path, sha256: str) -> bool:
    """Whether an original is in its place as it came. It is young from now on: somebody is about to write it down."""
    if not holds(target, sha256):
        return False
    os.utime(target)
    return True


def copied(path: Path, target: Path, sha256: str, name: str) -> None:
    """Copy an original, whole and faithful or not at all; one that is there already stays, unless it was altered.
    Raises PhotoProblem.
    """
    if _there(target, sha256):
        return
    try:
        if not copy_faithfully(path, target, sha256):
            raise PhotoProblem(f"{name} changed while it was copied. Bring it in again.")
    except OSError as error:
        if no_room(error):
            raise PhotoProblem(f"{name} was left out: the disk is full. Make room and bring it in again.") from error
        raise

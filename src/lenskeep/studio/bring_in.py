"""Bringing in a shoot: files and ZIPs into the library, each checked, none altered, the bad ones listed."""

import hashlib
import shutil
import tempfile
from collections.abc import Iterable
from dataclasses import dataclass, field
from pathlib import Path

from lenskeep.files.archive import free_space, is_zip, unpack_photos
from lenskeep.files.photo import FORMATS, read_photo
from lenskeep.files.problems import ArchiveProblem, PhotoProblem
from lenskeep.files.written import written_whole
from lenskeep.store import frames, shoots
from lenskeep.studio import tasks
from lenskeep.studio.library import Library

SPARE_BYTES = 500_000_000
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


def create_shoot(library: Library, name: str) -> int:
    """A new, empty shoot. Raises ValueError for an empty or overlong name."""
    name = " ".join(name.split())
    if not 1 <= len(name) <= 120:
        raise ValueError("Give the shoot a name of 1 to 120 characters.")
    return shoots.add_shoot(library.db, name)


def receive(library: Library, shoot_id: int, path: Path, name: str) -> Received:
    """Take one file, photograph or ZIP, into a shoot. Never raises for what is in the file: it is listed instead."""
    if is_zip(path):
        return _receive_zip(library, shoot_id, path, name)
    received = Received()
    try:
        frame_id = _receive_photo(library, shoot_id, path, name)
    except PhotoProblem as problem:
        received.refused.append((name, str(problem)))
        shoots.add_refusal(library.db, shoot_id, name, str(problem))
    else:
        if frame_id is None:
            received.known.append(name)
        else:
            received.frame_ids.append(frame_id)
    return received


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
    with tempfile.TemporaryDirectory(dir=library.incoming()) as scratch:
        try:
            for inner, unpacked, reason in unpack_photos(path, Path(scratch)):
                if unpacked is None:
                    received.refused.append((inner, reason))
                    shoots.add_refusal(library.db, shoot_id, inner, reason)
                    continue
                received.extend(receive_inner(library, shoot_id, unpacked, inner))
                unpacked.unlink(missing_ok=True)
        except ArchiveProblem as problem:
            received.refused.append((name, str(problem)))
            shoots.add_refusal(library.db, shoot_id, name, str(problem))
    return received


def receive_inner(library: Library, shoot_id: int, path: Path, name: str) -> Received:
    """A file out of a ZIP; a ZIP inside a ZIP is not opened."""
    if is_zip(path):
        reason = f"{name} is a ZIP inside a ZIP. Unpack it first."
        shoots.add_refusal(library.db, shoot_id, name, reason)
        return Received(refused=[(name, reason)])
    return receive(library, shoot_id, path, name)


def _receive_photo(library: Library, shoot_id: int, path: Path, name: str) -> int | None:
    shoot = shoots.shoot(library.db, shoot_id)
    photo = read_photo(
        path, name, shoot.raw_base if shoot else "soft"
    )  # reads every pixel, so that a truncated file is found now
    size = path.stat().st_size
    if free_space(library.home) < size + SPARE_BYTES:
        raise PhotoProblem(f"{name} was left out: the disk is nearly full. Make room and bring it in again.")
    sha256, suffix = _hash(path), FORMATS.get(photo.format) or Path(name).suffix.lower()
    target = library.original(sha256, suffix)
    if not target.exists():
        with written_whole(target) as draft:
            shutil.copyfile(path, draft)
            if _hash(draft) != sha256:
                raise PhotoProblem(f"{name} could not be copied faithfully. Bring it in again.")
        target.chmod(0o444)
    tasks.write_thumb(library.computed(frames.content_of(sha256, photo.base)), photo)
    return frames.add_frame(
        library.db,
        shoot_id,
        file_name=name,
        sha256=sha256,
        suffix=suffix,
        size=size,
        width=photo.width,
        height=photo.height,
        taken_at=photo.taken.isoformat() if photo.taken else None,
        base=photo.base,
    )


def _hash(path: Path) -> str:
    with path.open("rb") as handle:
        return hashlib.file_digest(handle, "sha256").hexdigest()

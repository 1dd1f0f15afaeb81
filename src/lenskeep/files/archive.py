"""ZIP archives in and out. What comes in is bounded in number and size, and no name leaves the target folder."""

import shutil
import zipfile
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path, PurePosixPath
from stat import S_IFREG

from stream_zip import NO_COMPRESSION_32, NO_COMPRESSION_64, stream_zip

from lenskeep.files.problems import ArchiveProblem, no_room

MOST_FILES = 50_000
MOST_FILE_BYTES = 700_000_000
MOST_TOTAL_BYTES = 1_000_000_000_000
MOST_RATIO = 60.0
"""Unpacked over packed size of one entry; photographs hardly shrink, so more than this is a trap."""
MOST_LIST_BYTES = 20_000_000
"""Of the list of contents at a ZIP's end; it is read whole before anything else."""
_CHUNK = 1 << 20
_OPENED = (zipfile.BadZipFile, OSError, RuntimeError, ValueError, MemoryError, NotImplementedError)
DAMAGED = "This ZIP is damaged or no ZIP at all. Pack it again and retry."


def unpack_photos(archive: Path, into: Path) -> Iterator[tuple[str, Path | None, str]]:
    """Unpack one file at a time into ``into`` (flat, numbered names).

    Yields (name in the archive, path or None, reason why not). Folders, hidden files and system leftovers are passed
    over in silence. Raises ArchiveProblem when the archive as a whole can't be used, OSError when the disk is full.
    """
    try:
        if _list_bytes(archive) > MOST_LIST_BYTES:
            raise ArchiveProblem(f"This ZIP holds more than the {MOST_FILES:,} files that are taken at once.")
        bundle = zipfile.ZipFile(archive)
    except ArchiveProblem:
        raise
    except Exception as error:  # whatever its list of contents makes the reader stumble over
        raise ArchiveProblem(DAMAGED) from error
    with bundle:
        entries = [e for e in bundle.infolist() if not e.filename.endswith("/") and not _leftover(e.filename)]
        if len(entries) > MOST_FILES:
            raise ArchiveProblem(f"This ZIP holds {len(entries):,} files; at most {MOST_FILES:,} are taken at once.")
        if _overlap(bundle.infolist()):
            raise ArchiveProblem(DAMAGED)
        total = 0
        for number, entry in enumerate(entries):
            name = PurePosixPath(entry.filename.replace("\\", "/")).name or f"file {number + 1}"
            reason = _refusal(entry)
            if reason:
                yield name, None, reason
                continue
            total += entry.file_size
            if total > MOST_TOTAL_BYTES:
                raise ArchiveProblem("This ZIP unpacks to more than 1 TB. Bring it in in parts.")
            yield name, *_extract(bundle, entry, into / f"{number:05d}")


def _overlap(entries: list[zipfile.ZipInfo]) -> bool:
    """Whether entries share bytes, as no program packs them: a small file then unpacks to endless work."""
    end = 0
    for entry in sorted(entries, key=lambda e: e.header_offset):
        if entry.header_offset < end:
            return True
        end = entry.header_offset + 30 + len(entry.filename.encode("utf-8", "replace")) + entry.compress_size
    return False


def _list_bytes(archive: Path) -> int:
    """The size of a ZIP's list of contents, as its end says (APPNOTE 4.3.16 and 4.3.14); 0 when there is no end."""
    with archive.open("rb") as handle:
        size = handle.seek(0, 2)
        handle.seek(max(0, size - 66_000))
        tail = handle.read()
    at = tail.rfind(b"PK\x05\x06")
    if at < 0 or len(tail) < at + 22:
        return 0
    claimed = int.from_bytes(tail[at + 12 : at + 16], "little")
    wide = tail.rfind(b"PK\x06\x06", 0, at)
    if claimed == 0xFFFFFFFF and 0 <= wide <= len(tail) - 48:
        claimed = int.from_bytes(tail[wide + 40 : wide + 48], "little")
    return min(claimed, size)


def _extract(bundle: zipfile.ZipFile, entry: zipfile.ZipInfo, target: Path) -> tuple[Path | None, str]:
    written = 0
    try:
        with bundle.open(entry) as source, target.open("wb") as sink:
            while chunk := source.read(_CHUNK):
                written += len(chunk)
                if written > entry.file_size:
                    raise zipfile.BadZipFile("larger than it says")
                sink.write(chunk)
    except Exception as error:  # decoders of every kind raise errors of every kind; the file is listed with words
        target.unlink(missing_ok=True)
        if no_room(error):
            raise
        locked = isinstance(error, RuntimeError) and "password" in str(error).lower()
        why = "is locked with a password" if locked else "is damaged inside the ZIP"
        return None, f"It {why}. Pack it again and retry."
    return target, ""


def _refusal(entry: zipfile.ZipInfo) -> str:
    path = PurePosixPath(entry.filename.replace("\\", "/"))
    if path.is_absolute() or ".." in path.parts or (path.parts and path.parts[0].endswith(":")):
        return "Its name points outside the ZIP, so it was left out."
    if entry.file_size > MOST_FILE_BYTES:
        return f"It unpacks to {entry.file_size / 1e6:,.0f} MB, more than a photograph has."
    if entry.file_size > 10_000_000 and entry.file_size > MOST_RATIO * max(entry.compress_size, 1):
        return "It unpacks to far more than it holds, as no photograph does, so it was left out."
    return ""


def _leftover(name: str) -> bool:
    parts = PurePosixPath(name.replace("\\", "/")).parts
    return any(p == "__MACOSX" or (p.startswith(".") and p != "..") for p in parts)


@dataclass(frozen=True)
class Packed:
    """A file to pack: its name in the ZIP, where it lies, its size and CRC-32, and the time it is given."""

    name: str
    path: Path
    bytes: int
    crc32: int
    at: datetime


def zip_stream(files: list[Packed]) -> Iterator[bytes]:
    """The bytes of a ZIP, stored without squeezing (JPEGs don't shrink), made as they are read: no second copy.

    Raises when a file is not what its size and sum say.
    """
    how = NO_COMPRESSION_64 if zip_bytes(files) is None else NO_COMPRESSION_32
    members = ((f.name, f.at, S_IFREG | 0o644, how(f.bytes, f.crc32), _chunks(f.path)) for f in files)
    return iter(stream_zip(members, chunk_size=_CHUNK, extended_timestamps=False))


def zip_bytes(files: list[Packed]) -> int | None:
    """How long ``zip_stream`` will be, so that a download can tell how far it is; None when it needs ZIP64."""
    total = sum(f.bytes + 30 + 46 + 2 * len(f.name.encode()) for f in files) + 22
    return total if total < 0xFFFF0000 and len(files) < 0xFFFF else None


def _chunks(path: Path) -> Iterator[bytes]:
    with path.open("rb") as handle:
        while chunk := handle.read(_CHUNK):
            yield chunk


def is_zip(path: Path) -> bool:
    """Whether the file is a ZIP by its content."""
    try:
        return zipfile.is_zipfile(path)
    except _OPENED:
        return False


def free_space(folder: Path) -> int:
    """Bytes free where ``folder`` lies, or would lie if it were made."""
    return shutil.disk_usage(nearest_there(folder)).free


def nearest_there(folder: Path) -> Path:
    """A folder, or the nearest one above it that is there."""
    while not folder.exists() and folder != folder.parent:
        folder = folder.parent
    return folder

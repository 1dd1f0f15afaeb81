"""ZIP archives in and out. What comes in is bounded in number and size, and no name leaves the target folder."""

import shutil
import zipfile
from collections.abc import Iterator
from pathlib import Path, PurePosixPath

from lenskeep.files.problems import ArchiveProblem
from lenskeep.files.written import written_whole

MOST_FILES = 5_000
MOST_FILE_BYTES = 700_000_000
MOST_TOTAL_BYTES = 40_000_000_000
MOST_RATIO = 60.0
"""Unpacked over packed size of one entry; photographs hardly shrink, so more than this is a trap."""
_CHUNK = 1 << 20


def unpack_photos(archive: Path, into: Path) -> Iterator[tuple[str, Path | None, str]]:
    """Unpack one file at a time into ``into`` (flat, numbered names).

    Yields (name in the archive, path or None, reason why not). Folders, hidden files and system leftovers are passed
    over in silence. Raises ArchiveProblem when the archive as a whole can't be used.
    """
    try:
        bundle = zipfile.ZipFile(archive)
    except (zipfile.BadZipFile, OSError) as error:
        raise ArchiveProblem("This ZIP is damaged or no ZIP at all. Pack it again and retry.") from error
    with bundle:
        entries = [e for e in bundle.infolist() if not e.is_dir() and not _leftover(e.filename)]
        if len(entries) > MOST_FILES:
            raise ArchiveProblem(f"This ZIP holds {len(entries):,} files; at most {MOST_FILES:,} are taken at once.")
        total = 0
        for number, entry in enumerate(entries):
            name = PurePosixPath(entry.filename.replace("\\", "/")).name
            reason = _refusal(entry)
            if reason:
                yield name, None, reason
                continue
            total += entry.file_size
            if total > MOST_TOTAL_BYTES:
                raise ArchiveProblem("This ZIP unpacks to more than 40 GB. Bring it in in parts.")
            target = into / f"{number:05d}{PurePosixPath(name).suffix.lower()[:6]}"
            yield name, *_extract(bundle, entry, target)


def _extract(bundle: zipfile.ZipFile, entry: zipfile.ZipInfo, target: Path) -> tuple[Path | None, str]:
    written = 0
    try:
        with bundle.open(entry) as source, target.open("wb") as sink:
            while chunk := source.read(_CHUNK):
                written += len(chunk)
                if written > entry.file_size:
                    raise zipfile.BadZipFile("larger than it says")
                sink.write(chunk)
    except (zipfile.BadZipFile, OSError, EOFError, RuntimeError, NotImplementedError) as error:
        target.unlink(missing_ok=True)
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


def pack(files: list[tuple[str, Path]], target: Path) -> None:
    """A ZIP of (name, path), stored without squeezing (JPEGs don't shrink), whole or not at all."""
    with written_whole(target) as draft, zipfile.ZipFile(draft, "w", zipfile.ZIP_STORED) as bundle:
        for name, path in files:
            bundle.write(path, name)


def is_zip(path: Path) -> bool:
    """Whether the file is a ZIP by its content."""
    return zipfile.is_zipfile(path)


def free_space(folder: Path) -> int:
    """Bytes free where ``folder`` lies."""
    return shutil.disk_usage(folder).free

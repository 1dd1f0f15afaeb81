"""Files written whole or not at all: to a temporary neighbour first, then renamed over."""

import errno
import fcntl
import hashlib
import os
import uuid
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

import imagecodecs

_CHUNK = 1 << 20
DRAFTS = ".*.part"
"""What drafts are called, for whoever sweeps."""


def _draft_beside(path: Path) -> Path:
    # short, since the path's own name may be as long as can be
    return path.with_name(f".{uuid.uuid4().hex}.part")


@contextmanager
def _drafted(path: Path) -> Iterator[Path]:
    """An empty draft beside ``path``, locked for as long as it is written to, so that whoever sweeps knows what a kill
    has left behind; it is gone at the end, unless it was renamed.
    """
    path.parent.mkdir(parents=True, exist_ok=True)
    draft = _draft_beside(path)
    try:
        with draft.open("wb") as handle:
            with suppress(OSError):  # a disk without locks, such as some networks' shares
                fcntl.flock(handle, fcntl.LOCK_EX)
            yield draft
    finally:
        draft.unlink(missing_ok=True)


def drop_abandoned(draft: Path) -> bool:
    """Remove a draft that nobody writes to any more; False where somebody does."""
    try:
        with draft.open("rb") as handle:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
            draft.unlink(missing_ok=True)
    except FileNotFoundError:
        return True
    except OSError:
        return False
    return True


@contextmanager
def written_whole(path: Path) -> Iterator[Path]:
    """A path to write to; it becomes ``path`` when the block ends well and vanishes when it doesn't."""
    with _drafted(path) as draft:
        yield draft
        _to_disk(draft)
        draft.replace(path)


def write_whole(path: Path, data: bytes) -> None:
    """Write bytes whole or not at all."""
    with written_whole(path) as draft:
        draft.write_bytes(data)


def sum_of(path: Path) -> str:
    """The SHA-256 of a file, in hex."""
    with path.open("rb") as handle:
        return hashlib.file_digest(handle, "sha256").hexdigest()


def crc_of(data: bytes) -> int:
    """The CRC-32 of some bytes, as ZIP and PNG use it; ten times as fast as Python's own."""
    return int(imagecodecs.deflate_crc32(data))


def write_beside(path: Path, data: bytes, ours: str | None = None) -> Path:
    """Write bytes whole or not at all, and replace nothing that is not ours: where ``path`` is taken, NAME-2 etc.

    ``ours`` is the sum of what we ourselves last wrote at ``path``; what still has it may be replaced. A file that
    holds the same bytes already is left as it is. Returns where the bytes are now.
    """
    for number in range(1, 10_000):
        target = path if number == 1 else numbered(path, number)
        if _put(data, target):
            return target
        if target.is_file() and not target.is_symlink():
            there = sum_of(target)
            if there == hashlib.sha256(data).hexdigest():
                return target
            if number == 1 and there == ours:
                write_whole(target, data)
                return target
    raise FileExistsError(errno.EEXIST, "every name like this is taken", str(path))


def _put(data: bytes, target: Path) -> bool:
    """Write a new file whole or not at all; False when something of its name is there."""
    if target.exists() or target.is_symlink():
        return False
    with _drafted(target) as draft:
        draft.write_bytes(data)
        _to_disk(draft)
        try:
            os.link(draft, target)  # fails when somebody was quicker
        except FileExistsError:
            return False
        except OSError:  # a disk without hard links, such as a camera's card
            if target.exists():
                return False
            draft.replace(target)
        return True


def _to_disk(path: Path) -> None:
    with path.open("rb") as handle:
        os.fsync(handle.fileno())


def check_writable(folder: Path) -> None:
    """Raises OSError when no file can be made in a folder."""
    draft = _draft_beside(folder / "x")
    draft.write_bytes(b"")
    draft.unlink(missing_ok=True)  # a hand-over that begins there clears what others left


def copy_faithfully(source: Path, target: Path, sha256: str) -> bool:
    """Copy a file, whole or not at all, write-protected; False, and nothing is written, when its sum is another one."""
    digest = hashlib.sha256()
    with _drafted(target) as draft:
        with source.open("rb") as reading, draft.open("wb") as writing:
            while chunk := reading.read(_CHUNK):
                digest.update(chunk)
                writing.write(chunk)
        if digest.hexdigest() != sha256:
            return False
        _to_disk(draft)
        draft.chmod(0o444)
        draft.replace(target)
        return True


def holds(path: Path, sha256: str) -> bool:
    """Whether a file is there, can be read, and has this sum."""
    try:
        return path.is_file() and sum_of(path) == sha256
    except OSError:
        return False


def numbered(path: Path, number: int) -> Path:
    """NAME-2.jpg for NAME.jpg."""
    return path.with_name(f"{path.stem}-{number}{path.suffix}")

"""Copying files that are named by their sums, each by itself: a bad one keeps none of the others waiting."""

from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

from lenskeep.files.problems import no_room
from lenskeep.files.written import copy_faithfully, holds
from lenskeep.studio.library import Library

Say = Callable[[str], None]


@dataclass
class Copied:
    """How many originals were copied, and what could not be, in words."""

    originals: int = 0
    wrong: list[str] = field(default_factory=list)


def copied_well(source: Path, target: Path, sha256: str) -> str:
    """Have a faithful copy at ``target``; returns "" or what is wrong with the source: "is gone", "was altered" or
    "can't be read". A copy that is faithful already stays; a bad one is replaced. Raises OSError where the target can't
    be written to.
    """
    if holds(target, sha256):
        return ""
    if not source.is_file():
        return "is gone"
    try:
        return "" if copy_faithfully(source, target, sha256) else "was altered"
    except OSError as error:
        if no_room(error) or _readable(source):
            raise
        return "can't be read"


def copy_original(source: Library, target: Library, sha256: str, suffix: str, name: str, done: Copied) -> None:
    """From one library's folder to another's; what is wrong with it is told. Raises OSError as ``copied_well`` does."""
    path = source.original(sha256, suffix)
    how = copied_well(path, target.original(sha256, suffix), sha256)
    if how:
        done.wrong.append(f"The original of {name} {how} ({path}). Bring it in again.")
    else:
        done.originals += 1


def _readable(path: Path) -> bool:
    """Whether a file can be read to its end."""
    try:
        with path.open("rb") as handle:
            while handle.read(1 << 20):
                pass
    except OSError:
        return False
    return True

"""Originals, read after a look at whether they are still what came in."""

import hashlib
from pathlib import Path

from lenskeep.files.problems import PhotoProblem
from lenskeep.files.reading.photo import Base, Photo, read_photo
from lenskeep.files.written import sum_of
from lenskeep.work.engines.carried import InFile


def checked_original(file: InFile, name: str, sha256: str, raw_base: Base, turn: int = 0) -> Photo:
    """Read an original after checking that it is still the file that was brought in, turned by so many quarters
    clockwise. Raises PhotoProblem.
    """
    with file.on_disk() as path:
        if file.data is None and not path.is_file():
            raise PhotoProblem(f"The original of {name} is gone from the library. Bring it in again.")
        if _sum(file, path) != sha256:
            raise PhotoProblem(f"The original of {name} was changed since it came in. Bring it in again.")
        return read_photo(path, name, raw_base).turned(turn)


def _sum(file: InFile, path: Path) -> str:
    return sum_of(path) if file.data is None else hashlib.sha256(file.data).hexdigest()

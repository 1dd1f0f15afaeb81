"""What the marks of a frame make of its photograph: computed once, kept as a file, made again where that is gone."""

import time
from collections.abc import Callable
from contextlib import suppress

from lenskeep.core.clean.applied import Numbers, cleaned
from lenskeep.core.clean.models import CleanUp
from lenskeep.files.patches import Cleaned, cleaned_bytes, cleaned_of, read_cleaned
from lenskeep.files.problems import PhotoProblem
from lenskeep.files.reading.photo import Photo
from lenskeep.files.written import write_whole
from lenskeep.store import frames
from lenskeep.store.frames import FrameRow
from lenskeep.studio.library import Library
from lenskeep.studio.tasks.find import BASE_SIDE
from lenskeep.studio.tasks.originals import checked_original
from lenskeep.work.engines.carried import InFile

YOUNG_SECONDS = 900.0
Opened = Callable[[FrameRow], Photo]
"""A frame's original, decoded: by whoever keeps it open, or from disk (``opened``)."""


def opened(library: Library) -> Opened:
    """Reads a frame's original from disk."""

    def read(row: FrameRow) -> Photo:
        original = InFile(library.original(row.sha256, row.suffix))
        return checked_original(original, row.file_name, row.sha256, row.raw_base, row.turn)

    return read


def kept(library: Library, frame: FrameRow, clean: CleanUp) -> Cleaned | None:
    """What is kept of a frame's clean-up; None where it is not there, or damaged."""
    path = library.computed(frame.content).cleaned(clean.key())
    try:
        return read_cleaned(path.read_bytes())
    except (OSError, PhotoProblem):
        return None


def ensure(library: Library, frame: FrameRow, clean: CleanUp, open_: Opened | None = None) -> None:
    """Have what a frame's marks make of it there, as a file: from the longest beginning of them that is kept.

    Raises UserProblem, PhotoProblem.
    """
    path = library.computed(frame.content).cleaned(clean.key())
    if not clean.done or path.is_file():
        return
    before, start = None, len(clean.done) - 1
    while start > 0 and (before := kept(library, frame, CleanUp(done=clean.done[:start]))) is None:
        start -= 1
    photo = (open_ or opened(library))(frame)
    patches = cleaned(
        photo.pixels, clean.done[start:], bool(photo.base), _others(library, frame), before.patches if before else ()
    )
    write_whole(path, cleaned_bytes(cleaned_of(photo, patches, BASE_SIDE)))


def prune(library: Library, frame: FrameRow, clean: CleanUp) -> None:
    """Take away what earlier marks of a frame made, but for the last one's, unless it is young: others may read it."""
    stays = {CleanUp(done=clean.done[:n]).key() for n in (len(clean.done), len(clean.done) - 1) if n > 0}
    folder = library.computed(frame.content).folder
    names = {library.computed(frame.content).cleaned(key).name for key in stays}
    for path in folder.glob("clean.*.npz"):
        with suppress(OSError):
            if path.name not in names and time.time() - path.stat().st_mtime > YOUNG_SECONDS:
                path.unlink()


def _others(library: Library, frame: FrameRow) -> Callable[[str], Numbers | None]:
    """Other photographs of the shoot, by their content, as far as they are there."""

    def read(content: str) -> Numbers | None:
        found = frames.with_content(library.db, frame.shoot_id, content)
        row = None if found is None else frames.frame(library.db, found)
        return None if row is None else opened(library)(row).pixels

    return read

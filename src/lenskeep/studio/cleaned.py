"""What the marks of a frame make of its photograph: computed once, kept as a file, made again where that is gone."""

import time
from collections.abc import Callable
from contextlib import suppress

from lenskeep.core.clean.models import CleanUp, Cloned
from lenskeep.files.patches import Cleaned, read_cleaned
from lenskeep.files.problems import PhotoProblem
from lenskeep.files.reading.photo import Photo
from lenskeep.store import frames
from lenskeep.store.frames import FrameRow
from lenskeep.studio.library import Library
from lenskeep.studio.tasks.clean_files import CleanFiles, MakingFiles, OriginalFiles
from lenskeep.studio.tasks.find import BASE_SIDE
from lenskeep.work.engines.carried import InFile, OutFolder

YOUNG_SECONDS = 900.0
Opened = Callable[[FrameRow], Photo]
"""A frame's original, decoded, by whoever keeps it open."""


def kept(library: Library, frame: FrameRow, clean: CleanUp) -> Cleaned | None:
    """What is kept of a frame's clean-up; None where it is not there, or damaged."""
    path = library.computed(frame.content).cleaned(clean.key())
    try:
        return read_cleaned(path.read_bytes())
    except (OSError, PhotoProblem):
        return None


def clean_files(library: Library, frame: FrameRow, clean: CleanUp) -> CleanFiles | None:
    """What a frame's marks make of it, as a task takes it along: where it is not there, it is made from the longest
    beginning of them that is kept. None without marks.
    """
    if not clean.done:
        return None
    computed = library.computed(frame.content)
    path = computed.cleaned(clean.key())
    if path.is_file():
        return CleanFiles(InFile(path))
    before, start = None, len(clean.done) - 1
    while start > 0 and before is None:
        earlier = computed.cleaned(CleanUp(done=clean.done[:start]).key())
        before = InFile(earlier) if kept(library, frame, CleanUp(done=clean.done[:start])) is not None else None
        start -= before is None
    marks = clean.done[start:]
    others = {
        m.frame: found for m in marks if isinstance(m, Cloned) and m.frame and (found := _other(library, frame, m))
    }
    return CleanFiles(
        making=MakingFiles(
            original_files(library, frame), marks, before, others, OutFolder(computed.folder), path.name, BASE_SIDE
        )
    )


def original_files(library: Library, row: FrameRow) -> OriginalFiles:
    """A frame's original as a task takes it along."""
    original = InFile(library.original(row.sha256, row.suffix))
    return OriginalFiles(original, row.file_name, row.sha256, row.raw_base, row.turn)


def _other(library: Library, frame: FrameRow, mark: Cloned) -> OriginalFiles | None:
    """Another photograph of the shoot, by its content; None where it is gone."""
    found = frames.with_content(library.db, frame.shoot_id, mark.frame)
    row = None if found is None else frames.frame(library.db, found)
    return None if row is None else original_files(library, row)


def ensure(library: Library, frame: FrameRow, clean: CleanUp, open_: Opened | None = None) -> None:
    """Have what a frame's marks make of it there, as a file, here and now. Raises UserProblem, PhotoProblem."""
    files = clean_files(library, frame, clean)
    if files is not None and files.making is not None:
        files.making.made(open_(frame) if open_ else None)


def prune(library: Library, frame: FrameRow, clean: CleanUp) -> None:
    """Take away what earlier marks of a frame made, but for the last one's, unless it is young: others may read it."""
    stays = {CleanUp(done=clean.done[:n]).key() for n in (len(clean.done), len(clean.done) - 1) if n > 0}
    folder = library.computed(frame.content).folder
    names = {library.computed(frame.content).cleaned(key).name for key in stays}
    for path in folder.glob("clean.*.npz"):
        with suppress(OSError):
            if path.name not in names and time.time() - path.stat().st_mtime > YOUNG_SECONDS:
                path.unlink()

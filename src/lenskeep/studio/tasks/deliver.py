"""Finishing one frame from its original, at full size or smaller: a plain function from a task to its result."""

import hashlib
import zlib
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from lenskeep.core.colour.spaces import OutputSpace
from lenskeep.core.engine.encode import EIGHT_BITS, Encoder
from lenskeep.core.engine.encode.base import Numbers
from lenskeep.core.engine.planes import PROXY_SIDE
from lenskeep.core.plan import Plan
from lenskeep.core.render import Frame, compile_plan, render
from lenskeep.core.types import LinearRGB
from lenskeep.files.reading.photo import Base, Photo
from lenskeep.files.writing import FORMS
from lenskeep.files.writing.jpeg import JPEG
from lenskeep.files.written import write_beside, write_whole
from lenskeep.store.deliveries import FileMade
from lenskeep.studio.tasks.frame_files import FrameFiles
from lenskeep.studio.tasks.originals import checked_original
from lenskeep.work.engines.carried import InFile, OutFolder


@dataclass(frozen=True)
class DeliverTask:
    """``name`` is the photograph's, ``file`` that of what leaves, into ``out``.

    ``outside`` the library nothing is replaced, unless it has the sum ``ours``, which we wrote ourselves.
    """

    original: InFile
    name: str
    sha256: str
    raw_base: Base
    frame: FrameFiles
    plan: Plan
    out: OutFolder
    file: str
    quality: int
    long_side: int | None
    space: OutputSpace = "srgb"
    form: str = JPEG.name
    outside: bool = False
    ours: str | None = None
    turn: int = 0


@dataclass(frozen=True)
class Delivered:
    """What was made; ``data`` is the file itself where it could not be put in its place."""

    made: FileMade
    data: bytes | None = field(default=None, repr=False)


def deliver_frame(task: DeliverTask) -> Delivered:
    """A finished file from the original. Raises PhotoProblem."""
    photo = checked_original(task.original, task.name, task.sha256, task.raw_base, task.turn)
    frame = task.frame.ready(photo.reduced(PROXY_SIDE))
    form = FORMS[task.form]
    pixels = finished_pixels(photo, frame, task.plan, task.long_side, space=task.space, encoder=form.encoder)
    data = form.write(pixels, task.quality, photo.exif, task.space)
    digest = hashlib.sha256(data).hexdigest()
    made = FileMade(task.file, len(data), zlib.crc32(data), digest, "", " ".join(sorted(frame.found.missing)))
    if task.out.folder is None:
        return Delivered(made, data)
    return Delivered(put_in_place(made, data, task.out.folder, task.outside, task.ours))


def put_in_place(made: FileMade, data: bytes, folder: Path, outside: bool, ours: str | None) -> FileMade:
    """Write a file that leaves; where its name is taken outside the library, under another one, which is told."""
    target = folder / made.name
    if not outside:
        write_whole(target, data)
        return made
    there = write_beside(target, data, ours)
    if there == target:
        return made
    note = f"{target.name} was there already, so it is called {there.name}."
    return FileMade(there.name, made.bytes, made.crc32, made.sha256, note, made.missing)


def finished_pixels(
    photo: Photo,
    frame: Frame,
    plan: Plan,
    long_side: int | None,
    threads: int = 1,
    space: OutputSpace = "srgb",
    encoder: Encoder = EIGHT_BITS,
) -> Numbers:
    """The finished picture (h, w, 3) as ``encoder`` writes an output space, at full size or reduced before."""
    program = compile_plan(plan, frame)
    if long_side and long_side < max(photo.height, photo.width):
        rows = photo.reduced(long_side)
        height, width = rows.shape[:2]

        def read(first: int, last: int) -> LinearRGB:
            return np.ascontiguousarray(rows[first:last])

        return render(program, read, height, width, threads, space=space, encoder=encoder)
    return render(program, photo.rows, photo.height, photo.width, threads, space=space, encoder=encoder)

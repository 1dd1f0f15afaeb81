"""Finishing one frame from its original, at full size or smaller: a plain function from a task to its result."""

import hashlib
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from lenskeep.core.adjust.detail.sharpen import Sharpen
from lenskeep.core.colour.spaces import OutputSpace
from lenskeep.core.engine.encode import EIGHT_BITS, Encoder
from lenskeep.core.engine.encode.base import Numbers
from lenskeep.core.engine.planes import PROXY_SIDE
from lenskeep.core.plan import Plan, PlannedStep
from lenskeep.core.regions import Region
from lenskeep.core.render import Frame, compile_plan, render
from lenskeep.core.types import LinearRGB
from lenskeep.files.gallery import SMALL, pictures
from lenskeep.files.masks import full_size_mask, mask_bytes
from lenskeep.files.reading.photo import Base, Photo
from lenskeep.files.writing import FORMS
from lenskeep.files.writing.fields import NOTHING_SAID, Said, exif_with, xmp_packet
from lenskeep.files.writing.jpeg import JPEG
from lenskeep.files.writing.openraster import openraster_bytes
from lenskeep.files.written import crc_of, write_beside, write_whole
from lenskeep.store.deliveries import FileMade
from lenskeep.studio.tasks.frame_files import FrameFiles
from lenskeep.studio.tasks.layered import layers, reduced
from lenskeep.studio.tasks.originals import checked_original
from lenskeep.work.engines.carried import InFile, OutFolder
from lenskeep.work.engines.freed import keep_freed


@dataclass(frozen=True)
class DeliverTask:
    """``name`` is the photograph's, ``file`` that of what leaves, into ``out``.

    ``gallery`` is a folder within ``out`` for the pictures of a gallery, "" for none; ``small`` one in the library for
    those of contact sheets; ``masks`` a folder within ``out`` for the frame's masks, "" for none.
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
    sharpen: str = ""
    said: Said = NOTHING_SAID
    gallery: str = ""
    small: OutFolder | None = None
    masks: str = ""


@dataclass(frozen=True)
class Delivered:
    """What was made; ``data`` is the file itself where it could not be put in its place, and ``more`` what goes with
    it, by its path within the folder; ``small`` are pictures for contact sheets, made where our folders are not seen.
    """

    made: FileMade
    data: bytes | None = field(default=None, repr=False)
    more: dict[str, bytes] = field(default_factory=dict, repr=False)
    small: dict[str, bytes] = field(default_factory=dict, repr=False)


def deliver_frame(task: DeliverTask) -> Delivered:
    """A finished file from the original. Raises PhotoProblem."""
    keep_freed(True)
    photo = original = checked_original(task.original, task.name, task.sha256, task.raw_base, task.turn)
    if (clean := task.frame.cleaned()) is not None:
        photo = clean.photo(photo)
    frame = task.frame.ready(photo.reduced(PROXY_SIDE))
    form = FORMS[task.form]
    plan = sharpened(task.plan, task.sharpen, min(task.long_side or 1 << 30, max(photo.height, photo.width)))
    pixels: Numbers | None = None
    if task.gallery or task.small or not form.layered:
        pixels = finished_pixels(photo, frame, plan, task.long_side, space=task.space, encoder=form.encoder)
    if form.layered or pixels is None:
        there = reduced(photo, task.long_side)
        came = there if photo is original else reduced(original, task.long_side)
        data = openraster_bytes(layers(came, there, frame, plan, task.space), task.space)
    else:
        data = form.write(pixels, task.quality, exif_with(photo.exif, task.said), task.space, xmp_packet(task.said))
    digest = hashlib.sha256(data).hexdigest()
    made = FileMade(task.file, len(data), crc_of(data), digest, "", " ".join(sorted(frame.found.missing)))
    more: dict[str, bytes] = {}
    if task.masks:
        stem = Path(task.file).stem
        more |= {f"{task.masks}/{stem}.{kind}.png": mask for kind, mask in masks_of(photo, frame, task.long_side)}
    small: dict[str, bytes] = {}
    if pixels is not None and (task.gallery or task.small):
        held = pictures(pixels, task.space)
        if task.gallery:
            more = {f"{task.gallery}/{name}/{jpeg_name(task.file)}": jpeg for name, jpeg in held.items()}
        if task.small is not None:
            task.small.put(jpeg_name(task.file), held[SMALL])
            small = task.small.made
    if task.out.folder is None:
        return Delivered(made, data, more, small)
    for path, jpeg in more.items():
        write_whole(task.out.folder / path, jpeg)
    return Delivered(put_in_place(made, data, task.out.folder, task.outside, task.ours), small=small)


def masks_of(photo: Photo, frame: Frame, long_side: int | None) -> Iterator[tuple[str, bytes]]:
    """Every mask that holds something, with the frame's own repairs, as a grey PNG of the size that leaves."""
    there = reduced(photo, long_side)
    for name in frame.found.masks:
        mask = np.asarray(np.rint(255.0 * frame.found.mask(name)), np.uint8)
        if mask.any():
            yield (
                name,
                mask_bytes(full_size_mask(mask, frame.proxy if frame.untouched is None else frame.untouched, there)),
            )


def jpeg_name(file: str) -> str:
    """What the JPEGs of a file in a gallery are called."""
    return f"{Path(file).stem}.jpg"


OUTPUT_SHARPENING = {"screen": (45.0, 0.6), "paper": (75.0, 1.1)}
"""Per cent, and radius in pixels of the file, for where it is looked at."""


def sharpened(plan: Plan, how: str, long_side: int) -> Plan:
    """A plan with sharpening at the size delivered after all else; ``how`` "" for none."""
    if how not in OUTPUT_SHARPENING:
        return plan
    amount, radius = OUTPUT_SHARPENING[how]
    share = min(max(10_000.0 * radius / long_side, 1.0), 40.0)
    last = Sharpen(id="delivered", sharpen=amount, radius=share)
    return Plan((*plan.steps, PlannedStep("delivered", "Sharpened", Region(), "use the frame", (last,), 1.0)))


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

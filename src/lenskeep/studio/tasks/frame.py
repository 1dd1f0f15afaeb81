"""The heavy work on one frame, as plain functions that any process can run: paths and models in, files out."""

import hashlib
import os
import zlib
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np

from lenskeep.core.colour.spaces import OutputSpace
from lenskeep.core.detect.find import Detectors, find
from lenskeep.core.engine.planes import PROXY_SIDE
from lenskeep.core.facts import Facts
from lenskeep.core.plan import Plan
from lenskeep.core.render import Frame, compile_plan, render
from lenskeep.files.networks import (
    backbone_network,
    class_head_network,
    covers_head,
    face_network,
    person_network,
    saliency_network,
    sky_decoder_network,
)
from lenskeep.files.problems import PhotoProblem
from lenskeep.files.reading.photo import Base, Photo, read_photo, to_srgb8
from lenskeep.files.writing.jpeg import jpeg_bytes
from lenskeep.files.written import sum_of, write_beside, write_whole
from lenskeep.store.deliveries import FileMade
from lenskeep.studio.library import Computed
from lenskeep.studio.tasks.found_files import ready_frame, smaller, write_found

BASE_SIDE = 1600
THUMB_SIDE = 480
BASE_QUALITY, THUMB_QUALITY, RESULT_QUALITY = 95, 85, 92


def detectors(threads: int | None = None) -> Detectors:
    """The detectors with their weights, loaded once a process."""
    count = threads or max(1, (os.cpu_count() or 2) // 2)
    return Detectors(
        saliency_network(count),
        backbone_network(count),
        sky_decoder_network(count),
        class_head_network(count),
        person_network(count),
        face_network(count),
        covers_head(),
    )


@dataclass(frozen=True)
class FindTask:
    original: Path
    name: str
    sha256: str
    computed: Computed
    base: Base = ""


@dataclass(frozen=True)
class RenderTask:
    """Render at screen size. ``target`` and ``tile`` are where the picture and its small copy go."""

    computed: Computed
    facts: Facts
    plan: Plan
    target: Path
    tile: Path


@dataclass(frozen=True)
class DeliverTask:
    """Render at full size or at ``long_side``, from the original.

    ``outside`` the library nothing is replaced, unless it has the sum ``ours``, which we wrote ourselves.
    """

    original: Path
    name: str
    sha256: str
    computed: Computed
    facts: Facts
    plan: Plan
    target: Path
    quality: int
    long_side: int | None
    space: OutputSpace = "srgb"
    base: Base = ""
    outside: bool = False
    ours: str | None = None


def checked_original(path: Path, name: str, sha256: str, base: Base = "") -> Photo:
    """Read an original after checking that it is still the file that was brought in."""
    if not path.is_file():
        raise PhotoProblem(f"The original of {name} is gone from the library. Bring it in again.")
    if sum_of(path) != sha256:
        raise PhotoProblem(f"The original of {name} was changed since it came in. Bring it in again.")
    return read_photo(path, name, base)


def write_thumb(computed: Computed, photo: Photo) -> None:
    """The small untouched picture, so that the wall shows a frame before its masks are found."""
    if not computed.thumb.is_file():
        write_whole(computed.thumb, jpeg_bytes(to_srgb8(photo.reduced(THUMB_SIDE)), THUMB_QUALITY, None, False))


def find_on_frame(task: FindTask) -> Facts:
    """Screen-size picture, thumbnail and masks of an original, written beside each other; returns the facts."""
    photo = checked_original(task.original, task.name, task.sha256, task.base)
    base = photo.reduced(BASE_SIDE)
    write_whole(task.computed.base, jpeg_bytes(to_srgb8(base), BASE_QUALITY))
    write_thumb(task.computed, photo)
    found = find(to_srgb8(smaller(base, PROXY_SIDE)), detectors(), (photo.height, photo.width))
    write_found(task.computed, found)
    return found.facts


def render_on_screen(task: RenderTask) -> list[str]:
    """A finished picture at screen size; returns the anchors and masks that were missing on this frame."""
    base = read_photo(task.computed.base).rows(0, 1 << 30)
    frame = ready_frame(smaller(base, PROXY_SIDE), task.computed, task.facts)
    program = compile_plan(task.plan, frame)
    pixels = render(program, lambda a, b: np.ascontiguousarray(base[a:b]), base.shape[0], base.shape[1])
    scale = min(1.0, THUMB_SIDE / max(pixels.shape[:2]))
    size = (max(1, round(pixels.shape[1] * scale)), max(1, round(pixels.shape[0] * scale)))
    tile = np.asarray(cv2.resize(pixels, size, interpolation=cv2.INTER_AREA), np.uint8)
    write_whole(task.tile, jpeg_bytes(tile, THUMB_QUALITY, None, False))
    write_whole(task.target, jpeg_bytes(pixels, RESULT_QUALITY))
    return sorted(frame.found.missing)


def deliver_frame(task: DeliverTask) -> FileMade:
    """A finished JPEG from the original."""
    photo = checked_original(task.original, task.name, task.sha256, task.base)
    frame = ready_frame(photo.reduced(PROXY_SIDE), task.computed, task.facts)
    pixels = finished_pixels(photo, frame, task.plan, task.long_side, space=task.space)
    data = jpeg_bytes(pixels, task.quality, photo.exif, space=task.space)
    target, note = task.target, ""
    if task.outside:
        target = write_beside(task.target, data, task.ours)
        if target != task.target:
            note = f"{task.target.name} was there already, so it is called {target.name}."
    else:
        write_whole(target, data)
    digest = hashlib.sha256(data).hexdigest()
    return FileMade(target.name, len(data), zlib.crc32(data), digest, note, " ".join(sorted(frame.found.missing)))


def finished_pixels(
    photo: Photo,
    frame: Frame,
    plan: Plan,
    long_side: int | None,
    threads: int = 1,
    space: OutputSpace = "srgb",
) -> np.ndarray:
    """The finished picture (h, w, 3) uint8 of an output space at full size, or reduced before rendering."""
    program = compile_plan(plan, frame)
    if long_side and long_side < max(photo.height, photo.width):
        rows = photo.reduced(long_side)
        height, width = rows.shape[:2]
        return render(program, lambda a, b: np.ascontiguousarray(rows[a:b]), height, width, threads, space=space)
    return render(program, photo.rows, photo.height, photo.width, threads, space=space)

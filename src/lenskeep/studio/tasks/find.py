"""Finding on one photograph: a plain function from a task to its result, which any process on any machine can run."""

import os
from dataclasses import dataclass, field

from lenskeep.core.detect.find import DETECTOR, Detectors, find
from lenskeep.core.detect.saliency import GLANCE_SIDE
from lenskeep.core.engine.planes import PROXY_SIDE
from lenskeep.core.facts import Facts
from lenskeep.files.masks import mask_bytes
from lenskeep.files.networks import (
    backbone_network,
    boxes_network,
    class_head_network,
    covers_head,
    face_network,
    figure_network,
    person_network,
    saliency_network,
    sky_decoder_network,
)
from lenskeep.files.reading.photo import Base, Photo, to_srgb8
from lenskeep.files.working import working_bytes
from lenskeep.files.writing.jpeg import jpeg_bytes
from lenskeep.studio.library import BASE_PICTURE, THUMB, WORKING
from lenskeep.studio.tasks.frame_files import smaller
from lenskeep.studio.tasks.originals import checked_original
from lenskeep.work.engines.carried import InFile, OutFolder

BASE_SIDE = 1600
THUMB_SIDE = 480
BASE_QUALITY, THUMB_QUALITY = 95, 85


def detectors(threads: int | None = None) -> Detectors:
    """The detectors with their weights, loaded once a process."""
    count = threads or max(1, (os.cpu_count() or 2) // 2)
    return Detectors(
        saliency_network(count),
        saliency_network(count, GLANCE_SIDE),
        backbone_network(count),
        sky_decoder_network(count),
        class_head_network(count),
        person_network(count),
        face_network(count),
        boxes_network(count),
        figure_network(count),
        covers_head(),
    )


@dataclass(frozen=True)
class FindTask:
    """``out`` is the folder of what is computed from this photograph."""

    original: InFile
    name: str
    sha256: str
    raw_base: Base
    out: OutFolder


@dataclass(frozen=True)
class FindResult:
    facts: Facts
    made: dict[str, bytes] = field(default_factory=dict, repr=False)


def thumb_of(photo: Photo) -> bytes:
    """The small untouched picture, so that the wall shows a frame before its masks are found."""
    return jpeg_bytes(to_srgb8(photo.reduced(THUMB_SIDE)), THUMB_QUALITY, None, False)


def find_on_frame(task: FindTask) -> FindResult:
    """Screen-size picture, working copy, thumbnail and masks of an original, written beside each other. Raises
    PhotoProblem.
    """
    photo = checked_original(task.original, task.name, task.sha256, task.raw_base)
    base = photo.reduced(BASE_SIDE)
    task.out.put(BASE_PICTURE, jpeg_bytes(to_srgb8(base), BASE_QUALITY))
    task.out.put(WORKING, working_bytes(base))
    if not task.out.has(THUMB):
        task.out.put(THUMB, jpeg_bytes(to_srgb8(smaller(base, THUMB_SIDE)), THUMB_QUALITY, None, False))
    found = find(to_srgb8(smaller(base, PROXY_SIDE)), detectors(), (photo.height, photo.width))
    for name, mask in [*found.masks.items(), ("pieces", found.pieces)]:
        task.out.put(f"{DETECTOR}.{name}.png", mask_bytes(mask))
    return FindResult(found.facts, task.out.made)

"""Finding on one photograph: a plain function from a task to its result, which any process on any machine can run."""

import os
from dataclasses import dataclass, field, replace

import numpy as np

from lenskeep.core.detect.find import DETECTOR, find
from lenskeep.core.detect.networks import Detectors
from lenskeep.core.detect.saliency import GLANCE_SIDE
from lenskeep.core.engine.planes import PROXY_SIDE, smaller
from lenskeep.core.facts import Facts
from lenskeep.core.measure.sharpness import sharpness
from lenskeep.core.scenes.signature import packed, signature
from lenskeep.core.types import Alpha, LinearRGB
from lenskeep.files.masks import mask_bytes
from lenskeep.files.networks import (
    backbone_network,
    boxes_network,
    class_head_network,
    covers_head,
    face_network,
    figure_network,
    palm_network,
    person_network,
    saliency_network,
    sky_decoders,
)
from lenskeep.files.reading.exif import exposure_stops
from lenskeep.files.reading.photo import Base, Photo, to_srgb8
from lenskeep.files.working import working_bytes
from lenskeep.files.writing.jpeg import jpeg_bytes
from lenskeep.studio.library import BASE_PICTURE, THUMB, WORKING
from lenskeep.studio.tasks.clean_files import CleanFiles
from lenskeep.studio.tasks.originals import checked_original
from lenskeep.work.engines.carried import InFile, OutFolder
from lenskeep.work.engines.freed import keep_freed

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
        sky_decoders(count),
        class_head_network(count),
        person_network(count),
        face_network(count),
        boxes_network(count),
        figure_network(count),
        palm_network(count),
        covers_head(),
    )


@dataclass(frozen=True)
class FindTask:
    """``out`` is the folder of what is computed from this photograph. With ``clean`` masks are found on the cleaned
    picture, and kept as those of other detectors; the untouched pictures stay as they are. ``in_turn`` where
    frames enough are waiting for every core to have one of its own.
    """

    original: InFile
    name: str
    sha256: str
    raw_base: Base
    out: OutFolder
    turn: int = 0
    clean: CleanFiles | None = None
    detector: str = DETECTOR
    in_turn: bool = False


@dataclass(frozen=True)
class Sight:
    """What is around the subject (``core.scenes.signature``, packed), how sharp that is (``core.measure``), and how the
    frame was exposed, in stops.
    """

    signature: bytes
    sharp: float
    stops: float | None = None


@dataclass(frozen=True)
class FindResult:
    facts: Facts
    sight: Sight
    made: dict[str, bytes] = field(default_factory=dict, repr=False)


def thumb_of(photo: Photo) -> bytes:
    """The small untouched picture, so that the wall shows a frame before its masks are found."""
    return jpeg_bytes(to_srgb8(photo.reduced(THUMB_SIDE)), THUMB_QUALITY, None, False)


def find_on_frame(task: FindTask) -> FindResult:
    """Screen-size picture, working copy, thumbnail and masks of an original, written beside each other. Raises
    PhotoProblem.
    """
    keep_freed(False)
    photo = checked_original(task.original, task.name, task.sha256, task.raw_base, task.turn)
    if task.clean is not None:
        photo = task.clean.read().photo(photo)
    base = photo.reduced(BASE_SIDE)
    if task.clean is None:
        task.out.put(BASE_PICTURE, jpeg_bytes(to_srgb8(base), BASE_QUALITY))
        task.out.put(WORKING, working_bytes(base))
    if not task.out.has(THUMB) and task.clean is None:
        task.out.put(THUMB, jpeg_bytes(to_srgb8(smaller(base, THUMB_SIDE)), THUMB_QUALITY, None, False))
    proxy = smaller(base, PROXY_SIDE)
    found = find(to_srgb8(proxy), detectors(), (photo.height, photo.width), task.in_turn)
    for name, mask in [*found.masks.items(), ("pieces", found.pieces)]:
        task.out.put(f"{task.detector}.{name}.png", mask_bytes(mask))
    subject = found.masks["subject"].astype(np.float32) / np.float32(255.0)
    seen = sight_of(proxy, subject, found.facts)
    facts = found.facts.model_copy(update={"detector": task.detector})
    return FindResult(facts, replace(seen, stops=exposure_stops(photo.exif)), task.out.made)


def sight_of(picture: LinearRGB, subject: Alpha, facts: Facts) -> Sight:
    """Of a frame's untouched picture and its subject at the same size; sharpness is that of its faces, if any."""
    where = subject
    if facts.faces:
        h, w = subject.shape
        where = np.zeros_like(subject)
        for face in facts.faces:
            b = face.box
            where[int(b.y0 * h) : int(np.ceil(b.y1 * h)), int(b.x0 * w) : int(np.ceil(b.x1 * w))] = 1.0
    return Sight(packed(signature(picture, subject)), sharpness(picture, where))

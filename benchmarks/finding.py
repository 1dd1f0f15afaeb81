"""What finding takes on one large frame, as a whole and by its parts, and a second look at what was found."""

import statistics
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

from lenskeep.core.detect import find as f
from lenskeep.core.detect.again import subject_again
from lenskeep.core.detect.find import find
from lenskeep.core.detect.networks import Detectors
from lenskeep.core.detect.who import find_who
from lenskeep.core.engine.planes import PROXY_SIDE
from lenskeep.core.types import SRGB8
from lenskeep.files.masks import mask_bytes
from lenskeep.files.reading.photo import read_photo, to_srgb8
from lenskeep.files.written import write_whole
from lenskeep.studio.library import Computed
from lenskeep.studio.tasks.find import detectors
from lenskeep.studio.tasks.frame_files import files_of


def seconds(call: Callable[[], Any], times: int = 3) -> tuple[float, Any]:
    """(median, last result), after one call to warm up."""
    result, spent = call(), []
    for _ in range(times):
        start = time.perf_counter()
        result = call()
        spent.append(time.perf_counter() - start)
    return statistics.median(spent), result


def parts(image: SRGB8, d: Detectors) -> dict[str, float]:
    """Seconds of each part of ``find`` run on its own; in ``find`` the sky's run beside the subject's."""
    out: dict[str, float] = {}

    def timed(name: str, call: Callable[[], Any]) -> Any:
        out[name], result = seconds(call)
        return result

    seen = timed("sky: networks", lambda: f.sky_probability(image, d.backbone, d.sky_decoders))
    guess, _ = timed("subject: two looks", lambda: f.subject_guess(image, d.saliency, d.glance))
    animals = d.class_head.run({"s6": seen.stages["s6"]})[1][0]
    looked = f.Looked(image, d.backbone, d.class_head, d.person, animals)
    faces = timed("faces", lambda: f.faces_of_people(image, f.find_faces(image, d.face), looked))
    boxes = timed("boxes", lambda: f.find_boxes(image, d.boxes))
    who = timed("subject: people, animals, hands, edges", lambda: find_who(guess, boxes, faces, looked, d))
    timed("a second look at the subject", lambda: subject_again(looked, d))
    subject, beings = who.subject, who.beings
    sky = timed("sky: colour, edges", lambda: f.find_sky(image, seen.probability).mask)
    objects, kinds = timed("objects and kinds", lambda: f._objects(subject.mask, beings, faces, looked, who.palms))
    covers = timed(
        "ground covers", lambda: f.find_covers(f.cover_fields(image, seen.stages, d.covers), subject.mask, sky)
    )
    timed("pieces", lambda: f.find_pieces(image, objects, list(kinds), {"sky": sky, **covers}, f.evened(image)))
    people = np.where(np.isin(objects, [n for n, k in enumerate(kinds, 1) if k == "person"]), subject.mask, 0)
    timed("skin", lambda: f.skin_mask(image, faces, np.asarray(people, np.float32)))
    return out


def measured(original: Path, computed: Computed) -> dict[str, Any]:
    """{"find_seconds", "again_seconds", "parts"} on a large photograph, from its file."""
    d = detectors(2)

    def whole() -> Any:
        photo = read_photo(original)
        return find(to_srgb8(photo.reduced(PROXY_SIDE)), d, (photo.height, photo.width))

    find_seconds, found = seconds(whole)
    for name, mask in [*found.masks.items(), ("pieces", found.pieces)]:
        write_whole(computed.mask(name), mask_bytes(mask))
    proxy = read_photo(original).reduced(PROXY_SIDE)

    def again() -> None:
        kept = files_of(computed, "bench", found.facts, {}).ready(proxy).found
        kept.mask("subject"), kept.mask("sky")

    return {
        "find_seconds": find_seconds,
        "again_seconds": seconds(again, 9)[0],
        "parts": parts(to_srgb8(proxy), d),
        "facts": found.facts.model_dump_json(),
    }

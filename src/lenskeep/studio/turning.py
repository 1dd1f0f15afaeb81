"""Standing photographs upright that the camera laid on their side: whole quarter turns, before everything else."""

from collections.abc import Iterable, Mapping

import numpy as np
from PIL import Image

from lenskeep.files.reading.photo import read_photo
from lenskeep.files.writing.jpeg import jpeg_bytes
from lenskeep.files.written import write_whole
from lenskeep.store import findings, frames
from lenskeep.store.frames import FrameSummary
from lenskeep.studio import find
from lenskeep.studio.applying import queue_frames
from lenskeep.studio.library import Library
from lenskeep.studio.tasks.find import THUMB_QUALITY
from lenskeep.studio.wanting import settle_scene


def turn(library: Library, shoot_id: int, turns: Mapping[int, int]) -> list[FrameSummary]:
    """Stand frames of a shoot so many quarters clockwise from how they came, by their ids. Their masks are found again,
    at once where they are known from before; their finished pictures follow. Returns them as they were, for
    ``turn_thumbs`` after the transaction.
    """
    if not turns:
        return []
    before = {f.id: f for f in frames.some(library.db, turns) if f.turn != turns[f.id]}
    with library.db.writing():
        findings.turn(library.db, {i: turns[i] for i in before})
        find.queue_new(library, shoot_id, list(before))
        for scene_id in {f.scene_id for f in before.values()}:
            settle_scene(library.db, scene_id)
        if wanting := [f.id for f in frames.some(library.db, before) if f.wanted_key]:
            queue_frames(library, shoot_id, wanting)
    return list(before.values())


def turn_thumbs(library: Library, before: Iterable[FrameSummary]) -> None:
    """Small pictures of frames that were turned, by what they were ``before``."""
    was = {f.id: f for f in before}
    for now in frames.some(library.db, was):
        _turn_thumb(library, was[now.id], now)


def _turn_thumb(library: Library, was: FrameSummary, now: FrameSummary) -> None:
    """The wall shows a turned frame before its masks are found."""
    source, target = library.computed(was.content).thumb, library.computed(now.content).thumb
    if target.is_file() or not source.is_file():
        return
    pixels = np.ascontiguousarray(np.rot90(read_photo(source).pixels, was.turn - now.turn))
    write_whole(target, jpeg_bytes(pixels, THUMB_QUALITY, Image.Exif(), False))

"""The frames that a Bench shows: the key frame, and witnesses that differ from it and from each other."""

from functools import lru_cache

import numpy as np

from lenskeep.core.types import Float
from lenskeep.store import frames, scenes
from lenskeep.store.database import Database
from lenskeep.store.frames import FrameSummary
from lenskeep.studio.library import Library

WITNESSES = 6


def key_and_witnesses(library: Library, scene_id: int) -> tuple[FrameSummary | None, list[FrameSummary]]:
    """The key frame, and up to six other frames that differ from it and from each other as much as possible."""
    db, scene = library.db, scenes.scene(library.db, scene_id)
    finds = scenes.finds(db, scene_id)
    key, *others = _chosen(db, scene_id, scene.key_frame_id if scene else None, finds) or (0,)
    first = frames.summary(db, key)
    return first, [row for row in (frames.summary(db, other) for other in others) if row]


@lru_cache(maxsize=64)
def _chosen(db: Database, scene_id: int, key_frame: int | None, finds: int) -> tuple[int, ...]:
    """Ids of the key frame and the witnesses in order; none where no frame has masks. They stay until masks are found
    or lost on a frame of the shoot, which ``finds`` counts.
    """
    ids, traits = _traits(db, scene_id)
    if not len(ids):
        return ()
    at = ids.index(key_frame) if key_frame in ids else 0
    chosen, nearest = [at], np.full(len(ids), np.inf)
    while len(chosen) <= WITNESSES and len(chosen) < len(ids):
        nearest = np.minimum(nearest, ((traits - traits[chosen[-1]]) ** 2).sum(axis=1))
        nearest[chosen] = -1.0
        chosen.append(int(nearest.argmax()))
    return (ids[at], *(ids[i] for i in sorted(chosen[1:])))


def _traits(db: Database, scene_id: int) -> tuple[list[int], Float]:
    """Ids of the frames with masks in order, and (n, 7): size and place of the subject, sky, doubt, when in the shoot,
    upright.
    """
    rows = frames.traits(db, scene_id)
    out = np.zeros((len(rows), 7), np.float32)
    for i, (_, box, subject, sky, trust, upright) in enumerate(rows):
        x0, y0, x1, y1 = map(float, box.split()) if box else (0.0, 0.0, 1.0, 1.0)
        when = i / max(len(rows) - 1, 1)
        out[i] = (2 * subject, 1.5 * sky, (x0 + x1) / 2, (y0 + y1) / 2, 1 - trust, when, upright)
    return [row[0] for row in rows], out

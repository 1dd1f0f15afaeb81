"""The frames that a Bench shows: the key frame, and witnesses that differ from it and from each other."""

import numpy as np

from lenskeep.store import frames, scenes
from lenskeep.store.frames import FrameSummary
from lenskeep.studio.library import Library

WITNESSES = 6


def key_and_witnesses(library: Library, shoot_id: int) -> tuple[FrameSummary | None, list[FrameSummary]]:
    """The key frame, and up to six other frames that differ from it and from each other as much as possible."""
    ready = [f for f in frames.summaries(library.db, shoot_id) if f.found]
    if not ready:
        return None, []
    scene = scenes.first_scene(library.db, shoot_id)
    at = next((i for i, f in enumerate(ready) if scene and f.id == scene.key_frame_id), 0)
    traits = _traits(ready)
    chosen, nearest = [at], np.full(len(ready), np.inf)
    while len(chosen) <= WITNESSES and len(chosen) < len(ready):
        nearest = np.minimum(nearest, ((traits - traits[chosen[-1]]) ** 2).sum(axis=1))
        nearest[chosen] = -1.0
        chosen.append(int(nearest.argmax()))
    return ready[at], [ready[i] for i in sorted(chosen[1:])]


def _traits(ready: list[FrameSummary]) -> np.ndarray:
    """(n, 7): size and place of the subject, sky, doubt, when in the shoot, upright."""
    rows = []
    for i, frame in enumerate(ready):
        centre = frame.box.middle if frame.box else (0.5, 0.5)
        upright = 1.0 if frame.height > frame.width else 0.0
        when = i / max(len(ready) - 1, 1)
        rows.append((2 * frame.subject_area, 1.5 * frame.sky_area, *centre, 1 - frame.trust, when, upright))
    return np.array(rows)

"""Where on a frame's finished picture a guard finds fault, for somebody who checks it."""

import cv2
import imagecodecs
import numpy as np

from lenskeep.core.engine.planes import proxy_size, smaller
from lenskeep.core.guarding import looked_at
from lenskeep.core.measure.guards import GuardName, faults
from lenskeep.core.problems import UserProblem
from lenskeep.core.render import compile_steps
from lenskeep.store.frames import FrameRow
from lenskeep.studio.applying import NO_MASKS, task_of, wanting_of
from lenskeep.studio.bench.measures import stripes
from lenskeep.studio.library import Library
from lenskeep.studio.tasks.render import GUARD_SIDE, made_ready

SIDE = 1600
"""Pixels of the long side of what is laid over the picture."""
FAINT = 0.05
"""Of what is found nowhere stronger than this nothing is made stronger."""


def stripes_over(library: Library, frame: FrameRow, guard: GuardName) -> bytes:
    """A PNG to be laid over a frame's finished picture: stripes where ``guard`` finds fault with what its look and its
    own changes make of it, as strong as the fault is beside its worst place. Looked for at the size at which it was
    found when the look was applied. Raises UserProblem without masks.
    """
    if not library.computed(frame.content, frame.found_by).holds(frame.found_facts):
        raise UserProblem(NO_MASKS.format(frame.file_name))
    task = task_of(library, frame, wanting_of(library, frame), frame.override, "")
    base, ready = made_ready(task)
    looked = looked_at(ready, smaller(base, GUARD_SIDE).copy(), compile_steps(task.plan, ready), task.plan)
    found = faults(looked.based, looked.finished(), looked.skin, looked.regions(), frozenset((guard,))).maps[guard]
    h, w = proxy_size(base.shape[0], base.shape[1], SIDE)
    share = cv2.resize(found / max(float(found.max()), FAINT), (w, h), interpolation=cv2.INTER_LINEAR)
    over = np.dstack((stripes(h, w), np.rint(255.0 * np.clip(share, 0.0, 0.9)).astype(np.uint8)))
    return bytes(imagecodecs.png_encode(over, level=1))

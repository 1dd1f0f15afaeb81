"""Anchors: coordinates that follow the subject or the skyline from frame to frame.

A drawn part keeps its positions in its anchor's own coordinates: of the frame, 0…1 of width and height; of the
subject, 0…1 of its box; of the skyline, x as in the frame and y from the skyline downwards in frame heights, with the
skyline's tilt taken out.
"""

from typing import Literal

import numpy as np

from lenskeep.core.regions.base import Found
from lenskeep.core.types import Float

Anchor = Literal["frame", "subject", "skyline"]
FALLBACK_SKYLINE = 0.4


def resolve(anchor: Anchor, found: Found) -> Anchor:
    """The anchor to use on this frame: the frame itself where the wished one was not found, which is noted."""
    if anchor == "subject" and found.facts.subject_box is None:
        found.missing.add("subject")
        return "frame"
    if anchor == "skyline" and found.facts.skyline is None:
        found.missing.add("skyline")
    return anchor


def grid(anchor: Anchor, found: Found) -> tuple[Float, Float]:
    """The anchor's coordinates (u, v) of every proxy pixel, each (h, w)."""
    h, w = found.shape
    x = (np.arange(w, dtype=np.float32) + 0.5)[None, :] / w
    y = (np.arange(h, dtype=np.float32) + 0.5)[:, None] / h
    used = resolve(anchor, found)
    if used == "subject" and (box := found.facts.subject_box) is not None:
        x, y = (x - box.x0) / max(box.width, 1e-3), (y - box.y0) / max(box.height, 1e-3)
    elif used == "skyline":
        line = found.facts.skyline
        y = y - (line.left + (line.right - line.left) * x if line else FALLBACK_SKYLINE)
    shape = (h, w)
    return np.broadcast_to(x, shape).astype(np.float32), np.broadcast_to(y, shape).astype(np.float32)


def pixel_aspect(anchor: Anchor, found: Found) -> float:
    """How many v-units tall a square is that is one u-unit wide: keeps circles round and lines at right angles."""
    h, w = found.shape
    box = found.facts.subject_box
    if anchor == "subject" and box is not None:
        return (box.width * w) / max(box.height * h, 1e-3)
    return w / h

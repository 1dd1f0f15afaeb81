"""Anchors: coordinates that follow the subject, the largest face or the skyline from frame to frame.

A drawn part keeps its positions in its anchor's own coordinates: of the frame, 0…1 of width and height; of the
subject or face, 0…1 of its box; of the skyline, x as in the frame and y from the skyline downwards in frame heights,
with the skyline's tilt taken out.
"""

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from lenskeep.core.facts import Box
from lenskeep.core.regions.base import Found, Part
from lenskeep.core.types import Float

Anchor = Literal["frame", "subject", "skyline", "face"]
FALLBACK_SKYLINE = 0.4


def anchor_box(anchor: Anchor, found: Found) -> Box | None:
    """The box whose coordinates an anchor's are; None for the frame and the skyline, and where it was not found."""
    if anchor == "subject":
        return found.facts.subject_box
    return found.facts.largest_face if anchor == "face" else None


def masks_of_anchor(anchor: Anchor) -> frozenset[str]:
    """The found masks that an anchor's place depends on."""
    return frozenset({"subject": {"subject"}, "skyline": {"sky"}}.get(anchor, set()))


def lost_anchor(anchor: Anchor, found: Found) -> str | None:
    """The anchor's name where it was not found on this frame."""
    if anchor in ("subject", "face") and anchor_box(anchor, found) is None:
        return anchor
    return "skyline" if anchor == "skyline" and found.facts.skyline is None else None


class AnchoredPart(Part):
    """Base of the drawn gradients: kept in the coordinates of an anchor, which a frame may lack."""

    group: ClassVar[str] = "Drawn"
    drawn: ClassVar[bool] = True
    anchor: Anchor = Field(default="frame", title="Anchored to")

    def lost(self, found: Found) -> str | None:
        return lost_anchor(self.anchor, found)

    def uses(self) -> frozenset[str]:
        return masks_of_anchor(self.anchor)

    def words(self) -> str:
        name = self.label.lower()
        return name if self.anchor == "frame" else f"{name} on the {self.anchor}"


def grid(anchor: Anchor, found: Found) -> tuple[Float, Float]:
    """The anchor's coordinates (u, v) of every proxy pixel, spreading to (h, w) where they meet; the frame's where it
    has no such anchor.
    """
    h, w = found.shape
    x = (np.arange(w, dtype=np.float32) + 0.5)[None, :] / w
    y = (np.arange(h, dtype=np.float32) + 0.5)[:, None] / h
    box, line = anchor_box(anchor, found), found.facts.skyline
    if box is not None:
        x, y = (x - box.x0) / max(box.width, 1e-3), (y - box.y0) / max(box.height, 1e-3)
    elif anchor == "skyline":
        y = y - (line.left + (line.right - line.left) * x if line else FALLBACK_SKYLINE)
    return np.asarray(x, np.float32), np.asarray(y, np.float32)


def pixel_aspect(anchor: Anchor, found: Found) -> float:
    """How many v-units tall a square is that is one u-unit wide: keeps circles round and lines at right angles."""
    h, w = found.shape
    box = anchor_box(anchor, found)
    if box is not None:
        return (box.width * w) / max(box.height * h, 1e-3)
    return w / h


def to_pixels(anchor: Anchor, found: Found, points: Float) -> Float:
    """Points (n, 2) in the anchor's coordinates as pixels (x, y) of the proxy."""
    h, w = found.shape
    out = np.array(points, np.float32, copy=True).reshape(-1, 2)
    box, line = anchor_box(anchor, found), found.facts.skyline
    if box is not None:
        out = out * np.array([box.width, box.height], np.float32) + np.array([box.x0, box.y0], np.float32)
    elif anchor == "skyline":
        left, right = (line.left, line.right) if line else (FALLBACK_SKYLINE, FALLBACK_SKYLINE)
        out[:, 1] += left + (right - left) * out[:, 0]
    return out * np.array([w, h], np.float32)


def anchor_long_side(anchor: Anchor, found: Found) -> float:
    """The anchor's long side in proxy pixels; what lengths of brush strokes are fractions of."""
    h, w = found.shape
    box = anchor_box(anchor, found)
    return max(box.width * w, box.height * h) if box is not None else float(max(h, w))

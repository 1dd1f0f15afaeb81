"""Brush: strokes kept as paths, so that they can be drawn at any size."""

from collections.abc import Iterator
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from lenskeep.core.regions.anchor import anchor_long_side, lost_anchor, masks_of_anchor, to_pixels
from lenskeep.core.regions.base import Found, Part, measure
from lenskeep.core.regions.dabs import paint, smoothed
from lenskeep.core.regions.strokes import Laid, StrokesAtSize, edges_left
from lenskeep.core.types import Alpha, AlphaAtSize, Float

Coordinate = Annotated[float, Field(ge=-4, le=5)]


class Stroke(BaseModel):
    """One stroke: points (x, y) in the anchor's coordinates; ``size`` is the diameter as a fraction of its long side.

    Every dab along the path lays on ``flow`` of what is missing, and the stroke as a whole at most ``opacity``.
    """

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)
    points: list[tuple[Coordinate, Coordinate]] = Field(min_length=1, max_length=4000)
    size: float = Field(default=0.08, gt=0, le=1)
    hardness: float = Field(default=0.3, ge=0, le=1)
    opacity: float = Field(default=1.0, ge=0, le=1)
    flow: float = Field(default=0.6, gt=0, le=1)
    erase: bool = False
    edge_aware: bool = False


class Brush(Part):
    label: ClassVar[str] = "Brush"
    group: ClassVar[str] = "Drawn"
    editor: ClassVar[str] = "brush"
    drawn: ClassVar[bool] = True
    drawn_as: ClassVar[int] = 1
    help: ClassVar[str] = "Painted by hand on the key frame. Anchored to the subject or a face, it follows them."
    kind: Literal["brush"] = "brush"
    anchor: Literal["frame", "subject", "face"] = Field(default="frame", title="Anchored to")
    only_on: str = Field(default="", max_length=80)
    """The frame that a repair belongs to; on others the part is as if it had no strokes."""
    strokes: list[Stroke] = Field(default=[], max_length=400)
    steadiness: float = measure("Smoothing of strokes", 0.5, 0.0, 1.0, step=5, unit="%", shown=100)

    def alpha(self, found: Found) -> Alpha:
        alpha = np.zeros(found.shape, np.float32)
        for s, path, radius in self._laid(found):
            lab = found.lab if s.edge_aware else np.zeros((1, 1, 3), np.float32)
            paint(alpha, path, radius, s.hardness, s.opacity, s.flow, s.erase, s.edge_aware, lab)
        return alpha

    def at_size(self, found: Found) -> AlphaAtSize | None:
        h, w = found.shape
        out = []
        for s, path, radius in self._laid(found):
            left = edges_left(found, path, radius, s.hardness, s.flow) if s.edge_aware else None
            shares = np.asarray(path / np.array([w, h], np.float32), np.float32)
            out.append(Laid(shares, radius / found.long_side, s.hardness, s.opacity, s.flow, s.erase, left))
        return StrokesAtSize(out) if out else None

    def _laid(self, found: Found) -> Iterator[tuple[Stroke, Float, float]]:
        """Every stroke that works on this frame, with its path and its radius in pixels of the proxy."""
        if self.only_on and self.only_on != found.key:
            return
        side = anchor_long_side(self.anchor, found)
        for stroke in self.strokes:
            path = smoothed(to_pixels(self.anchor, found, np.array(stroke.points, np.float32)), self.steadiness)
            yield stroke, path, max(0.5 * stroke.size * side, 0.5)

    def lost(self, found: Found) -> str | None:
        return lost_anchor(self.anchor, found)

    def uses(self) -> frozenset[str]:
        return masks_of_anchor(self.anchor)

    def words(self) -> str:
        if not self.strokes:
            return "brush without a stroke"
        own = "brush on this frame alone" if self.only_on else "brush"
        return own if self.anchor == "frame" else f"{own} on the {self.anchor}"

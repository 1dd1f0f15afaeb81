"""Vignette: exposure that grows in EV from an ellipse to the corners, centred on the frame or on the subject.

A colour can be mixed in likewise, and each side can have less or more of both.

With roundness 0 the ellipse has the frame's shape, with 100 it is a circle. Size is where the change is half done, as
a share of the way from the centre to the corner.
"""

import math
from typing import ClassVar, Literal

from pydantic import Field

from lenskeep.core.adjust.base import Adjustment, Below, Colour, amount, extra
from lenskeep.core.colour.named import linear_of
from lenskeep.core.engine.ops import Code, Op


class Vignette(Adjustment):
    label: ClassVar[str] = "Vignette"
    group: ClassVar[str] = "Finish"
    help: ClassVar[str] = "Darkens (or lightens) towards the edges, about the frame's middle or about the subject."
    per_pixel: ClassVar[bool] = False
    kind: Literal["vignette"] = "vignette"
    ev: float = amount(-3, 2, label="Vignette", unit="EV", step=0.05)
    size: float = amount(20, 100, label="Size", unit="%", neutral=70, scales=False)
    softness: float = amount(5, 100, label="Softness", unit="%", neutral=60, scales=False)
    roundness: float = amount(0, 100, label="Roundness", unit="%", neutral=0, scales=False)
    centre: Literal["frame", "subject"] = Field(default="frame", title="Centred on")
    across: float = amount(-50, 50, label="Moved across", unit="%", scales=False)
    down: float = amount(-50, 50, label="Moved down", unit="%", scales=False)
    tinted: float = amount(0, 100, label="Colour", unit="%")
    colour: Colour = extra("#e8dcc8", "Which colour", "colour")
    left: float = amount(0, 200, label="On the left", unit="%", neutral=100, scales=False)
    right: float = amount(0, 200, label="On the right", unit="%", neutral=100, scales=False)
    top: float = amount(0, 200, label="At the top", unit="%", neutral=100, scales=False)
    bottom: float = amount(0, 200, label="At the bottom", unit="%", neutral=100, scales=False)
    later: ClassVar[tuple[str, ...]] = ("across", "down", "tinted", "colour", "left", "right", "top", "bottom")

    def operations(self, below: Below) -> list[Op]:
        box = below.facts.subject_box if self.centre == "subject" else None
        cx, cy = ((box.x0 + box.x1) / 2, (box.y0 + box.y1) / 2) if box else (0.5, 0.5)
        cx, cy = cx + self.across / 100.0, cy + self.down / 100.0
        # half axes in frame units that reach the corner: (1/√2, 1/√2) for the frame's shape; a circle has equal pixels
        circle_y = math.hypot(below.aspect, 1.0) / 2
        circle_x = circle_y / below.aspect
        r = self.roundness / 100.0
        rx, ry = (1 - r) * math.sqrt(0.5) + r * circle_x, (1 - r) * math.sqrt(0.5) + r * circle_y
        half = self.softness / 200.0
        start = max(self.size / 100.0 - half, 0.0)
        sides = (self.left / 100.0, self.right / 100.0, self.top / 100.0, self.bottom / 100.0)
        ellipse = (cx, cy, 1 / rx, 1 / ry, self.ev, start, start + 2 * half)
        return [Op(Code.RADIAL, (*ellipse, *sides, *map(float, linear_of(self.colour)), self.tinted / 100.0))]

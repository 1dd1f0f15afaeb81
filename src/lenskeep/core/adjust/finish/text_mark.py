"""Text mark: a line of text in a corner or in the middle, crisp at every output size."""

from typing import ClassVar, Literal

import numpy as np

from lenskeep.core.adjust.base import Adjustment, Below, Colour, amount, extra
from lenskeep.core.adjust.shared.sheets import levels_of
from lenskeep.core.colour.named import linear_of
from lenskeep.core.engine.ops import Code, Op, Sheet

HEIGHT = 360
"""Pixels in which a line is drawn; at 24 megapixels a line of 6 % is as tall."""
MARGIN = 0.025
Place = Literal["bottom right", "bottom left", "bottom middle", "top right", "top left", "middle"]


class TextMark(Adjustment):
    label: ClassVar[str] = "Text mark"
    group: ClassVar[str] = "Finish"
    help: ClassVar[str] = "A line of text, such as a name or a date; its height is in per cent of the long side."
    per_pixel: ClassVar[bool] = False
    kind: Literal["text_mark"] = "text_mark"
    opacity: float = amount(0, 100, label="Text mark", unit="%")
    text: str = extra("", "Text", "text", maxLength=80)
    face: Literal["plain", "bold", "display"] = extra("plain", "Lettering", "choice")
    place: Place = extra("bottom right", "Place", "choice")
    size: float = amount(0.5, 12, label="Height", unit="% of side", neutral=2.5, scales=False, step=0.1)
    colour: Colour = extra("#ffffff", "Colour", "colour")

    def is_neutral(self) -> bool:
        return not self.text.strip() or super().is_neutral()

    def operations(self, below: Below) -> list[Op]:
        if below.letters is None:
            return []
        cover = np.asarray(below.letters(self.text.strip()[:80], self.face, HEIGHT), np.float32)
        per_long = max(1.0, 1.0 / below.aspect)  # the long side in widths of the frame
        high = self.size / 100.0 * per_long * below.aspect
        wide = self.size / 100.0 * per_long * cover.shape[1] / cover.shape[0]
        if wide > 1.0 - 2 * MARGIN:  # too long for the frame: smaller, not cut
            high, wide = high * (1.0 - 2 * MARGIN) / wide, 1.0 - 2 * MARGIN
        margin_x, margin_y = MARGIN * per_long, MARGIN * per_long * below.aspect
        x = {"right": 1.0 - margin_x - wide, "left": margin_x}.get(self.place.split()[-1], (1.0 - wide) / 2)
        y = {"bottom": 1.0 - margin_y - high, "top": margin_y}.get(self.place.split()[0], (1.0 - high) / 2)
        sheet = Sheet(levels_of(linear_of(self.colour), cover), (x, y, wide, high))
        return [Op(Code.SHEET, (self.opacity / 100.0,), sheet=sheet)]

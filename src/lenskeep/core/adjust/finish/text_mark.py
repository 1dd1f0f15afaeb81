"""Text or logo: lines of text, or a picture, in a corner, in the middle or where the frame is emptiest.

Emptiest is the corner of the untouched frame with the least contrast and the least of the subject, on each frame anew.
"""

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from lenskeep.core.adjust.base import Adjustment, Below, Colour, Letters, amount, extra
from lenskeep.core.adjust.shared.sheets import levels_of, light_and_cover
from lenskeep.core.assets import AssetKey
from lenskeep.core.colour.named import linear_of
from lenskeep.core.engine.ops import Code, Op, Sheet
from lenskeep.core.engine.planes import log_luminance
from lenskeep.core.types import Alpha, Float

HEIGHT = 360
"""Pixels in which a line is drawn; at 24 megapixels a line of 6 % is as tall."""
MARGIN = 0.025
BREAK, MOST_LINES = "|", 4
Place = Literal[
    "bottom right", "bottom left", "bottom middle", "top right", "top left", "middle", "the emptiest corner"
]
CORNERS: tuple[Place, ...] = ("bottom right", "bottom left", "top right", "top left")


class TextMark(Adjustment):
    label: ClassVar[str] = "Text or logo"
    group: ClassVar[str] = "Finish"
    help: ClassVar[str] = (
        "A name or a date, | begins a new line; or a logo. The height of a line or of the logo is in per cent of the "
        "long side."
    )
    per_pixel: ClassVar[bool] = False
    kind: Literal["text_mark"] = "text_mark"
    opacity: float = amount(0, 100, label="Text or logo", unit="%")
    text: str = extra("", "Text", "text", maxLength=80)
    name: str = Field(default="", max_length=120)
    picture: AssetKey = extra("", "Logo in place of a text", "picture")
    face: Literal["plain", "bold", "display", "book", "narrow", "script", "figures"] = extra(
        "plain", "Lettering", "choice"
    )
    place: Place = extra("bottom right", "Place", "choice")
    size: float = amount(0.5, 30, label="Height", unit="% of side", neutral=2.5, scales=False, step=0.1)
    colour: Colour = extra("#ffffff", "Colour", "colour")
    spacing: float = amount(0, 100, label="Between lines", unit="%", neutral=20, scales=False)
    across: float = amount(-50, 50, label="Moved across", unit="%", scales=False)
    down: float = amount(-50, 50, label="Moved down", unit="%", scales=False)
    later: ClassVar[tuple[str, ...]] = ("spacing", "across", "down", "name", "picture")
    asset_fields: ClassVar[tuple[str, ...]] = ("picture",)
    shown_at: ClassVar[dict[str, float]] = {"opacity": 100.0}

    def is_neutral(self) -> bool:
        return not (self.text.strip() or self.picture) or super().is_neutral()

    def operations(self, below: Below) -> list[Op]:
        place = self._emptiest(below) if self.place == "the emptiest corner" else self.place
        drawn = self._logo(below) if self.picture else self._text(below, place)
        if drawn is None:
            return []
        light, cover, lines = drawn
        per_long = max(1.0, 1.0 / below.aspect)  # the long side in widths of the frame
        high = self.size / 100.0 * per_long * below.aspect * lines
        wide = self.size / 100.0 * per_long * lines * cover.shape[1] / cover.shape[0]
        if wide > 1.0 - 2 * MARGIN:  # too long for the frame: smaller, not cut
            high, wide = high * (1.0 - 2 * MARGIN) / wide, 1.0 - 2 * MARGIN
        margin_x, margin_y = MARGIN * per_long, MARGIN * per_long * below.aspect
        x = {"right": 1.0 - margin_x - wide, "left": margin_x}.get(place.split()[-1], (1.0 - wide) / 2)
        y = {"bottom": 1.0 - margin_y - high, "top": margin_y}.get(place.split()[0], (1.0 - high) / 2)
        x, y = x + self.across / 100.0, y + self.down / 100.0
        sheet = Sheet(levels_of(light, cover), (x, y, wide, high))
        return [Op(Code.SHEET, (self.opacity / 100.0,), sheet=sheet)]

    def _logo(self, below: Below) -> tuple[Float, Alpha, float] | None:
        """The picture's light and cover, and how many lines tall it is; None where it is not there."""
        pixels = below.assets.picture(self.picture)
        return None if pixels is None else (*light_and_cover(pixels), 1.0)

    def _text(self, below: Below, place: str) -> tuple[Float, Alpha, float] | None:
        """The same of the text."""
        return None if below.letters is None else (linear_of(self.colour), *self._lines(below.letters, place))

    def _lines(self, letters: Letters, place: str) -> tuple[Alpha, float]:
        """All lines as one cover, drawn towards the side that they stand at, and how many lines tall it is."""
        texts = [t.strip() for t in self.text.strip()[:80].split(BREAK) if t.strip()][:MOST_LINES]
        drawn = [np.asarray(letters(text, self.face, HEIGHT), np.float32) for text in texts]
        if len(drawn) == 1:
            return drawn[0], 1.0
        wide, gap = max(line.shape[1] for line in drawn), round(HEIGHT * self.spacing / 100.0)
        rows: list[Alpha] = []
        for line in drawn:
            rest = wide - line.shape[1]
            left = rest if place.endswith("right") else 0 if place.endswith("left") else rest // 2
            rows.append(np.pad(line, ((0, gap), (left, rest - left))))
        whole = np.vstack(rows)[: -gap or None]
        return np.asarray(whole, np.float32), whole.shape[0] / drawn[0].shape[0]

    def _emptiest(self, below: Below) -> Place:
        """The corner where a line of text disturbs least."""
        lg, subject = log_luminance(below.untouched), below.mask("subject")
        h, w = lg.shape
        tall, across = max(1, h // 5), max(1, w // 3)
        busy = {}
        for corner in CORNERS:
            up, side = corner.split()
            rows = slice(0, tall) if up == "top" else slice(h - tall, h)
            part = (rows, slice(w - across, w) if side == "right" else slice(0, across))
            busy[corner] = float(lg[part].std()) + 2.0 * float(subject[part].mean())
        return min(CORNERS, key=lambda corner: busy[corner])

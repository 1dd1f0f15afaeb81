"""Overlay: an imported picture over the frame, with its transparency; the step's blend mode says how.

It is stretched, or keeps its proportions within the frame or over all of it; then turned, mirrored, made larger, moved.
"""

from typing import ClassVar, Literal, get_args

import numpy as np
from pydantic import Field

from lenskeep.core.adjust.base import Adjustment, Below, amount, extra
from lenskeep.core.adjust.shared.sheets import levels_of, light_and_cover
from lenskeep.core.assets import AssetKey
from lenskeep.core.engine.ops import Code, Op, Sheet

Turned = Literal["as it is", "a quarter right", "upside down", "a quarter left"]
QUARTERS: dict[str, int] = {name: number for number, name in enumerate(get_args(Turned))}


class Overlay(Adjustment):
    label: ClassVar[str] = "Overlay"
    group: ClassVar[str] = "Finish"
    help: ClassVar[str] = "A picture of your own over the frame, such as a light leak or paper; choose how it blends."
    per_pixel: ClassVar[bool] = False
    kind: Literal["overlay"] = "overlay"
    cover: float = amount(0, 100, label="Overlay", unit="%")
    name: str = Field(default="", max_length=120)
    picture: AssetKey = extra("", "Picture", "picture")
    fit: Literal["stretched", "whole, within", "over all of it"] = extra("stretched", "Fits the frame", "choice")
    turned: Turned = extra("as it is", "Turned", "choice")
    mirrored: bool = extra(False, "Mirrored", "tick")
    size: float = amount(10, 300, label="Size", unit="%", neutral=100, scales=False)
    across: float = amount(-100, 100, label="Moved across", unit="%", scales=False)
    down: float = amount(-100, 100, label="Moved down", unit="%", scales=False)
    later: ClassVar[tuple[str, ...]] = ("fit", "turned", "mirrored", "size", "across", "down")
    asset_fields: ClassVar[tuple[str, ...]] = ("picture",)
    shown_at: ClassVar[dict[str, float]] = {"cover": 50.0}

    def is_neutral(self) -> bool:
        return not self.picture or super().is_neutral()

    def operations(self, below: Below) -> list[Op]:
        pixels = below.assets.picture(self.picture)
        if pixels is None:
            return []
        pixels = np.rot90(pixels, -QUARTERS[self.turned])
        pixels = np.ascontiguousarray(pixels[:, ::-1] if self.mirrored else pixels)
        place = self._place(pixels.shape[1] / pixels.shape[0], below.aspect)
        sheet = Sheet(levels_of(*light_and_cover(pixels)), place)
        return [Op(Code.SHEET, (self.cover / 100.0,), sheet=sheet)]

    def _place(self, own: float, frame: float) -> tuple[float, float, float, float]:
        """x, y, width, height in 0…1 of the frame, of a picture and a frame with these widths over heights."""
        wide, high = 1.0, 1.0
        if self.fit != "stretched":
            wide = (min if self.fit == "whole, within" else max)(1.0, own / frame)
            high = wide * frame / own
        wide, high = wide * self.size / 100.0, high * self.size / 100.0
        x, y = 0.5 + self.across / 100.0 - wide / 2, 0.5 + self.down / 100.0 - high / 2
        return x, y, wide, high

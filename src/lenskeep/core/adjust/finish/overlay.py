"""Overlay: an imported picture stretched over the frame, with its transparency; the step's blend mode says how."""

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from lenskeep.core.adjust.base import Adjustment, Below, amount, extra
from lenskeep.core.adjust.shared.sheets import levels_of
from lenskeep.core.assets import AssetKey
from lenskeep.core.colour.spaces import SRGB_TO_REC2020
from lenskeep.core.colour.transfer import DECODE8
from lenskeep.core.engine.ops import Code, Op, Sheet


class Overlay(Adjustment):
    label: ClassVar[str] = "Overlay"
    group: ClassVar[str] = "Finish"
    help: ClassVar[str] = "A picture of your own over the frame, such as a light leak or paper; choose how it blends."
    per_pixel: ClassVar[bool] = False
    kind: Literal["overlay"] = "overlay"
    cover: float = amount(0, 100, label="Overlay", unit="%")
    name: str = Field(default="", max_length=120)
    picture: AssetKey = extra("", "Picture", "picture")
    asset_fields: ClassVar[tuple[str, ...]] = ("picture",)

    def is_neutral(self) -> bool:
        return not self.picture or super().is_neutral()

    def operations(self, below: Below) -> list[Op]:
        pixels = below.assets.picture(self.picture)
        if pixels is None:
            return []
        linear = DECODE8[pixels[..., :3]] @ SRGB_TO_REC2020.T.astype(np.float32)
        cover = pixels[..., 3].astype(np.float32) / np.float32(255.0)
        sheet = Sheet(levels_of(np.asarray(linear, np.float32), cover))
        return [Op(Code.SHEET, (self.cover / 100.0,), sheet=sheet)]

"""How parts make a region: combined left to right, inverted, feathered, limited; and the region as a sentence."""

from typing import Annotated

import cv2
import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from lenskeep.core.regions.background import Background
from lenskeep.core.regions.base import Found, Part
from lenskeep.core.regions.pool import Pool
from lenskeep.core.regions.ramp import Ramp
from lenskeep.core.regions.sky import Sky
from lenskeep.core.regions.subject import Subject
from lenskeep.core.types import Alpha

AnyPart = Annotated[Subject | Background | Sky | Ramp | Pool, Field(discriminator="kind")]
PART_KINDS: dict[str, type[Part]] = {
    cls.model_fields["kind"].default: cls for cls in (Subject, Background, Sky, Ramp, Pool)
}
"""Every part by its kind, in the order the interface lists them. A new kind is one file and one entry here."""
_LINK = {"add": "and", "take away": "without", "only within": "only within"}


def combine(a: Alpha, b: Alpha, how: str) -> Alpha:
    """``a`` with ``b`` added (a + b - ab), taken away (a(1 - b)) or as a limit (ab); raises ValueError otherwise."""
    if how == "add":
        return np.asarray(a + b - a * b, np.float32)
    if how == "take away":
        return np.asarray(a * (1.0 - b), np.float32)
    if how == "only within":
        return np.asarray(a * b, np.float32)
    raise ValueError(f"unknown way to combine parts: {how}")


class Region(BaseModel):
    """Where a step works. Without parts it is the whole frame. ``feather`` is a fraction of the long side."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    parts: list[AnyPart] = []
    invert: bool = False
    feather: float = Field(default=0.0, ge=0.0, le=0.1)
    ceiling: float = Field(default=1.0, ge=0.0, le=1.0)

    @property
    def is_whole(self) -> bool:
        return not self.parts and not self.invert and self.ceiling == 1.0

    def alpha(self, found: Found) -> Alpha:
        """Alpha (h, w) at the proxy size of ``found``; anchors and masks that are missing are noted there."""
        if not self.parts:
            total = np.ones(found.shape, np.float32)
        else:
            total = np.zeros(found.shape, np.float32)
            for i, part in enumerate(self.parts):
                own = part.alpha(found)
                own = np.asarray(1.0 - own, np.float32) if part.invert else own
                total = own if i == 0 else combine(total, own, part.combine)
        if self.invert:
            total = np.asarray(1.0 - total, np.float32)
        if self.feather > 0:
            sigma = max(self.feather * max(found.shape), 0.3)
            total = np.asarray(cv2.GaussianBlur(total, (0, 0), sigma, borderType=cv2.BORDER_REFLECT), np.float32)
        return np.asarray(np.clip(total, 0.0, 1.0) * np.float32(self.ceiling), np.float32)

    def sentence(self) -> str:
        """The region in words, such as "background, only within ramp"."""
        if not self.parts:
            return "nowhere" if self.invert else "whole frame"
        words = []
        for i, part in enumerate(self.parts):
            own = f"not {part.words()}" if part.invert else part.words()
            words.append(own if i == 0 else f"{_LINK[part.combine]} {own}")
        text = words[0] + "".join(w if w.startswith(" and") else f", {w}" for w in words[1:])
        return f"all but ({text})" if self.invert else text

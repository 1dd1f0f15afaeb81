"""Image: an imported grey picture as a mask, stretched to the frame."""

import base64
from typing import ClassVar, Literal

import cv2
import numpy as np
from pydantic import Field, field_validator

from lenskeep.core.pictured import decoded
from lenskeep.core.regions.base import Found, Part
from lenskeep.core.types import Alpha, Mask8

LONGEST = 1024
MOST_TEXT = 1_500_000


class ImagePart(Part):
    """``png`` is a grey PNG, base64; white is inside. It travels with the recipe."""

    label: ClassVar[str] = "Image"
    group: ClassVar[str] = "Drawn"
    help: ClassVar[str] = "A grey PNG of your own, stretched to each frame: white is inside."
    kind: Literal["image"] = "image"
    editor: ClassVar[str] = "image"
    drawn: ClassVar[bool] = True
    name: str = Field(default="", max_length=120)
    png: str = Field(default="", max_length=MOST_TEXT)

    @field_validator("png")
    @classmethod
    def _is_png(cls, text: str) -> str:
        if text and _decoded(text) is None:
            raise ValueError("this is not a PNG picture; save the mask as a grey PNG and bring that in")
        return text

    def alpha(self, found: Found) -> Alpha:
        picture = _decoded(self.png) if self.png else None
        if picture is None:
            return np.zeros(found.shape, np.float32)
        h, w = found.shape
        how = cv2.INTER_AREA if picture.size > h * w else cv2.INTER_LINEAR
        return np.asarray(cv2.resize(picture, (w, h), interpolation=how), np.float32) / np.float32(255.0)

    def words(self) -> str:
        return "image" if self.png else "image still to bring in"


def _decoded(text: str) -> Mask8 | None:
    return decoded(text, cv2.IMREAD_GRAYSCALE, ("PNG",))


def image_text(picture: Mask8) -> str:
    """A grey picture (h, w) uint8 as the ``png`` of an image part, reduced to ``LONGEST``."""
    scale = min(1.0, LONGEST / max(picture.shape))
    if scale < 1.0:
        size = (max(1, round(picture.shape[1] * scale)), max(1, round(picture.shape[0] * scale)))
        picture = np.asarray(cv2.resize(picture, size, interpolation=cv2.INTER_AREA), np.uint8)
    ok, data = cv2.imencode(".png", picture, [cv2.IMWRITE_PNG_COMPRESSION, 9])
    if not ok:
        raise ValueError("This picture can't be used as a mask.")
    return base64.b64encode(data.tobytes()).decode()

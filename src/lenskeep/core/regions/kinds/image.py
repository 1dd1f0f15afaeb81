"""Image: an imported grey picture as a mask, stretched to the frame."""

from typing import ClassVar, Literal

import cv2
import numpy as np
from pydantic import Field

from lenskeep.core.assets import AssetKey
from lenskeep.core.regions.base import Found, Part
from lenskeep.core.types import Alpha


class ImagePart(Part):
    """``picture`` is the key of a grey picture; white is inside."""

    label: ClassVar[str] = "Image"
    group: ClassVar[str] = "Drawn"
    help: ClassVar[str] = "A grey PNG of your own, stretched to each frame: white is inside."
    kind: Literal["image"] = "image"
    editor: ClassVar[str] = "image"
    drawn: ClassVar[bool] = True
    name: str = Field(default="", max_length=120)
    picture: AssetKey = ""
    asset_fields: ClassVar[tuple[str, ...]] = ("picture",)

    def alpha(self, found: Found) -> Alpha:
        picture = found.assets.grey(self.picture) if self.picture else None
        if picture is None:
            return np.zeros(found.shape, np.float32)
        h, w = found.shape
        how = cv2.INTER_AREA if picture.size > h * w else cv2.INTER_LINEAR
        return np.asarray(cv2.resize(picture, (w, h), interpolation=how), np.float32) / np.float32(255.0)

    def words(self) -> str:
        return "image" if self.picture else "image still to bring in"

"""Overlay: an imported picture stretched over the frame, with its transparency; the step's blend mode says how."""

import base64
from typing import ClassVar, Literal

import cv2
import numpy as np
from pydantic import Field, field_validator

from lenskeep.core.adjust.base import Adjustment, Below, amount, extra
from lenskeep.core.adjust.shared.sheets import levels_of
from lenskeep.core.colour.spaces import SRGB_TO_REC2020
from lenskeep.core.colour.transfer import DECODE8
from lenskeep.core.engine.ops import Code, Op, Sheet
from lenskeep.core.pictured import decoded

LONGEST = 2048
MOST_TEXT = 4_000_000


class Overlay(Adjustment):
    label: ClassVar[str] = "Overlay"
    group: ClassVar[str] = "Finish"
    help: ClassVar[str] = "A picture of your own over the frame, such as a light leak or paper; choose how it blends."
    per_pixel: ClassVar[bool] = False
    kind: Literal["overlay"] = "overlay"
    cover: float = amount(0, 100, label="Overlay", unit="%")
    name: str = Field(default="", max_length=120)
    picture: str = extra("", "Picture", "picture", maxLength=MOST_TEXT)

    @field_validator("picture")
    @classmethod
    def _is_picture(cls, text: str) -> str:
        if len(text) > MOST_TEXT or (text and _decoded(text) is None):
            raise ValueError("this is not a PNG or JPEG that can be laid over; save it as PNG and bring that in")
        return text

    def is_neutral(self) -> bool:
        return not self.picture or super().is_neutral()

    def operations(self, below: Below) -> list[Op]:
        pixels = _decoded(self.picture)
        if pixels is None:
            return []
        linear = DECODE8[pixels[..., 2::-1]] @ SRGB_TO_REC2020.T.astype(np.float32)
        cover = pixels[..., 3].astype(np.float32) / np.float32(255.0)
        sheet = Sheet(levels_of(np.asarray(linear, np.float32), cover))
        return [Op(Code.SHEET, (self.cover / 100.0,), sheet=sheet)]


def _decoded(text: str) -> "np.ndarray | None":
    """(h, w, 4) uint8 blue, green, red, coverage; None when it can't be read."""
    pixels = decoded(text, cv2.IMREAD_UNCHANGED)
    if pixels is None:
        return None
    if pixels.ndim == 2:
        return np.asarray(cv2.cvtColor(pixels, cv2.COLOR_GRAY2BGRA), np.uint8)
    return pixels if pixels.shape[2] == 4 else np.asarray(cv2.cvtColor(pixels, cv2.COLOR_BGR2BGRA), np.uint8)


def overlay_text(pixels: "np.ndarray") -> str:
    """(h, w, 4) uint8 red, green, blue, coverage as the ``picture`` of an overlay, reduced to ``LONGEST``."""
    scale = min(1.0, LONGEST / max(pixels.shape[:2]))
    while True:
        size = (max(1, round(pixels.shape[1] * scale)), max(1, round(pixels.shape[0] * scale)))
        small = cv2.resize(pixels, size, interpolation=cv2.INTER_AREA) if scale < 1.0 else pixels
        ok, data = cv2.imencode(".png", small[..., [2, 1, 0, 3]], [cv2.IMWRITE_PNG_COMPRESSION, 9])
        if not ok:
            raise ValueError("This picture can't be laid over.")
        text = base64.b64encode(data.tobytes()).decode()
        if len(text) <= MOST_TEXT:
            return text
        scale *= 0.7

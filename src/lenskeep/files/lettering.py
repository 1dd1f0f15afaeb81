"""Lettering for text marks, in the typefaces that ship with the interface (SIL OFL)."""

import io
from functools import lru_cache
from importlib.resources import files

import numpy as np
from PIL import Image, ImageDraw, ImageFont

from lenskeep.core.types import Alpha

FACES = {
    "plain": "atkinson-400.woff2",
    "bold": "atkinson-600.woff2",
    "display": "bricolage.woff2",
    "book": "garamond.woff2",
    "narrow": "oswald.woff2",
    "script": "vibes.woff2",
    "figures": "atkinson-mono-400.woff2",
}


@lru_cache(maxsize=6)
def font(face: str, size: int) -> ImageFont.FreeTypeFont:
    """A face of ``FACES``; ``size`` in pixels."""
    data = (files("lenskeep") / "web" / "static" / "fonts" / FACES[face]).read_bytes()
    return ImageFont.truetype(io.BytesIO(data), size)


@lru_cache(maxsize=16)
def letters(text: str, face: str, height: int) -> Alpha:
    """A line of text as coverage (height, width) 0…1, as wide as it needs."""
    drawn = font(face, round(height * 0.76))
    width = max(1, round(drawn.getlength(text)) + height // 6)
    image = Image.new("L", (width, height), 0)
    ImageDraw.Draw(image).text((height // 12, height * 0.74), text, fill=255, font=drawn, anchor="ls")
    return np.asarray(image, np.float32) / np.float32(255.0)

"""PNG of 8 or 16 bits, without loss: profile and EXIF kept (W3C PNG, third edition: chunks iCCP and eXIf)."""

import struct
import zlib

import imagecodecs
import numpy as np
from PIL import Image

from lenskeep.core.colour.spaces import OutputSpace
from lenskeep.core.engine.encode import EIGHT_BITS, SIXTEEN_BITS
from lenskeep.core.engine.encode.base import Numbers
from lenskeep.files.icc import output_profile
from lenskeep.files.reading.exif import upright_exif
from lenskeep.files.writing.form import Form

LEVEL, FAST = 6, 0
XMP_KEYWORD = b"XML:com.adobe.xmp"
"""As ISO 16684-1 names the chunk."""
_HEAD = 8 + 25
"""Bytes of the signature and of the first chunk, IHDR, after which others may come."""


def _chunk(kind: bytes, data: bytes) -> bytes:
    return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))


def png_bytes(
    pixels: Numbers,
    exif: Image.Exif | None = None,
    space: OutputSpace | None = "srgb",
    level: int = LEVEL,
    xmp: bytes = b"",
) -> bytes:
    """A PNG of 8- or 16-bit pixels (h, w, 3); without a ``space`` it names none, which screens read as sRGB."""
    data = bytes(imagecodecs.png_encode(np.ascontiguousarray(pixels), level=level))
    chunks = b"" if space is None else _chunk(b"iCCP", b"profile\0\0" + zlib.compress(output_profile(space)))
    if exif is not None and (kept := upright_exif(exif, pixels.shape[1], pixels.shape[0])):
        chunks += _chunk(b"eXIf", kept.removeprefix(b"Exif\0\0"))
    if xmp:
        chunks += _chunk(b"iTXt", XMP_KEYWORD + b"\0\0\0\0\0" + xmp)
    return data[:_HEAD] + chunks + data[_HEAD:]


def _written(pixels: Numbers, _quality: int, exif: Image.Exif | None, space: OutputSpace, xmp: bytes) -> bytes:
    return png_bytes(pixels, exif, space, xmp=xmp)


PNG = Form("png", "PNG, 8 bits", ".png", EIGHT_BITS, _written, 2.6)
PNG16 = Form("png16", "PNG, 16 bits", ".png", SIXTEEN_BITS, _written, 5.6)

"""JPEG read; JPEG written: quality, 4:4:4 from 90 up, profile, EXIF kept."""

import io

import imagecodecs
import numpy as np
from PIL import Image

from lenskeep.core.colour.spaces import OutputSpace
from lenskeep.core.engine.encode import EIGHT_BITS
from lenskeep.core.engine.encode.base import Numbers
from lenskeep.core.types import SRGB8
from lenskeep.files.icc import output_profile
from lenskeep.files.reading.exif import upright_exif
from lenskeep.files.writing.form import Form

FULL_CHROMA_FROM = 90
_HEAD, _TABLES = 20, 0xDB
"""The start of the picture and its JFIF segment, in bytes; and the marker that quantization tables begin with."""


def jpeg_bytes(
    pixels: SRGB8,
    quality: int = 92,
    exif: Image.Exif | None = None,
    with_profile: bool = True,
    space: OutputSpace = "srgb",
    xmp: bytes = b"",
) -> bytes:
    """A JPEG (bytes) of 8-bit pixels (h, w, 3) in ``space``, which its profile names; ``quality`` 1…100."""
    options: dict[str, object] = {"quality": quality, "subsampling": 0 if quality >= FULL_CHROMA_FROM else 2}
    if with_profile:
        options["icc_profile"] = output_profile(space)
    if exif is not None and (data := upright_exif(exif, pixels.shape[1], pixels.shape[0])):
        options["exif"] = data
    if xmp:
        options["xmp"] = xmp
    # the library that knows profiles and fields would copy the whole picture twice before it is encoded: it writes the
    # head of a small one, and the codec below it, which makes the same bits of the pixels, the rest
    head = io.BytesIO()
    Image.new("RGB", (8, 8)).save(head, "JPEG", **options)
    sampled = "444" if quality >= FULL_CHROMA_FROM else "420"
    data = bytes(imagecodecs.jpeg8_encode(np.ascontiguousarray(pixels), quality, subsampling=sampled))
    return b"".join((data[:_HEAD], _fields(head.getvalue()), data[_HEAD:]))


def _fields(data: bytes) -> bytes:
    """What stands between the head of a JPEG and its tables: profile, EXIF, XMP."""
    at = _HEAD
    while data[at + 1] != _TABLES:
        at += 2 + int.from_bytes(data[at + 2 : at + 4], "big")
    return data[_HEAD:at]


def _written(pixels: Numbers, quality: int, exif: Image.Exif | None, space: OutputSpace, xmp: bytes) -> bytes:
    return jpeg_bytes(pixels, quality, exif, space=space, xmp=xmp)


JPEG = Form("jpeg", "JPEG", ".jpg", EIGHT_BITS, _written, 0.8)


def preview_jpeg(pixels: SRGB8, quality: int) -> bytes:
    """A JPEG for the screen, written as fast as may be: no profile, no EXIF, colour at half the detail."""
    return bytes(imagecodecs.jpeg8_encode(np.ascontiguousarray(pixels), quality, subsampling="420"))


def screen_jpeg(pixels: SRGB8, quality: int, space: OutputSpace) -> bytes:
    """A JPEG for a screen: as fast as may be in sRGB, which needs no profile; in other spaces with theirs."""
    return preview_jpeg(pixels, quality) if space == "srgb" else jpeg_bytes(pixels, quality, space=space)


def jpeg_pixels(data: bytes) -> SRGB8:
    """The pixels (h, w, 3) of a colour JPEG, the first one where several lie behind each other.

    Raises EOFError when the end is missing, ValueError when it can't be decoded.
    """
    if not _has_end(data):
        raise EOFError("the JPEG's end is missing")
    try:
        # straight into an array: half the time of a decoder with memory of its own, from which it is copied
        return np.asarray(imagecodecs.jpeg8_decode(data, outcolorspace="RGB"), np.uint8)
    except imagecodecs.Jpeg8Error as error:
        raise ValueError("the JPEG can't be decoded") from error


def _has_end(data: bytes) -> bool:
    """Whether the end marker follows the first scan; the decoder would fill what is missing with grey, unsaid."""
    at = 2
    while at + 4 <= len(data) and data[at] == 0xFF:
        marker = data[at + 1]
        if marker == 0xFF:  # a fill byte
            at += 1
        elif marker == 0xDA:
            return data.rfind(b"\xff\xd9", at) >= 0  # from its end, where it is but for a truncated one
        else:
            at += 2 + int.from_bytes(data[at + 2 : at + 4], "big")
    return False

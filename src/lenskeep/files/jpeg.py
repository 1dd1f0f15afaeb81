"""JPEG written: quality, 4:4:4 from 90 up, sRGB profile, EXIF kept."""

import io

import imagecodecs
import numpy as np
from PIL import Image

from lenskeep.core.types import SRGB8
from lenskeep.files.exif import upright_exif
from lenskeep.files.icc import srgb_profile

FULL_CHROMA_FROM = 90


def jpeg_bytes(pixels: SRGB8, quality: int = 92, exif: Image.Exif | None = None, with_profile: bool = True) -> bytes:
    """A JPEG (bytes) of 8-bit sRGB pixels (h, w, 3); ``quality`` 1…100."""
    options: dict[str, object] = {"quality": quality, "subsampling": 0 if quality >= FULL_CHROMA_FROM else 2}
    if with_profile:
        options["icc_profile"] = srgb_profile()
    if exif is not None and (data := upright_exif(exif, pixels.shape[1], pixels.shape[0])):
        options["exif"] = data
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "JPEG", **options)
    return out.getvalue()


def preview_jpeg(pixels: SRGB8, quality: int) -> bytes:
    """A JPEG for the screen, written as fast as may be: no profile, no EXIF, colour at half the detail."""
    return bytes(imagecodecs.jpeg8_encode(np.ascontiguousarray(pixels), quality, subsampling="420"))

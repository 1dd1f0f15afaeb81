"""TIFF of 8 or 16 bits (TIFF 6.0, with ICC profile): without loss, packed by Deflate with horizontal differences."""

import io

import numpy as np
import tifffile
from PIL import Image

from lenskeep.core.colour.spaces import OutputSpace
from lenskeep.core.engine.encode import EIGHT_BITS, LINEAR_BITS, SIXTEEN_BITS
from lenskeep.core.engine.encode.base import Numbers
from lenskeep.files.icc import linear_profile, output_profile
from lenskeep.files.reading.exif import capture_time, copied
from lenskeep.files.writing.form import Form

ROWS = 256
XMP = 700
SOFTWARE = "Lens Keep"
_TEXTS = {270: "description", 315: "artist", 33432: "copyright"}


def tiff_bytes(
    pixels: Numbers,
    exif: Image.Exif | None = None,
    space: OutputSpace = "srgb",
    xmp: bytes = b"",
    linear: bool = False,
) -> bytes:
    """A TIFF of 8- or 16-bit pixels (h, w, 3) in ``space``, maybe ``linear``, which its profile names.

    Of the EXIF it keeps maker, model, when it was taken, and the texts that TIFF has tags of its own for.
    """
    out = io.BytesIO()
    extra: list[tuple[int, int, int, bytes, bool]] = []
    if xmp:
        extra.append((XMP, 1, len(xmp), xmp, True))
    if exif is not None:
        texts = copied(exif)
        for tag in (271, 272, *_TEXTS):
            held = texts.get(tag, b"")
            text = held if isinstance(held, bytes) else str(held).encode()
            if text := text.strip(b"\x00 "):
                extra.append((tag, 2, len(text) + 1, text + b"\0", True))
    taken = capture_time(exif) if exif is not None else None
    tifffile.imwrite(
        out,
        np.ascontiguousarray(pixels),
        photometric="rgb",
        compression="zlib",
        compressionargs={"level": 6},
        predictor=True,
        rowsperstrip=ROWS,
        iccprofile=linear_profile(space) if linear else output_profile(space),
        software=SOFTWARE,
        datetime=taken,
        metadata=None,
        extratags=extra,
    )
    return out.getvalue()


def _written(pixels: Numbers, _quality: int, exif: Image.Exif | None, space: OutputSpace, xmp: bytes) -> bytes:
    return tiff_bytes(pixels, exif, space, xmp)


def _linear(pixels: Numbers, _quality: int, exif: Image.Exif | None, space: OutputSpace, xmp: bytes) -> bytes:
    return tiff_bytes(pixels, exif, space, xmp, linear=True)


TIFF = Form("tiff", "TIFF, 8 bits", ".tif", EIGHT_BITS, _written, 2.6)
TIFF16 = Form("tiff16", "TIFF, 16 bits", ".tif", SIXTEEN_BITS, _written, 5.8)
TIFF_LINEAR = Form("tifflinear", "TIFF, 16 bits, linear, as a master", ".tif", LINEAR_BITS, _linear, 5.8)

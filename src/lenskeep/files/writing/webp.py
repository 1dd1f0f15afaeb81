"""WebP and AVIF: small files for pages, with profile and EXIF, by the encoders that Pillow brings."""

import io

from PIL import Image

from lenskeep.core.colour.spaces import OutputSpace
from lenskeep.core.engine.encode import EIGHT_BITS
from lenskeep.core.engine.encode.base import Numbers
from lenskeep.files.icc import output_profile
from lenskeep.files.reading.exif import upright_exif
from lenskeep.files.writing.form import Form, Write


def _written_as(kind: str, **more: object) -> Write:
    def written(pixels: Numbers, quality: int, exif: Image.Exif | None, space: OutputSpace, xmp: bytes) -> bytes:
        options: dict[str, object] = {"quality": quality, "icc_profile": output_profile(space), **more}
        # AVIF says by itself how it lies; with the tag, too, Pillow writes the EXIF anew and loses letters beyond ASCII
        if exif is not None and (data := upright_exif(exif, pixels.shape[1], pixels.shape[0], kind != "AVIF")):
            options["exif"] = data
        if xmp:
            options["xmp"] = xmp
        out = io.BytesIO()
        Image.fromarray(pixels).save(out, kind, **options)
        return out.getvalue()

    return written


WEBP = Form("webp", "WebP", ".webp", EIGHT_BITS, _written_as("WEBP", method=4), 0.5)
AVIF = Form("avif", "AVIF", ".avif", EIGHT_BITS, _written_as("AVIF", speed=7, subsampling="4:4:4"), 0.4)

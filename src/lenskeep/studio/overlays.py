"""Pictures brought in to be laid over frames, as the fields of the adjustment that refers to them, and as its asset."""

import io
from typing import Any

import numpy as np
from PIL import Image

from lenskeep.files.assets import LONGEST_PICTURE, asset_key, packed_picture
from lenskeep.files.problems import PhotoProblem

MOST_PIXELS = 60_000_000


def overlay_of_upload(data: bytes, name: str) -> tuple[dict[str, Any], bytes]:
    """Of a PNG or JPEG. Raises PhotoProblem."""
    try:
        with Image.open(io.BytesIO(data)) as image:
            if image.format not in ("PNG", "JPEG", "MPO"):
                raise PhotoProblem(f"{name} is a {image.format} file. Save it as PNG or JPEG.")
            if image.width * image.height > MOST_PIXELS:
                raise PhotoProblem(f"{name} is too large. Save it with a long side of at most 7,000 pixels.")
            image.draft("RGB", (LONGEST_PICTURE, LONGEST_PICTURE))  # a JPEG is made smaller while it is decoded
            image.thumbnail((2 * LONGEST_PICTURE, 2 * LONGEST_PICTURE))
            pixels = np.asarray(image.convert("RGBA"), np.uint8)
    except PhotoProblem:
        raise
    except Exception as error:  # decoders of every kind raise errors of every kind
        raise PhotoProblem(f"{name} can't be read as a picture. Save it as PNG or JPEG.") from error
    asset = packed_picture(pixels)
    return {"name": name[-120:], "picture": asset_key(asset)}, asset

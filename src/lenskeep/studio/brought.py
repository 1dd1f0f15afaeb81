"""Files brought in for an adjustment: colour tables and overlay pictures, as the fields that hold them."""

import io
from typing import Any

import numpy as np
from PIL import Image

from lenskeep.core.adjust.overlay import overlay_text
from lenskeep.files.cube import read_cube
from lenskeep.files.photo import MOST_PIXELS
from lenskeep.files.problems import PhotoProblem


def table_fields(data: bytes, name: str) -> dict[str, Any]:
    """Of a .cube file; it works in full at once. Raises CubeProblem."""
    return read_cube(data.decode("utf-8", "replace"), name).fields(name) | {"share": 100.0}


def picture_fields(data: bytes, name: str) -> dict[str, Any]:
    """Of a PNG or JPEG to lay over; half covering at first. Raises PhotoProblem."""
    try:
        with Image.open(io.BytesIO(data)) as image:
            if image.format not in ("PNG", "JPEG"):
                raise PhotoProblem(f"{name} is a {image.format} file. Save it as PNG or JPEG.")
            if image.width * image.height > MOST_PIXELS:
                raise PhotoProblem(f"{name} is too large. Save it with a long side of at most 4,000 pixels.")
            pixels = np.asarray(image.convert("RGBA"), np.uint8)
    except (OSError, ValueError, SyntaxError, MemoryError) as error:
        raise PhotoProblem(f"{name} can't be read as a picture. Save it as PNG or JPEG.") from error
    return {"name": name, "picture": overlay_text(pixels), "cover": 50.0}

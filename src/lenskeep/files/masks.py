"""Masks as grey PNG files, and brought to a photograph's own size."""

import io
from pathlib import Path

import cv2
import imagecodecs
import numpy as np
from PIL import Image

from lenskeep.core.engine.planes import guided_coefficients, mask_guide
from lenskeep.core.render import EDGE_EPS, EDGE_RADIUS, STRIP_ROWS
from lenskeep.core.types import LinearRGB, Mask8
from lenskeep.files.problems import PhotoProblem
from lenskeep.files.reading.photo import Photo

MOST_MASK_PIXELS = 40_000_000


def mask_bytes(mask: Mask8) -> bytes:
    """(h, w) uint8 as PNG, every row as what it differs by from the one above: choosing a filter row by row takes more
    than twice the time, for as many bytes.
    """
    return bytes(imagecodecs.png_encode(np.ascontiguousarray(mask), level=3, filter=imagecodecs.PNG.FILTER.UP))


def read_mask(path: Path) -> Mask8:
    """Read a grey PNG; raises PhotoProblem when it can't be read."""
    return mask_from_bytes(path.read_bytes() if path.is_file() else None, path.name)


def mask_from_bytes(data: bytes | None, name: str) -> Mask8:
    """(h, w) uint8 of a grey PNG; raises PhotoProblem when it is not there or can't be read."""
    mask = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_GRAYSCALE) if data else None
    if mask is None:
        raise PhotoProblem(f"The mask {name} can't be read.")
    return np.asarray(mask, np.uint8)


def mask_of_upload(data: bytes, name: str) -> Mask8:
    """A grey PNG that somebody brought in, (h, w) uint8; colour becomes its luma. Raises PhotoProblem."""
    try:
        with Image.open(io.BytesIO(data)) as image:
            if image.format != "PNG":
                raise PhotoProblem(f"{name} is a {image.format} file. Save the mask as a grey PNG.")
            if image.width * image.height > MOST_MASK_PIXELS:
                raise PhotoProblem(f"{name} is too large for a mask. Save it with a long side of at most 6,000 pixels.")
            return np.asarray(image.convert("L"), np.uint8)
    except PhotoProblem:
        raise
    except Exception as error:
        raise PhotoProblem(f"{name} can't be read as a picture. Save the mask as a grey PNG.") from error


def full_size_mask(mask: Mask8, proxy: LinearRGB, photo: Photo) -> Mask8:
    """A proxy-size mask at the photograph's size, by guided upsampling as the renderer does it."""
    guide = mask_guide(proxy)
    a, b = guided_coefficients(guide, mask.astype(np.float32) / 255.0, EDGE_RADIUS, EDGE_EPS)
    size = (photo.width, photo.height)
    a, b = (np.asarray(cv2.resize(p, size, interpolation=cv2.INTER_LINEAR), np.float32) for p in (a, b))
    out = np.empty((photo.height, photo.width), np.uint8)
    for first in range(0, photo.height, STRIP_ROWS):
        last = min(first + STRIP_ROWS, photo.height)
        alpha = a[first:last] * mask_guide(photo.rows(first, last)) + b[first:last]
        out[first:last] = np.rint(np.clip(alpha, 0.0, 1.0) * 255.0)
    return out

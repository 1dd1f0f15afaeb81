"""OpenRaster (freedesktop.org, 0.0.6): a picture as layers for going on elsewhere, each a PNG with its mask as alpha.

Layers are laid over each other in sRGB's numbers, as its readers do. A layer's colours are solved so that what lies
below comes out as it should through the layer's mask, and against what a reader has by then: rounding never adds up.
"""

import tempfile
import zipfile
from collections.abc import Iterable
from dataclasses import dataclass
from typing import IO
from xml.etree import ElementTree

import imagecodecs
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from lenskeep.core.colour.spaces import OutputSpace
from lenskeep.core.engine.encode import EIGHT_BITS
from lenskeep.core.engine.encode.base import Numbers
from lenskeep.core.engine.kernel.layering import STEPS, solve_layer
from lenskeep.core.engine.planes import smaller
from lenskeep.core.types import SRGB8, Mask8
from lenskeep.files.writing.form import Form
from lenskeep.files.writing.png import png_bytes

MIMETYPE = "image/openraster"
VERSION = "0.0.3"
THUMB_SIDE = 256
WHEN = (2026, 1, 1, 0, 0, 0)
"""Of the files within: the same picture is the same file on every day."""
LEVEL = 1
ALL = np.zeros((0, 0), np.uint8)
GAP = 0.5
"""Of 255: what differs by less needs no layer there."""


@dataclass(frozen=True)
class Finished:
    """The picture (h, w, 3) as it should be with a layer, 8 bits, and where that layer works, (h, w) 8 bits; None: all
    of it.
    """

    name: str
    pixels: SRGB8
    mask: Mask8 | None = None


def openraster_bytes(layers: Iterable[Finished], space: OutputSpace = "srgb") -> bytes:
    """A file of layers, the bottom one first, which fills the frame. Raises ValueError without any."""
    with tempfile.TemporaryFile() as out:  # its layers need the room in memory
        _fill(out, layers, space)
        out.seek(0)
        return out.read()


def _fill(out: IO[bytes], layers: Iterable[Finished], space: OutputSpace) -> None:
    below: NDArray[np.uint16] | None = None
    rgba: SRGB8 | None = None
    last: SRGB8 | None = None
    named: list[tuple[str, str]] = []
    with zipfile.ZipFile(out, "w") as held:
        _put(held, "mimetype", MIMETYPE.encode(), zipfile.ZIP_STORED)
        for number, layer in enumerate(layers):
            source, last = f"data/layer{number:02d}.png", layer.pixels
            if below is None or rgba is None:
                below = layer.pixels.astype(np.uint16) * np.uint16(STEPS)
                rgba = np.empty((*layer.pixels.shape[:2], 4), np.uint8)
                data = png_bytes(layer.pixels, None, space, LEVEL)
            else:
                solve_layer(below, layer.pixels, ALL if layer.mask is None else layer.mask, rgba, GAP)
                data = bytes(imagecodecs.png_encode(rgba, level=LEVEL))
            _put(held, source, data, zipfile.ZIP_STORED)
            named.append((layer.name, source))
            del layer  # while the next one is made
        below = rgba = None  # what follows needs the room
        if last is None:
            raise ValueError("a picture has at least one layer")
        h, w = last.shape[:2]
        _put(held, "stack.xml", _stack(named, w, h), zipfile.ZIP_DEFLATED)
        _put(held, "mergedimage.png", png_bytes(last, None, space, LEVEL), zipfile.ZIP_STORED)
        small = png_bytes(smaller(last, THUMB_SIDE), None, space)
        _put(held, "Thumbnails/thumbnail.png", small, zipfile.ZIP_STORED)


def _put(held: zipfile.ZipFile, name: str, data: bytes, how: int) -> None:
    entry = zipfile.ZipInfo(name, WHEN)
    entry.compress_type = how
    held.writestr(entry, data)


def _stack(named: list[tuple[str, str]], width: int, height: int) -> bytes:
    image = ElementTree.Element("image", version=VERSION, w=str(width), h=str(height), xres="300", yres="300")
    stack = ElementTree.SubElement(image, "stack")
    for name, source in reversed(named):  # the topmost first
        ElementTree.SubElement(
            stack, "layer",
            {"name": name, "src": source, "x": "0", "y": "0", "opacity": "1.0", "visibility": "visible",
             "composite-op": "svg:src-over"},
        )  # fmt: skip
    return b'<?xml version="1.0" encoding="UTF-8"?>\n' + bytes(ElementTree.tostring(image, encoding="us-ascii"))


def _written(pixels: Numbers, _quality: int, _exif: Image.Exif | None, space: OutputSpace, _xmp: bytes) -> bytes:
    return openraster_bytes([Finished("Finished", pixels)], space)


OPENRASTER = Form("openraster", "OpenRaster, with layers", ".ora", EIGHT_BITS, _written, 9.0, layered=True)

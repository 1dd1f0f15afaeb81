"""Pictures of screens, small enough for a repository: a palette of as many colours as room allows, and not written anew
where nothing is seen to have changed.

Usage: python -m tools.small_png FILE ...   (in place)
"""

import sys
from io import BytesIO
from pathlib import Path

import numpy as np
from PIL import Image

MOST_BYTES = 160_000
COLOURS = (256, 192, 128, 96, 64, 48, 32)
SAME_LEVELS, SAME_SHARE = 24, 0.0005
"""A pixel is seen to differ by more than so many of 255 levels; a picture by more than such a share of its pixels. What
a palette changes is less, and a blinking cursor covers less."""


def small_png(data: bytes) -> bytes:
    """A picture (any that Pillow reads) as a PNG of at most ``MOST_BYTES``, or with the fewest ``COLOURS``. Each pixel
    has its nearest colour: dots that would stand for those between are what makes such a file large.
    """
    image = Image.open(BytesIO(data)).convert("RGB")
    for colours in COLOURS:
        out = BytesIO()
        small = image.quantize(colours, method=Image.Quantize.FASTOCTREE, dither=Image.Dither.NONE)
        small.save(out, "PNG", optimize=True)
        if out.tell() <= MOST_BYTES:
            break
    return out.getvalue()


def looks_the_same(one: bytes, other: bytes) -> bool:
    """Whether nobody would see two pictures of a screen differ."""
    a, b = (np.asarray(Image.open(BytesIO(data)).convert("RGB"), np.int16) for data in (one, other))
    return a.shape == b.shape and float((np.abs(a - b).max(axis=-1) > SAME_LEVELS).mean()) <= SAME_SHARE


def write_if_changed(path: Path, data: bytes) -> bool:
    """Keep a picture of a screen, made small; returns whether it was written."""
    small = small_png(data)
    if path.is_file() and looks_the_same(path.read_bytes(), small):
        return False
    path.write_bytes(small)
    return True


if __name__ == "__main__":
    for name in sys.argv[1:]:
        file = Path(name)
        file.write_bytes(small_png(file.read_bytes()))

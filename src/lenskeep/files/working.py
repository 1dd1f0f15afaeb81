"""The working copy: an untouched frame at screen size, deep and wide enough that the Bench shows what will leave.

16 bits a channel of linear Rec. 2020 up to two stops over white, through a curve of power 2.4, as JPEG XL (ISO/IEC
18181) at a butteraugli distance of 0.1: a twelfth of the same without loss, and off by a mean ΔE(OK) of .002 on grain.
"""

from pathlib import Path

import imagecodecs
import numpy as np

from lenskeep.core.engine.kernel.pictures import table_of
from lenskeep.core.types import LinearRGB
from lenskeep.files.problems import PhotoProblem
from lenskeep.files.reading.photo import read_photo

TOP, POWER = 4.0, 2.4
DISTANCE, EFFORT = 0.1, 1
SUFFIX = ".jxl"
_DECODE = (np.float32(TOP) * (np.arange(65536, dtype=np.float32) / np.float32(65535.0)) ** np.float32(POWER)).astype(
    np.float32
)


def working_bytes(picture: LinearRGB) -> bytes:
    """A picture (h, w, 3), linear Rec. 2020, as a working copy; what is darker than black or over ``TOP`` is held."""
    shares = np.clip(picture, 0.0, np.float32(TOP))
    shares *= np.float32(1.0 / TOP)
    np.power(shares, np.float32(1.0 / POWER), out=shares)
    shares *= np.float32(65535.0)
    codes = np.rint(shares, out=shares).astype(np.uint16)
    return bytes(imagecodecs.jpegxl_encode(codes, distance=DISTANCE, effort=EFFORT, numthreads=1))


def read_working(path: Path) -> LinearRGB:
    """A working copy, or a screen-size JPEG as earlier versions kept it, as linear Rec. 2020. Raises PhotoProblem."""
    if path.suffix != SUFFIX:
        return read_photo(path).rows(0, 1 << 30)
    try:
        codes = np.asarray(imagecodecs.jpegxl_decode(path.read_bytes(), numthreads=2))
    except (OSError, ValueError, RuntimeError) as error:
        raise PhotoProblem("What was kept of this frame can't be read. Find its masks again on the wall.") from error
    out = np.empty(codes.shape, np.float32)
    table_of(np.require(codes, np.uint16, ["C", "W"]).reshape(-1), _DECODE, out.reshape(-1))
    return out

"""Colours as photographers write them (#rrggbb, sRGB) into the working space."""

import numpy as np

from lenskeep.core.colour.oklab import to_oklab
from lenskeep.core.colour.spaces import SRGB_TO_REC2020
from lenskeep.core.colour.transfer import DECODE8
from lenskeep.core.types import Float


def linear_of(hex_colour: str) -> Float:
    """Linear Rec. 2020 of #rrggbb, shape (3,)."""
    codes = np.frombuffer(bytes.fromhex(hex_colour[1:]), np.uint8)
    return np.asarray(DECODE8[codes] @ SRGB_TO_REC2020.T.astype(np.float32), np.float32)


def lab_of(hex_colour: str) -> tuple[float, float, float]:
    """OKLab of #rrggbb."""
    light, a, b = (float(v) for v in to_oklab(linear_of(hex_colour)))
    return light, a, b

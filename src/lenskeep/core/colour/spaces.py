"""Matrices between the spaces we use.

Primaries and white points: CSS Color 4 (W3C), sample code "conversions.js". The working space is linear Rec. 2020
with a D65 white, so that no colour of sRGB or Display P3 is negative in it.
"""

from typing import Any, Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from lenskeep.core.types import Float, Matrix

D65_XY = (0.3127, 0.3290)
PRIMARIES = {
    "srgb": ((0.640, 0.330), (0.300, 0.600), (0.150, 0.060)),
    "display-p3": ((0.680, 0.320), (0.265, 0.690), (0.150, 0.060)),
    "rec2020": ((0.708, 0.292), (0.170, 0.797), (0.131, 0.046)),
}


def through(pixels: Float, matrix: NDArray[Any]) -> Float:
    """Every pixel (..., 3) multiplied by a 3×3 matrix, as float32: five times as fast as ``@`` on so short an axis.

    For what is measured: the last bit may depend on where in the array a pixel stands, which no delivered file must.
    """
    flat = np.ascontiguousarray(pixels, np.float32).reshape(-1, 1, 3)
    if not len(flat):
        return np.zeros(np.shape(pixels), np.float32)
    return np.asarray(cv2.transform(flat, np.asarray(matrix, np.float32)), np.float32).reshape(np.shape(pixels))


def xy_to_xyz(x: float, y: float) -> Matrix:
    """XYZ of a chromaticity at Y = 1, shape (3,)."""
    return np.array([x / y, 1.0, (1.0 - x - y) / y])


def rgb_to_xyz(name: str) -> Matrix:
    """The 3×3 matrix from linear RGB of the named space (a key of ``PRIMARIES``) to XYZ, D65."""
    columns = np.stack([xy_to_xyz(x, y) for x, y in PRIMARIES[name]], axis=1)
    return np.asarray(columns * np.linalg.solve(columns, xy_to_xyz(*D65_XY)))


REC2020_TO_XYZ = rgb_to_xyz("rec2020")
XYZ_TO_REC2020 = np.linalg.inv(REC2020_TO_XYZ)
SRGB_TO_REC2020 = XYZ_TO_REC2020 @ rgb_to_xyz("srgb")
REC2020_TO_SRGB = np.linalg.inv(SRGB_TO_REC2020)
OutputSpace = Literal["srgb", "display-p3", "rec2020"]
"""What finished pictures may be written in, all with sRGB's transfer curve; each with a profile that says so."""


def from_rec2020(space: OutputSpace) -> Matrix:
    """The 3×3 matrix from linear Rec. 2020 to the linear RGB of an output space."""
    return np.asarray(np.linalg.inv(rgb_to_xyz(space)) @ REC2020_TO_XYZ, np.float64)


LUMINANCE = REC2020_TO_XYZ[1]
"""Weights of Y in linear Rec. 2020, shape (3,)."""

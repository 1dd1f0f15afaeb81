"""OKLab, Björn Ottosson 2020, "A perceptual color space for image processing"; matrices as in CSS Color 4."""

import numpy as np

from lenskeep.core.colour.spaces import REC2020_TO_XYZ, through
from lenskeep.core.types import Float, LinearRGB, Matrix, OKLab

XYZ_TO_LMS: Matrix = np.array(
    [
        [0.8190224379967030, 0.3619062600528904, -0.1288737815209879],
        [0.0329836539323885, 0.9292868615863434, 0.0361446663506424],
        [0.0481771893596242, 0.2642395317527308, 0.6335478284694309],
    ]
)
LMS_TO_LAB: Matrix = np.array(
    [
        [0.2104542683093140, 0.7936177747023054, -0.0040720430116193],
        [1.9779985324311684, -2.4285922420485799, 0.4505937096174110],
        [0.0259040424655478, 0.7827717124575296, -0.8086757549230774],
    ]
)
RGB_TO_LMS: Matrix = XYZ_TO_LMS @ REC2020_TO_XYZ
LMS_TO_RGB: Matrix = np.asarray(np.linalg.inv(RGB_TO_LMS), np.float64)
LAB_TO_LMS: Matrix = np.asarray(np.linalg.inv(LMS_TO_LAB), np.float64)


def to_oklab(rgb: LinearRGB) -> OKLab:
    """Linear Rec. 2020 (..., 3) to OKLab (..., 3), to the same bits wherever in the array a pixel stands."""
    lms = np.cbrt(np.asarray(rgb, np.float32) @ RGB_TO_LMS.T.astype(np.float32))
    return np.asarray(lms @ LMS_TO_LAB.T.astype(np.float32), np.float32)


def measured_oklab(rgb: LinearRGB) -> OKLab:
    """The same for what is measured: three times as fast, right to 1e-5, its last bits by where a pixel stands."""
    return through(np.cbrt(through(rgb, RGB_TO_LMS)), LMS_TO_LAB)


def from_oklab(lab: OKLab) -> LinearRGB:
    """OKLab (..., 3) to linear Rec. 2020 (..., 3); may leave 0…1."""
    lms = np.asarray(lab, np.float32) @ LAB_TO_LMS.T.astype(np.float32)
    return np.asarray((lms**3) @ LMS_TO_RGB.T.astype(np.float32), np.float32)


def delta_e(a: LinearRGB, b: LinearRGB) -> Float:
    """ΔE(OK), the Euclidean distance in OKLab (CSS Color 4), of two linear Rec. 2020 arrays (..., 3)."""
    return np.asarray(np.linalg.norm(measured_oklab(a) - measured_oklab(b), axis=-1), np.float32)

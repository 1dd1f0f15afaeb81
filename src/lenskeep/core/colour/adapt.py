"""Shifts of the white point: along the Planckian locus (warmth) and across it (tint).

CAT16: Li et al. 2017, "Comprehensive color solutions: CAM16, CAT16 and CAM16-UCS". Planckian locus: Kim et al. 2002,
cubic splines for 1,667…25,000 K. Duv: distance from the locus in CIE 1960 uv (ANSI C78.377).
"""

import numpy as np

from lenskeep.core.colour.spaces import REC2020_TO_XYZ, XYZ_TO_REC2020, xy_to_xyz
from lenskeep.core.types import Matrix

CAT16: Matrix = np.array(
    [
        [0.401288, 0.650173, -0.051461],
        [-0.250268, 1.204414, 0.045854],
        [-0.002079, 0.048952, 0.953127],
    ]
)
NEUTRAL_MIRED = 1e6 / 6504.0


def planckian_xy(kelvin: float) -> tuple[float, float]:
    """Chromaticity of a black body; ``kelvin`` is held within 1,667…25,000."""
    t = min(max(kelvin, 1667.0), 25000.0)
    if t <= 4000.0:
        x = -0.2661239e9 / t**3 - 0.2343589e6 / t**2 + 0.8776956e3 / t + 0.179910
    else:
        x = -3.0258469e9 / t**3 + 2.1070379e6 / t**2 + 0.2226347e3 / t + 0.240390
    if t <= 2222.0:
        y = -1.1063814 * x**3 - 1.34811020 * x**2 + 2.18555832 * x - 0.20219683
    elif t <= 4000.0:
        y = -0.9549476 * x**3 - 1.37418593 * x**2 + 2.09137015 * x - 0.16748867
    else:
        y = 3.0817580 * x**3 - 5.87338670 * x**2 + 3.75112997 * x - 0.37001483
    return x, y


def adaptation(source_xy: tuple[float, float], target_xy: tuple[float, float]) -> Matrix:
    """The 3×3 matrix in linear Rec. 2020 that takes the source white to the target white (von Kries in CAT16)."""
    source, target = CAT16 @ xy_to_xyz(*source_xy), CAT16 @ xy_to_xyz(*target_xy)
    in_xyz = np.linalg.inv(CAT16) @ np.diag(target / source) @ CAT16
    return np.asarray(XYZ_TO_REC2020 @ in_xyz @ REC2020_TO_XYZ)


def warmth_matrix(mired: float) -> Matrix:
    """Shift by ``mired`` along the locus from 6504 K; positive is warmer. Held to what the locus covers (±110)."""
    shifted = NEUTRAL_MIRED + mired
    return adaptation(planckian_xy(1e6 / NEUTRAL_MIRED), planckian_xy(1e6 / max(shifted, 40.0)))


def _uv(xy: tuple[float, float]) -> Matrix:
    d = -2.0 * xy[0] + 12.0 * xy[1] + 3.0
    return np.array([4.0 * xy[0] / d, 6.0 * xy[1] / d])


def _xy(uv: Matrix) -> tuple[float, float]:
    d = 2.0 * uv[0] - 8.0 * uv[1] + 4.0
    return float(3.0 * uv[0] / d), float(2.0 * uv[1] / d)


def tint_matrix(duv: float) -> Matrix:
    """Shift by ``duv`` (CIE 1960 uv) across the locus at 6504 K; positive is magenta, negative green."""
    here = planckian_xy(1e6 / NEUTRAL_MIRED)
    ahead, behind = _uv(planckian_xy(6604.0)), _uv(planckian_xy(6404.0))
    along = (ahead - behind) / np.linalg.norm(ahead - behind)
    towards_magenta = np.array([-along[1], along[0]])
    if towards_magenta[1] > 0:
        towards_magenta = -towards_magenta
    return adaptation(here, _xy(_uv(here) + duv * towards_magenta))


def balance_matrix(ev: float, mired: float, duv: float) -> Matrix:
    """The 3×3 matrix in linear Rec. 2020 that adds so much of exposure, warmth and tint (thousandths of Duv)."""
    return np.asarray(tint_matrix(duv / 1000.0) @ warmth_matrix(mired) * 2.0**ev)

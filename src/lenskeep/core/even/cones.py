"""Exposure, warmth and tint as additions: log2 of CAT16 cone responses (Li et al. 2017), turned by a fixed matrix.

A linear gain and a von Kries adaptation both multiply cone responses, so in their logarithm they add. Near neutral the
sum is EV, mired and thousandths of Duv; farther out the Planckian locus is a little bent, which ``exact`` undoes.
"""

import numpy as np

from lenskeep.core.colour.adapt import CAT16, tint_matrix, warmth_matrix
from lenskeep.core.colour.spaces import REC2020_TO_XYZ, through
from lenskeep.core.types import Float, LinearRGB, Matrix

_IN_CONES: Matrix = np.asarray(CAT16 @ REC2020_TO_XYZ, np.float64)
TO_CONES: Matrix = np.asarray(_IN_CONES / _IN_CONES.sum(axis=1, keepdims=True), np.float64)
"""Linear Rec. 2020 to cone responses, white being 1 in each."""
LEAST = 1e-5
"""Responses below this are no light any more."""
_MIREDS, _DUVS = np.arange(-100.0, 101.0, 5.0), np.arange(-40.0, 41.0, 4.0)
_ROUNDS = 4


def _gains(matrix: Matrix) -> Matrix:
    """log2 of what a white-point matrix does to each cone."""
    return np.asarray(np.log2(np.diag(_IN_CONES @ matrix @ np.linalg.inv(_IN_CONES))))


_WARMTHS: Matrix = np.array([_gains(warmth_matrix(float(m))) for m in _MIREDS], np.float64)
_TINTS: Matrix = np.array([_gains(tint_matrix(float(d) / 1000.0)) for d in _DUVS], np.float64)
SLOPE: Matrix = np.array([np.ones(3), (_WARMTHS[21] - _WARMTHS[19]) / 10.0, (_TINTS[11] - _TINTS[9]) / 8.0]).T
"""Columns: log2 gains of the cones for one EV, one mired, one thousandth of Duv, near neutral."""
TO_PARAMS: Matrix = np.asarray(np.linalg.inv(SLOPE), np.float64)


def params_of(picture: LinearRGB) -> Float:
    """(h, w, 3): of each pixel what of EV, mired and thousandths of Duv it stands at; differences are offsets."""
    return through(np.log2(np.maximum(through(picture, TO_CONES), np.float32(LEAST))), TO_PARAMS)


def exact(params: Matrix) -> Matrix:
    """EV, mired, thousandths of Duv (..., 3) that do what ``params``, linear in the logarithm, say."""
    wanted, out = params @ SLOPE.T, np.array(params, np.float64)
    for _ in range(_ROUNDS):
        cones = range(3)
        warmth = np.stack([np.interp(out[..., 1], _MIREDS, _WARMTHS[:, i]) for i in cones], -1)
        tint = np.stack([np.interp(out[..., 2], _DUVS, _TINTS[:, i]) for i in cones], -1)
        out = out + (wanted - warmth - tint - out[..., :1]) @ TO_PARAMS.T
    return np.asarray(out)

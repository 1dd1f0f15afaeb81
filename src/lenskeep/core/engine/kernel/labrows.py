"""Operations on rows in OKLab: (a, b) scaled, turned and shifted, by hue, by lightness, by chroma."""

import numpy as np

from lenskeep.core.colour.oklab import LAB_TO_LMS, LMS_TO_LAB, LMS_TO_RGB, RGB_TO_LMS
from lenskeep.core.engine.kernel.rowmath import F, atan2_row, cbrt_here, exp2_row, lookup_row, matrix_here, smooth
from lenskeep.core.engine.ops import LIGHT_TO, TABLE_SIZE
from lenskeep.core.jit import JIT, njit
from lenskeep.core.types import Float

_LMS = RGB_TO_LMS.astype(np.float32)
_LAB = LMS_TO_LAB.astype(np.float32)
_UNLAB = LAB_TO_LMS.astype(np.float32)
_UNLMS = LMS_TO_RGB.astype(np.float32)
LIGHT_SCALE = F((TABLE_SIZE - 1) / LIGHT_TO)
_LIGHT_TO = F(LIGHT_TO)
_HUE_SCALE = F((TABLE_SIZE - 1) / (2 * np.pi))
_PI = F(np.pi)
SKIN_A, SKIN_B = F(np.cos(np.deg2rad(50.0))), F(np.sin(np.deg2rad(50.0)))
"""The middle of skin's hues in OKLab, about 50°."""


@njit(**JIT)
def to_lab_rows(r: Float, g: Float, b: Float, n: int) -> None:
    """Linear Rec. 2020 to OKLab in place."""
    matrix_here(_LMS, r, g, b, n)
    cbrt_here(r, n)
    cbrt_here(g, n)
    cbrt_here(b, n)
    matrix_here(_LAB, r, g, b, n)


@njit(**JIT)
def to_rgb_rows(light: Float, a: Float, b: Float, n: int) -> None:
    """OKLab to linear Rec. 2020 in place."""
    for i in range(n):
        x = _UNLAB[0, 0] * light[i] + _UNLAB[0, 1] * a[i] + _UNLAB[0, 2] * b[i]
        y = _UNLAB[1, 0] * light[i] + _UNLAB[1, 1] * a[i] + _UNLAB[1, 2] * b[i]
        z = _UNLAB[2, 0] * light[i] + _UNLAB[2, 1] * a[i] + _UNLAB[2, 2] * b[i]
        x, y, z = x * x * x, y * y * y, z * z * z
        light[i] = _UNLMS[0, 0] * x + _UNLMS[0, 1] * y + _UNLMS[0, 2] * z
        a[i] = _UNLMS[1, 0] * x + _UNLMS[1, 1] * y + _UNLMS[1, 2] * z
        b[i] = _UNLMS[2, 0] * x + _UNLMS[2, 1] * y + _UNLMS[2, 2] * z


@njit(**JIT)
def affine_rows(a: Float, b: Float, p: Float, n: int) -> None:
    """p = (aa, ab, ba, bb, offset a, offset b)."""
    for i in range(n):
        x, y = a[i], b[i]
        a[i] = p[0] * x + p[1] * y + p[4]
        b[i] = p[2] * x + p[3] * y + p[5]


@njit(**JIT)
def muted_rows(a: Float, b: Float, p: Float, n: int) -> None:
    """p = (amount, chroma by which it has faded, share left on skin)."""
    for i in range(n):
        c = np.sqrt(a[i] * a[i] + b[i] * b[i]) + F(1e-9)
        towards = (a[i] * SKIN_A + b[i] * SKIN_B) / c
        spared = F(1.0) - (F(1.0) - p[2]) * smooth((towards - F(0.82)) / F(0.14))
        k = F(1.0) + p[0] * spared * (F(1.0) - smooth(c / p[1]))
        a[i] *= k
        b[i] *= k


@njit(**JIT)
def hue_rows(light: Float, a: Float, b: Float, turn: Float, scale: Float, lift: Float, t: Float, n: int) -> None:
    """Tables by hue: ``turn`` in radians, ``scale`` as log2 of the chroma's factor, ``lift`` in lightness.

    Greys have no hue, so what is nearly grey is lifted in proportion to its chroma.
    """
    atan2_row(b, a, t[0], n)
    lookup_row(turn, t[0], -_PI, _HUE_SCALE, t[1], n)
    lookup_row(scale, t[0], -_PI, _HUE_SCALE, t[2], n)
    lookup_row(lift, t[0], -_PI, _HUE_SCALE, t[3], n)
    exp2_row(t[2], n)
    for i in range(n):
        x, y, k = a[i], b[i], t[2, i]
        light[i] += t[3, i] * smooth(np.sqrt(x * x + y * y) / F(0.06)) * smooth(light[i] * F(4.0))
        q = t[1, i] * t[1, i]
        sine = t[1, i] * (F(1.0) - q / F(6.0) * (F(1.0) - q / F(20.0) * (F(1.0) - q / F(42.0))))
        cosine = F(1.0) - q / F(2.0) * (F(1.0) - q / F(12.0) * (F(1.0) - q / F(30.0) * (F(1.0) - q / F(56.0))))
        a[i] = k * (cosine * x - sine * y)
        b[i] = k * (sine * x + cosine * y)


@njit(**JIT)
def toned_rows(light: Float, a: Float, b: Float, shift_a: Float, shift_b: Float, t: Float, n: int) -> None:
    """Offsets of a and b from tables by lightness."""
    lookup_row(shift_a, light, F(0.0), LIGHT_SCALE, t[0], n)
    lookup_row(shift_b, light, F(0.0), LIGHT_SCALE, t[1], n)
    for i in range(n):
        a[i] += t[0, i]
        b[i] += t[1, i]


@njit(**JIT)
def lightness_rows(light: Float, a: Float, b: Float, table: Float, p: Float, t: Float, n: int) -> None:
    """Lightness through a table, beyond its ends in parallel; chroma follows by p[0] 0…1, growing by at most p[1]."""
    lookup_row(table, light, F(0.0), LIGHT_SCALE, t[0], n)
    for i in range(n):
        before = light[i]
        after = t[0, i] + before - min(max(before, F(0.0)), _LIGHT_TO)
        k = min(max(after, F(0.0)) / max(before, F(1e-3)), p[1])
        k = F(1.0) + p[0] * (k - F(1.0))
        light[i] = after
        a[i] *= k
        b[i] *= k


@njit(**JIT)
def smooth_rows(light: Float, a: Float, b: Float, share: Float, t: Float, n: int) -> None:
    """a and b mixed by ``share`` with t[0]·L + t[1] and t[2]·L + t[3]."""
    for i in range(n):
        a[i] += share * (t[0, i] * light[i] + t[1, i] - a[i])
        b[i] += share * (t[2, i] * light[i] + t[3, i] - b[i])

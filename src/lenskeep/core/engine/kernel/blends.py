"""Blend modes: W3C *Compositing and Blending Level 1* (2015), sections 9 and 10, and no others.

The standard's formulas are for stored values of 0…1, so both pictures are encoded with sRGB's transfer curve
(IEC 61966-2-1), held to 0…1, blended and decoded. What the picture below has over 1 is added again.
"""

from enum import IntEnum
from typing import Any

import numpy as np

from lenskeep.core.engine.kernel.rowmath import F, exp2_row, log2_row
from lenskeep.core.jit import JIT, njit
from lenskeep.core.types import Float

_GREY = F(5e-4)
"""Channels that differ by less, an eighth of an 8-bit step, are a grey, whose hue would be rounding."""


class Blend(IntEnum):
    """The modes by their number in the kernel; names as in the standard, with _ for hyphens."""

    NORMAL = 0
    MULTIPLY = 1
    SCREEN = 2
    OVERLAY = 3
    DARKEN = 4
    LIGHTEN = 5
    COLOR_DODGE = 6
    COLOR_BURN = 7
    HARD_LIGHT = 8
    SOFT_LIGHT = 9
    DIFFERENCE = 10
    EXCLUSION = 11
    HUE = 12
    SATURATION = 13
    COLOR = 14
    LUMINOSITY = 15


@njit(**JIT)
def encode_row(x: Float, t: Float, n: int) -> None:
    """Linear 0…1 to sRGB's curve, in place; ``t`` is a scratch row."""
    log2_row(x, t, n)
    for i in range(n):
        t[i] *= F(1.0 / 2.4)
    exp2_row(t, n)
    for i in range(n):
        x[i] = F(12.92) * x[i] if x[i] <= F(0.0031308) else F(1.055) * t[i] - F(0.055)


@njit(**JIT)
def decode_row(x: Float, t: Float, n: int) -> None:
    """sRGB's curve to linear, in place."""
    for i in range(n):
        t[i] = (x[i] + F(0.055)) * F(1.0 / 1.055)
    log2_row(t, t, n)
    for i in range(n):
        t[i] *= F(2.4)
    exp2_row(t, n)
    for i in range(n):
        x[i] = x[i] * F(1.0 / 12.92) if x[i] <= F(0.04045) else t[i]


@njit(**JIT)
def separable(mode: int, b: Any, s: Any) -> Any:
    """B(backdrop, source) of one channel, 0…1 (section 9.1)."""
    one, two = F(1.0), F(2.0)
    if mode == Blend.MULTIPLY:
        return b * s
    if mode == Blend.SCREEN:
        return b + s - b * s
    if mode == Blend.OVERLAY or mode == Blend.HARD_LIGHT:  # overlay is hard light with the layers swapped
        low, high = (s, b) if mode == Blend.OVERLAY else (b, s)
        twice = two * high
        return low * twice if high <= F(0.5) else low + (twice - one) - low * (twice - one)
    if mode == Blend.DARKEN:
        return min(b, s)
    if mode == Blend.LIGHTEN:
        return max(b, s)
    if mode == Blend.COLOR_DODGE:
        if b <= F(0.0):
            return F(0.0)
        return one if s >= one else min(one, b / (one - s))
    if mode == Blend.COLOR_BURN:
        if b >= one:
            return one
        return F(0.0) if s <= F(0.0) else one - min(one, (one - b) / s)
    if mode == Blend.SOFT_LIGHT:
        if s <= F(0.5):
            return b - (one - two * s) * b * (one - b)
        d = ((F(16.0) * b - F(12.0)) * b + F(4.0)) * b if b <= F(0.25) else np.sqrt(b)
        return b + (two * s - one) * (d - b)
    if mode == Blend.DIFFERENCE:
        return abs(b - s)
    if mode == Blend.EXCLUSION:
        return b + s - two * b * s
    return s


@njit(**JIT)
def _lum(r: Any, g: Any, b: Any) -> Any:
    return F(0.3) * r + F(0.59) * g + F(0.11) * b


@njit(**JIT)
def _with_lum(r: Any, g: Any, b: Any, light: Any) -> Any:
    """SetLum and ClipColor of section 10.2."""
    d = light - _lum(r, g, b)
    r, g, b = r + d, g + d, b + d
    low, high = min(r, min(g, b)), max(r, max(g, b))
    if low < F(0.0):
        k = light / (light - low + F(1e-12))
        r, g, b = light + (r - light) * k, light + (g - light) * k, light + (b - light) * k
    if high > F(1.0):
        k = (F(1.0) - light) / (high - light + F(1e-12))
        r, g, b = light + (r - light) * k, light + (g - light) * k, light + (b - light) * k
    return r, g, b


@njit(**JIT)
def _with_sat(r: Any, g: Any, b: Any, sat: Any) -> Any:
    """SetSat of section 10.2: the least becomes 0, the largest ``sat``, the middle in proportion."""
    low, high = min(r, min(g, b)), max(r, max(g, b))
    k = sat / (high - low) if high - low > _GREY else F(0.0)
    return (r - low) * k, (g - low) * k, (b - low) * k


@njit(**JIT)
def non_separable(mode: int, r0: Any, g0: Any, b0: Any, r: Any, g: Any, b: Any) -> Any:
    """B(backdrop, source) of three channels at once, 0…1 (section 10.2)."""
    light = _lum(r0, g0, b0)
    if mode == Blend.HUE:
        sat = max(r0, max(g0, b0)) - min(r0, min(g0, b0))
        r, g, b = _with_sat(r, g, b, sat)
    elif mode == Blend.SATURATION:
        sat = max(r, max(g, b)) - min(r, min(g, b))
        r, g, b = _with_sat(r0, g0, b0, sat)
    elif mode == Blend.LUMINOSITY:
        light = _lum(r, g, b)
        r, g, b = r0, g0, b0
    return _with_lum(r, g, b, light)


@njit(**JIT)
def blend_mode_rows(mode: int, r0: Float, g0: Float, b0: Float, r: Float, g: Float, b: Float, t: Float, n: int) -> None:
    """(r, g, b) = the source blended with the picture below, linear; ``t`` holds six scratch rows."""
    for i in range(n):
        t[0, i] = min(max(r0[i], F(0.0)), F(1.0))
        t[1, i] = min(max(g0[i], F(0.0)), F(1.0))
        t[2, i] = min(max(b0[i], F(0.0)), F(1.0))
        r[i], g[i], b[i] = (
            min(max(r[i], F(0.0)), F(1.0)),
            min(max(g[i], F(0.0)), F(1.0)),
            min(max(b[i], F(0.0)), F(1.0)),
        )
    encode_row(t[0], t[3], n)
    encode_row(t[1], t[3], n)
    encode_row(t[2], t[3], n)
    encode_row(r, t[3], n)
    encode_row(g, t[3], n)
    encode_row(b, t[3], n)
    if mode < Blend.HUE:
        for i in range(n):
            r[i] = separable(mode, t[0, i], r[i])
            g[i] = separable(mode, t[1, i], g[i])
            b[i] = separable(mode, t[2, i], b[i])
    else:
        for i in range(n):
            r[i], g[i], b[i] = non_separable(mode, t[0, i], t[1, i], t[2, i], r[i], g[i], b[i])
    decode_row(r, t[3], n)
    decode_row(g, t[3], n)
    decode_row(b, t[3], n)
    for i in range(n):
        r[i] += max(r0[i] - F(1.0), F(0.0))
        g[i] += max(g0[i] - F(1.0), F(0.0))
        b[i] += max(b0[i] - F(1.0), F(0.0))

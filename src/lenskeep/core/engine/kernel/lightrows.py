"""Rows brightened, veiled and shaded: gains, haze, vignettes, and bands of detail weighed by tone."""

import numpy as np

from lenskeep.core.engine.kernel.rowmath import F, lookup_row
from lenskeep.core.engine.ops import TABLE_FROM, TABLE_SIZE, TABLE_TO
from lenskeep.core.jit import JIT, njit
from lenskeep.core.types import Float

TONE_FROM, TONE_SCALE = F(TABLE_FROM), F((TABLE_SIZE - 1) / (TABLE_TO - TABLE_FROM))
_MIN_TRANSMISSION = F(0.1)


@njit(**JIT)
def gain_rows(r: Float, g: Float, b: Float, gain: Float, n: int) -> None:
    for i in range(n):
        r[i] *= gain[i]
        g[i] *= gain[i]
        b[i] *= gain[i]


@njit(**JIT)
def veil_rows(r: Float, g: Float, b: Float, p: Float, lg: Float, ta: Float, tb: Float, n: int) -> None:
    """p = (airlight r, g, b, amount): amount under 0 clears (He, Sun & Tang 2009), over 0 adds."""
    a0, a1, a2, amount = p[0], p[1], p[2], p[3]
    if amount < F(0.0):
        for i in range(n):
            t = min(max(ta[i] * lg[i] + tb[i], F(0.0)), F(1.0))
            k = F(1.0) / max(F(1.0) + amount * (F(1.0) - t), _MIN_TRANSMISSION)
            r[i] = max((r[i] - a0) * k + a0, F(0.0))
            g[i] = max((g[i] - a1) * k + a1, F(0.0))
            b[i] = max((b[i] - a2) * k + a2, F(0.0))
    else:
        for i in range(n):
            t = min(max(ta[i] * lg[i] + tb[i], F(0.0)), F(1.0))
            k = amount * (F(0.35) + F(0.65) * (F(1.0) - t))
            r[i] += (a0 - r[i]) * k
            g[i] += (a1 - g[i]) * k
            b[i] += (a2 - b[i]) * k


@njit(**JIT)
def radial_row(gain: Float, p: Float, y: Float, first: int, width: int, n: int) -> None:
    """gain = 0…1, how far a vignette is at work, from column ``first`` on; p = (cx, cy, 1/rx, 1/ry, EV, from, to, left,
    right, top, bottom), the sides' shares of it from p[7] on.
    """
    dy = (y - p[1]) * p[3]
    dy2 = dy * dy
    whole = p[7] == F(1.0) and p[8] == F(1.0) and p[9] == F(1.0) and p[10] == F(1.0)
    for i in range(n):
        dx = ((F(first + i) + F(0.5)) / F(width) - p[0]) * p[2]
        s = min(max((np.sqrt(dx * dx + dy2) - p[5]) / (p[6] - p[5]), F(0.0)), F(1.0))
        gain[i] = s * s * (F(3.0) - F(2.0) * s)
        if not whole:  # between two sides by the direction from the centre
            level = dx * dx / max(dx * dx + dy2, F(1e-12))
            side, upright = (p[7] if dx < F(0.0) else p[8]), (p[9] if dy < F(0.0) else p[10])
            gain[i] *= level * side + (F(1.0) - level) * upright


@njit(**JIT)
def tint_rows(r: Float, g: Float, b: Float, share: Float, p: Float, n: int) -> None:
    """Mixed with the colour p[11:14] by p[14] of a share that may go over 1."""
    for i in range(n):
        a = min(share[i] * p[14], F(1.0))
        r[i] += a * (p[11] - r[i])
        g[i] += a * (p[12] - g[i])
        b[i] += a * (p[13] - b[i])


@njit(**JIT)
def by_tone_row(gain: Float, table: Float, lg: Float, t: Float, base: int, n: int) -> None:
    """A band's gain weighed by a table at the edge-preserving base below it, so that grain does not flicker with it."""
    for i in range(n):
        t[4, i] = t[base, i] * lg[i] + t[base + 1, i]
    lookup_row(table, t[4], TONE_FROM, TONE_SCALE, t[5], n)
    for i in range(n):
        gain[i] *= t[5, i]


@njit(**JIT)
def on_base_row(lg: Float, slope: Float, offset: Float, n: int) -> None:
    """lg = the edge-preserving base slope·lg + offset."""
    for i in range(n):
        lg[i] = slope[i] * lg[i] + offset[i]


@njit(**JIT)
def top_band_row(lg: Float, slope: Float, offset: Float, p: Float, gain: Float, n: int) -> None:
    """gain = what is finer than a base, p[0] times, held back by p[1] where there is much."""
    p0, p1 = p[0], p[1]
    for i in range(n):
        d = lg[i] - slope[i] * lg[i] - offset[i]
        gain[i] = p0 * d / (F(1.0) + abs(d) * p1)


@njit(**JIT)
def band_row(lg: Float, t0: Float, t1: Float, t2: Float, t3: Float, p: Float, gain: Float, n: int) -> None:
    """The same of the band between two bases, (t0, t1) and (t2, t3)."""
    p0, p1 = p[0], p[1]
    for i in range(n):
        d = (t0[i] - t2[i]) * lg[i] + t1[i] - t3[i]
        gain[i] = p0 * d / (F(1.0) + abs(d) * p1)

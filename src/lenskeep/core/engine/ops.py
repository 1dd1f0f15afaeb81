"""The small set of operations every adjustment compiles to.

Adjustments live in ``core/adjust``, one file each; none of them knows the kernel, and the kernel knows none of them.
A new adjustment is written with these operations. Wide filters enter as *planes*: coefficients on a proxy of fixed
size, sampled bilinearly, so that the picture is the same at every output size (fast guided filter, He & Sun 2015).
"""

from dataclasses import dataclass
from enum import IntEnum
from typing import Literal

import numpy as np

from lenskeep.core.types import AlphaAtSize, Float, Matrix

PARAMS = 16
PLANES = 6
TABLES = 3
TABLE_SIZE = 512
TABLE_FROM, TABLE_TO = -14.0, 6.0
"""Tables of tone are indexed by log2 of luminance, from 2^-14 to 2^6."""
LIGHT_TO = 1.25
"""Tables of lightness and of a channel's cube root run from 0 to this."""


class Code(IntEnum):
    """What the kernel can do to a row; what each reads is in ``TRAITS``."""

    BELOW = 0
    """Remember the picture below: starts a step."""
    MATRIX = 1
    """3×3 matrix in linear RGB."""
    TONE = 2
    """Gain from a table at the pixel's own luminance."""
    BASE_TONE = 3
    """Gain from a table at the edge-preserving base a·lg + b."""
    TOP_BAND = 4
    """Amplify all that is finer than an edge-preserving base, weighed by a table at that base where one is given."""
    BAND = 5
    """Amplify the band between two edge-preserving bases, weighed in the same way at the wider one."""
    VEIL = 6
    """Mix with, or take out, a veil of light through a transmission plane."""
    RADIAL = 7
    """Exposure, and a colour mixed in, growing from an ellipse outwards, for each side as far as it says."""
    BLEND = 8
    """Mix with the remembered picture by the region's alpha and blend mode: ends a step."""
    RECALL = 9
    """Go on with a step that a neighbourhood operation had cut in two."""
    CHANNELS = 10
    """Each channel's cube root through a table of its own."""
    LIGHT = 11
    """rgb = p0·rgb + p1·(p2, p3, p4)·planes: a blurred picture mixed in or added."""
    PAINT = 12
    """Each channel mixed with a·lg + b of its own two planes."""
    FILL = 13
    """A colour, or a gradient of two, in place of the picture."""
    SHEET = 14
    """A sheet (text, overlay, texture) laid over the picture or a rectangle of it."""
    CUBE = 15
    """A colour table over encoded sRGB, linear in tetrahedra."""
    TEXTURE = 16
    """Gain from a tiled sheet's first channel."""
    GRAIN = 17
    """A gain for each channel from a tiled sheet's, as strong as a table says at the pixel's own luminance."""
    TO_LAB = 20
    """Linear RGB to OKLab."""
    AFFINE = 21
    """(a, b) = 2×2 · (a, b) + offset."""
    MUTED = 22
    """Chroma scaled most where it is low, least in skin's hues."""
    HUES = 23
    """Turn, chroma and lightness from tables by hue."""
    TONED = 24
    """Offsets of a and b from tables by lightness."""
    LIGHTNESS = 25
    """Lightness through a table; chroma follows."""
    SMOOTH = 26
    """a and b mixed with guided averages over lightness."""
    TO_RGB = 27
    """OKLab to linear RGB."""
    LOCAL = 40
    """Looks at neighbours, as its kind in ``engine.local`` says, so it cuts the program in two."""


PLANE_SLOT = 1 + TABLES
EXTRA_SLOT = PLANE_SLOT + PLANES
"""Columns of a packed operation: the code, tables, planes, then a blend mode or where in the data a cube or sheet
begins, its size or number of levels, and whether a sheet is tiled or a table one-dimensional.
"""
FINE_SLOT = 1
"""Column of a blend's alpha that is drawn at the size rendered; blends read no table."""


@dataclass(frozen=True)
class Trait:
    """What the kernel has at hand for an operation: so many planes, the pixel's log luminance where it goes
    ``by_light``; and whether it works on linear RGB, on OKLab, or goes from one to the other.
    """

    planes: int = 0
    by_light: bool = False
    space: Literal["rgb", "to lab", "lab", "to rgb"] = "rgb"


TRAITS: dict[int, Trait] = {
    Code.BELOW: Trait(), Code.MATRIX: Trait(), Code.RADIAL: Trait(), Code.BLEND: Trait(), Code.RECALL: Trait(),
    Code.CHANNELS: Trait(), Code.FILL: Trait(), Code.SHEET: Trait(), Code.CUBE: Trait(), Code.TEXTURE: Trait(),
    Code.TONE: Trait(by_light=True), Code.BASE_TONE: Trait(2, True), Code.TOP_BAND: Trait(2, True),
    Code.BAND: Trait(4, True), Code.VEIL: Trait(2, True), Code.PAINT: Trait(6, True), Code.LIGHT: Trait(3),
    Code.TO_LAB: Trait(space="to lab"), Code.AFFINE: Trait(space="lab"), Code.MUTED: Trait(space="lab"),
    Code.HUES: Trait(space="lab"), Code.TONED: Trait(space="lab"), Code.LIGHTNESS: Trait(space="lab"),
    Code.SMOOTH: Trait(4, space="lab"), Code.TO_RGB: Trait(space="to rgb"), Code.GRAIN: Trait(by_light=True),
}  # fmt: skip
"""Every operation of the kernel; those that look at neighbours are not among them (``engine.local``)."""


@dataclass(frozen=True)
class Sheet:
    """Something to lay over the picture: levels (h, w, 4) float32, premultiplied linear Rec. 2020 and coverage 0…1,
    each half the size of the one before. ``place`` is (x0, y0, width, height) in 0…1 of the frame, where ``tiled``
    repeats it.
    """

    levels: tuple[Float, ...]
    place: tuple[float, float, float, float] = (0.0, 0.0, 1.0, 1.0)
    tiled: bool = False


@dataclass(frozen=True)
class Op:
    """One operation. ``planes`` are (ph, pw) float32 of one proxy size; ``tables`` have ``TABLE_SIZE`` entries.

    ``cube`` is (n, n, n, 3) float32 indexed by red, green, blue; ``mode`` a blend mode's number, ``local`` the name of
    an operation that looks at neighbours. ``fine`` draws the part of a blend's region that is as fine as the picture;
    then ``planes`` are two pairs of coefficients, of the region without that part and with all of it.
    """

    code: Code
    params: tuple[float, ...] = ()
    planes: tuple[Float, ...] = ()
    tables: tuple[Float, ...] = ()
    cube: Float | None = None
    sheet: Sheet | None = None
    mode: int = 0
    local: str = ""
    fine: AlphaAtSize | None = None


def tone_positions() -> Float:
    """log2 luminance at each entry of a tone table, shape (TABLE_SIZE,)."""
    return np.linspace(TABLE_FROM, TABLE_TO, TABLE_SIZE, dtype=np.float32)


def light_positions() -> Float:
    """Lightness, or a channel's cube root, at each entry of such a table, shape (TABLE_SIZE,)."""
    return np.linspace(0.0, LIGHT_TO, TABLE_SIZE, dtype=np.float32)


def hue_positions() -> Float:
    """OKLab hue in radians at each entry of a table by hue, -π … π, shape (TABLE_SIZE,)."""
    return np.linspace(-np.pi, np.pi, TABLE_SIZE, dtype=np.float32)


def matrix_op(matrix: Matrix) -> Op:
    """An operation that multiplies linear RGB by ``matrix`` (3×3)."""
    return Op(Code.MATRIX, tuple(float(v) for v in np.asarray(matrix).ravel()))


def in_lab(*ops: Op) -> list[Op]:
    """Operations on OKLab, with the way there and back; ``fuse`` takes out what neighbours need only once."""
    return [Op(Code.TO_LAB), *ops, Op(Code.TO_RGB)]


def affine_op(a: tuple[float, float], b: tuple[float, float], offset: tuple[float, float] = (0.0, 0.0)) -> Op:
    """a' = a[0]·a + a[1]·b + offset[0], b' = b[0]·a + b[1]·b + offset[1]; to be given to ``in_lab``."""
    return Op(Code.AFFINE, (*a, *b, *offset))


def fuse(ops: list[Op]) -> list[Op]:
    """Fewer operations that do the same: neighbouring matrices multiplied, OKLab not left and entered again, steps that
    cover the whole frame as they are not blended.
    """
    out: list[Op] = []
    for op in _without_idle_blends(ops):
        last = out[-1] if out else None
        if last is not None and op.code is last.code is Code.MATRIX:
            out[-1] = matrix_op(np.reshape(op.params, (3, 3)) @ np.reshape(last.params, (3, 3)))
        elif last is not None and op.code is last.code is Code.AFFINE:
            out[-1] = _composed(last, op)
        elif last is not None and last.code is Code.TO_RGB and op.code is Code.TO_LAB:
            out.pop()
        else:
            out.append(op)
    return out


def _without_idle_blends(ops: list[Op]) -> list[Op]:
    out: list[Op] = []
    begun: list[int] = []
    for op in ops:
        if op.code is Code.BELOW:
            begun.append(len(out))
        if op.code is Code.BLEND and begun:
            start = begun.pop()
            if not op.planes and op.params[0] >= 1.0 and op.mode == 0:
                del out[start]
                continue
        out.append(op)
    return out


def _composed(first: Op, second: Op) -> Op:
    m, k = np.reshape(first.params[:4], (2, 2)), np.reshape(second.params[:4], (2, 2))
    product = k @ m
    offset = k @ np.array(first.params[4:6]) + np.array(second.params[4:6])
    return Op(Code.AFFINE, (*(float(v) for v in product.ravel()), *(float(v) for v in offset)))

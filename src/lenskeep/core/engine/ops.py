"""The small set of operations every adjustment compiles to, and their packing into arrays for the kernel.

Adjustments live in ``core/adjust``, one file each; none of them knows the kernel, and the kernel knows none of them.
A new adjustment is written with these operations. Wide filters enter as *planes*: coefficients on a proxy of fixed
size, sampled bilinearly, so that the picture is the same at every output size (fast guided filter, He & Sun 2015).
"""

from dataclasses import dataclass, field
from enum import IntEnum

import numpy as np
from numpy.typing import NDArray

from lenskeep.core.types import Float, Matrix

PARAMS = 12
PLANES = 4
TABLE_SIZE = 512
TABLE_FROM, TABLE_TO = -14.0, 6.0
"""Tables are indexed by log2 of luminance, from 2^-14 to 2^6."""


class Code(IntEnum):
    """What the kernel can do to a row."""

    BELOW = 0
    """Remember the picture below: starts a step."""
    MATRIX = 1
    """3×3 matrix in linear RGB."""
    TONE = 2
    """Gain from a table at the pixel's own luminance."""
    BASE_TONE = 3
    """Gain from a table at the edge-preserving base a·lg + b."""
    CHROMA = 4
    """Scale OKLab a and b."""
    BAND = 5
    """Amplify the band between two edge-preserving bases."""
    VEIL = 6
    """Mix with, or take out, a veil of light through a transmission plane."""
    RADIAL = 7
    """Exposure growing from an ellipse outwards."""
    BLEND = 8
    """Mix with the remembered picture by the region's alpha: ends a step."""


@dataclass(frozen=True)
class Op:
    """One operation. ``planes`` are (ph, pw) float32 of one proxy size; ``table`` has ``TABLE_SIZE`` log2 gains."""

    code: Code
    params: tuple[float, ...] = ()
    planes: tuple[Float, ...] = ()
    table: Float | None = None


@dataclass
class Program:
    """Operations packed for the kernel."""

    codes: NDArray[np.int32] = field(default_factory=lambda: np.zeros((0, 2 + PLANES), np.int32))
    params: Float = field(default_factory=lambda: np.zeros((0, PARAMS), np.float32))
    planes: Float = field(default_factory=lambda: np.zeros((1, 1, 1), np.float32))
    tables: Float = field(default_factory=lambda: np.zeros((1, TABLE_SIZE), np.float32))


def table_positions() -> Float:
    """log2 luminance at each table entry, shape (TABLE_SIZE,)."""
    return np.linspace(TABLE_FROM, TABLE_TO, TABLE_SIZE, dtype=np.float32)


def matrix_op(matrix: Matrix) -> Op:
    """An operation that multiplies linear RGB by ``matrix`` (3×3)."""
    return Op(Code.MATRIX, tuple(float(v) for v in np.asarray(matrix).ravel()))


def fuse(ops: list[Op]) -> list[Op]:
    """Multiply neighbouring matrices into one."""
    out: list[Op] = []
    for op in ops:
        if op.code is Code.MATRIX and out and out[-1].code is Code.MATRIX:
            product = np.reshape(op.params, (3, 3)) @ np.reshape(out[-1].params, (3, 3))
            out[-1] = matrix_op(product)
        else:
            out.append(op)
    return out


def pack(ops: list[Op]) -> Program:
    """Pack for the kernel. Planes given more than once are stored once. Raises ValueError if plane sizes differ."""
    planes: list[Float] = []
    index: dict[int, int] = {}
    tables: list[Float] = []
    codes = np.full((len(ops), 2 + PLANES), -1, np.int32)
    params = np.zeros((len(ops), PARAMS), np.float32)
    for row, op in enumerate(ops):
        codes[row, 0] = int(op.code)
        params[row, : len(op.params)] = op.params
        if op.table is not None:
            codes[row, 1] = len(tables)
            tables.append(op.table)
        for slot, plane in enumerate(op.planes):
            if id(plane) not in index:
                index[id(plane)] = len(planes)
                planes.append(plane)
            codes[row, 2 + slot] = index[id(plane)]
    if len({plane.shape for plane in planes}) > 1:
        raise ValueError("all planes of a program must have one proxy size")
    program = Program(codes=codes, params=params)
    if planes:
        program.planes = np.ascontiguousarray(np.stack(planes), np.float32)
    if tables:
        program.tables = np.ascontiguousarray(np.stack(tables), np.float32)
    return program

"""Operations packed into arrays for the kernel, cut into stages where one of them looks at a pixel's neighbours."""

from dataclasses import dataclass, field
from typing import Generic, TypeVar

import numpy as np
from numpy.typing import NDArray

from lenskeep.core.engine.kernel.borrowed import lent_planes
from lenskeep.core.engine.ops import EXTRA_SLOT, FINE_SLOT, PARAMS, PLANE_SLOT, TABLE_SIZE, Code, Op, Sheet
from lenskeep.core.types import AlphaAtSize, Float

WIDTH = EXTRA_SLOT + 3
T = TypeVar("T")


@dataclass
class Program:
    """Operations packed for the kernel; ``planes`` are held and ``lent``, ``data`` holds cubes and sheets one after
    another, ``fine`` what draws alpha at the size rendered.
    """

    codes: NDArray[np.int32] = field(default_factory=lambda: np.zeros((0, WIDTH), np.int32))
    params: Float = field(default_factory=lambda: np.zeros((0, PARAMS), np.float32))
    planes: list[Float] = field(default_factory=list)
    tables: Float = field(default_factory=lambda: np.zeros((1, TABLE_SIZE), np.float32))
    data: Float = field(default_factory=lambda: np.zeros(1, np.float32))
    fine: list[AlphaAtSize] = field(default_factory=list)

    def __post_init__(self) -> None:
        self.lent = lent_planes(self.planes)


@dataclass
class Stages:
    """Row programs with neighbourhood operations between them: ``programs`` has one more entry than ``between``.

    ``recalls[k]`` says whether the program after ``between[k]`` goes on with a step that the one before began.
    """

    programs: list[Program]
    between: list[Op] = field(default_factory=list)
    recalls: list[bool] = field(default_factory=list)


def pack(ops: list[Op]) -> Program:
    """Pack for the kernel. Planes given more than once are stored once. Raises ValueError if plane sizes differ."""
    planes, tables, fine, index = _Store[Float](), _Store[Float](), _Store[AlphaAtSize](), _Data()
    codes = np.full((len(ops), WIDTH), -1, np.int32)
    params = np.zeros((len(ops), PARAMS), np.float32)
    for row, op in enumerate(ops):
        codes[row, 0] = int(op.code)
        params[row, : len(op.params)] = op.params
        for slot, table in enumerate(op.tables):
            codes[row, 1 + slot] = tables.place(table)
        for slot, plane in enumerate(op.planes):
            codes[row, PLANE_SLOT + slot] = planes.place(plane)
        codes[row, EXTRA_SLOT] = op.mode
        if op.fine is not None:
            codes[row, FINE_SLOT] = fine.place(op.fine)
        if op.cube is not None:
            codes[row, EXTRA_SLOT:] = index.add(op.cube.ravel()), op.cube.shape[0], op.cube.ndim == 2
        if op.sheet is not None:
            codes[row, EXTRA_SLOT:] = index.add(_flat(op.sheet)), len(op.sheet.levels), op.sheet.tiled
            params[row, 4:8] = op.sheet.place
    if len({plane.shape for plane in planes.items}) > 1:
        raise ValueError("all planes of a program must have one proxy size")
    own = [np.ascontiguousarray(plane, np.float32) for plane in planes.items]
    program = Program(codes=codes, params=params, planes=own, fine=fine.items)
    if tables.items:
        program.tables = np.ascontiguousarray(np.stack(tables.items), np.float32)
    if index.parts:
        program.data = np.concatenate(index.parts).astype(np.float32)
    return program


def staged(ops: list[Op]) -> Stages:
    """Fused operations cut at those that look at neighbours. A step that is cut is begun anew with ``RECALL``."""
    pieces: list[list[Op]] = [[]]
    between, recalls = [], []
    open_step = False
    for place, op in enumerate(ops):
        if op.code is Code.LOCAL:
            between.append(op)
            recalls.append(open_step)
            blend = next((o for o in ops[place:] if o.code is Code.BLEND), None) if open_step else None
            pieces.append([Op(Code.RECALL, blend.params, blend.planes, fine=blend.fine)] if blend else [])
            continue
        open_step = op.code is Code.BELOW or (open_step and op.code is not Code.BLEND)
        pieces[-1].append(op)
    return Stages([pack(piece) for piece in pieces], between, recalls)


class _Store(Generic[T]):
    """Things each stored once, by identity."""

    def __init__(self) -> None:
        self.items: list[T] = []
        self._index: dict[int, int] = {}

    def place(self, item: T) -> int:
        if id(item) not in self._index:
            self._index[id(item)] = len(self.items)
            self.items.append(item)
        return self._index[id(item)]


class _Data:
    """Numbers one after another."""

    def __init__(self) -> None:
        self.parts: list[Float] = []
        self._length = 0

    def add(self, numbers: Float) -> int:
        start, self._length = self._length, self._length + numbers.size
        self.parts.append(numbers)
        return start


def _flat(sheet: Sheet) -> Float:
    """Every level as height, width, then its pixels."""
    parts = []
    for level in sheet.levels:
        parts += [np.array(level.shape[:2], np.float32), level.ravel().astype(np.float32)]
    return np.concatenate(parts)

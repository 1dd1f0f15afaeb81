"""Operations that look at a pixel's neighbours, one file each. To add one: write its file and put it into ``LOCAL``.

A strip is read with as many rows around it as its operations look away, so strips leave no seams.
"""

import math

from lenskeep.core.engine.local.base import LocalOperation
from lenskeep.core.engine.local.fringes import FRINGES
from lenskeep.core.engine.local.sharpen import SHARPEN
from lenskeep.core.engine.ops import Op
from lenskeep.core.types import LinearRGB

LOCAL: dict[str, LocalOperation] = {operation.name: operation for operation in (SHARPEN, FRINGES)}


def reach(op: Op, long_side: int) -> int:
    """How many pixels a local operation looks away at a size."""
    return math.ceil(LOCAL[op.local].reach(op.params) * long_side) + 1


def apply_local(op: Op, rgb: LinearRGB, long_side: int) -> LinearRGB:
    """A new strip of the same shape; within ``reach`` of a cut border it is not right."""
    return LOCAL[op.local].apply(rgb, long_side, op.params)

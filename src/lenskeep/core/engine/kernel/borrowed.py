"""Arrays lent to a kernel for as long as a call lasts, without counting who holds them; many of one shape by address.

A kernel takes thousands of views of its rows, and counting each would cost more than short rows' arithmetic; two
threads would wait for each other's counts besides.
"""

from typing import Any, TypeVar

import numba
import numpy as np
from llvmlite import ir  # type: ignore[import-untyped]
from numba.core import types
from numba.extending import intrinsic
from numba.np import arrayobj
from numpy.typing import NDArray

from lenskeep.core.jit import JIT, njit
from lenskeep.core.types import Float

Planes = NDArray[np.int64]
"""Height, width, then the address of each of any number of planes (height, width) float32: ``lent_planes``."""
T = TypeVar("T")
make_array: Any = arrayobj.make_array
carray: Any = numba.carray  # type: ignore[attr-defined]
FLOATS: Any = types.CPointer(types.float32)  # type: ignore[no-untyped-call]


def _without_owner(_context: Any, array: types.Array) -> tuple[Any, Any]:
    def code(context: Any, builder: Any, signature: Any, given: Any) -> Any:
        lent = make_array(signature.args[0])(context, builder, given[0])
        lent.meminfo = ir.Constant(lent.meminfo.type, None)
        lent.parent = ir.Constant(lent.parent.type, None)
        return lent._getvalue()

    return array(array), code


def _pointer(_context: Any, _address: Any) -> tuple[Any, Any]:
    def code(context: Any, builder: Any, signature: Any, given: Any) -> Any:
        return builder.inttoptr(given[0], context.get_value_type(signature.return_type))

    return FLOATS(types.int64), code


_at: Any = intrinsic(_pointer)
_lent: Any = intrinsic(_without_owner)


@njit(**JIT)
def borrowed(array: T) -> T:
    """The same array, of whose memory nobody is counted as an owner.

    Only for what the caller was given itself: Numba lets go of a local variable as soon as it was lent.
    """
    out: T = _lent(array)
    return out


def lent_planes(planes: list[Float]) -> Planes:
    """Planes (h, w) float32, contiguous and of one shape, as a kernel is lent them; whoever lends them holds them."""
    h, w = planes[0].shape if planes else (1, 1)
    return np.array([h, w, *(plane.ctypes.data for plane in planes)], np.int64)


@njit(**JIT)
def plane_line(planes: Planes, k: int, row: int) -> Float:
    """A row of plane ``k``."""
    width = planes[1]
    line: Float = carray(_at(planes[2 + k] + 4 * row * width), (width,), np.float32)
    return line

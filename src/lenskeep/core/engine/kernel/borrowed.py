"""Arrays lent to a kernel for as long as a call lasts, without counting who holds them.

A kernel takes thousands of views of its rows, and counting each would cost more than short rows' arithmetic; two
threads would wait for each other's counts besides.
"""

from typing import Any, TypeVar

from llvmlite import ir  # type: ignore[import-untyped]
from numba import njit
from numba.core import types
from numba.extending import intrinsic
from numba.np import arrayobj

from lenskeep.core.engine.kernel.rowmath import JIT

T = TypeVar("T")
make_array: Any = arrayobj.make_array


def _without_owner(_context: Any, array: types.Array) -> tuple[Any, Any]:
    def code(context: Any, builder: Any, signature: Any, given: Any) -> Any:
        lent = make_array(signature.args[0])(context, builder, given[0])
        lent.meminfo = ir.Constant(lent.meminfo.type, None)
        lent.parent = ir.Constant(lent.parent.type, None)
        return lent._getvalue()

    return array(array), code


_lent: Any = intrinsic(_without_owner)


@njit(**JIT)
def borrowed(array: T) -> T:
    """The same array, of whose memory nobody is counted as an owner.

    Only for what the caller was given itself: Numba lets go of a local variable as soon as it was lent.
    """
    out: T = _lent(array)
    return out

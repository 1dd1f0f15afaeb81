"""What an operation that looks at neighbours is."""

from collections.abc import Callable
from dataclasses import dataclass

from lenskeep.core.engine.ops import Code, Op
from lenskeep.core.types import LinearRGB

Params = tuple[float, ...]


@dataclass(frozen=True)
class LocalOperation:
    """``reach`` is how far it looks, as a fraction of the long side; ``apply`` takes (rows, width, 3) and the long side
    in pixels and gives a new strip of that shape.
    """

    name: str
    reach: Callable[[Params], float]
    apply: Callable[[LinearRGB, int, Params], LinearRGB]

    def op(self, *params: float) -> Op:
        """The operation with its numbers, as an adjustment compiles to it."""
        return Op(Code.LOCAL, params, local=self.name)

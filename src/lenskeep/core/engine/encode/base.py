"""What turns rows of the working space into numbers of an output space."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from lenskeep.core.colour.spaces import OutputSpace
from lenskeep.core.types import Float

Numbers = NDArray[Any]


@dataclass(frozen=True)
class Encoder:
    """``rows`` writes linear Rec. 2020 (rows, width, 3), gamut mapped, into an array of that shape and of ``dtype``."""

    name: str
    dtype: type[np.generic]
    rows: Callable[[Float, Numbers, OutputSpace], None]

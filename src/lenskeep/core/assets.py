"""Pictures and tables that recipes refer to by their content's hash: brought in once, kept beside recipes, not in them.

Decoding them is the business of whoever keeps them (``files.assets``); what is here needs no codec.
"""

from typing import Annotated, Protocol

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from lenskeep.core.types import Mask8

AssetKey = Annotated[str, Field(pattern="^([0-9a-f]{64})?$")]
"""SHA-256 of a file's bytes in hexadecimal; "" for none."""


class Assets(Protocol):
    """Where assets are got from. Each method gives None for one that is not there or is of another sort."""

    def picture(self, key: str) -> NDArray[np.uint8] | None:
        """(h, w, 4) uint8: red, green, blue, coverage."""

    def grey(self, key: str) -> Mask8 | None:
        """(h, w) uint8."""

    def numbers(self, key: str, count: int) -> NDArray[np.uint16] | None:
        """So many numbers of 16 bits."""


class NoAssets:
    """None are there."""

    def picture(self, key: str) -> NDArray[np.uint8] | None:
        return None

    def grey(self, key: str) -> Mask8 | None:
        return None

    def numbers(self, key: str, count: int) -> NDArray[np.uint16] | None:
        return None


NO_ASSETS = NoAssets()

"""Colour table: a .cube table, one-dimensional or three-dimensional, over encoded sRGB.

Inside its domain it is read linearly, in tetrahedra when three-dimensional; outside, a colour takes the change of the
nearest one inside. Entries travel with the recipe in steps of 1/65535 of their span.
"""

from typing import Annotated, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, model_validator

from lenskeep.core.adjust.base import Adjustment, Below, amount, extra
from lenskeep.core.assets import AssetKey, Assets
from lenskeep.core.engine.ops import Code, Op
from lenskeep.core.types import Float

MOST_3D = 129
"""Steps a side."""
FARTHEST = 1e6
"""Entries and domain stay within this; what is beyond is no colour, and overflows in float32."""
Entry = Annotated[float, Field(ge=-FARTHEST, le=FARTHEST)]
Triple = tuple[Entry, Entry, Entry]


class ColourTable(Adjustment):
    """``data`` is the key of its entries (n³ · 3, red fastest as in a .cube file, or n · 3)."""

    label: ClassVar[str] = "Colour table"
    group: ClassVar[str] = "Colour"
    help: ClassVar[str] = "Runs colours through a .cube table that you bring in."
    kind: Literal["colour_table"] = "colour_table"
    share: float = amount(0, 100, label="Colour table", unit="%")
    name: str = Field(default="", max_length=120)
    dimensions: Literal[1, 3] = 3
    size: int = Field(default=0, ge=0, le=65536)
    low: Triple = (0.0, 0.0, 0.0)
    high: Triple = (1.0, 1.0, 1.0)
    span: tuple[Entry, Entry] = (0.0, 1.0)
    data: AssetKey = extra("", "Table", "table")

    asset_fields: ClassVar[tuple[str, ...]] = ("data",)

    @model_validator(mode="after")
    def _spans(self) -> "ColourTable":
        empty = self.size < 2 or min(h - w for h, w in zip(self.high, self.low, strict=True)) <= 0
        if self.data and (empty or (self.dimensions == 3 and self.size > MOST_3D)):
            raise ValueError("the colour table is not whole; bring the .cube file in again")
        return self

    def is_neutral(self) -> bool:
        return not self.data or super().is_neutral()

    @property
    def count(self) -> int:
        """How many numbers its asset holds."""
        return int(3 * self.size**self.dimensions)

    def table(self, assets: Assets) -> Float | None:
        """Entries as floats: (n, n, n, 3) indexed by red, green, blue, or (n, 3); None when they are not there."""
        numbers = assets.numbers(self.data, self.count) if self.data else None
        if numbers is None:
            return None
        values = numbers.astype(np.float32) / np.float32(65535.0)
        values = values * np.float32(self.span[1] - self.span[0]) + np.float32(self.span[0])
        if self.dimensions == 1:
            return np.ascontiguousarray(values.reshape(-1, 3))
        return np.ascontiguousarray(values.reshape(self.size, self.size, self.size, 3).transpose(2, 1, 0, 3))

    def operations(self, below: Below) -> list[Op]:
        table = self.table(below.assets)
        return [] if table is None else [Op(Code.CUBE, (self.share / 100.0, *self.low, *self.high), cube=table)]


def quantised(table: Float) -> tuple[NDArray[np.uint16], tuple[float, float]]:
    """(n, n, n, 3) indexed by red, green, blue, or (n, 3), as an asset's numbers in the order they are kept, and their
    span.
    """
    flat = (table if table.ndim == 2 else table.transpose(2, 1, 0, 3)).astype(np.float64).ravel()
    first, last = float(flat.min()), float(flat.max())
    last = last if last > first else first + 1.0
    codes = np.rint((flat - first) / (last - first) * 65535.0).astype(np.uint16)
    return codes, (first, last)

"""Colour table: a .cube table, one-dimensional or three-dimensional, over encoded sRGB.

Inside its domain it is read linearly, in tetrahedra when three-dimensional; outside, a colour takes the change of the
nearest one inside. Entries travel with the recipe in steps of 1/65535 of their span.
"""

import base64
import binascii
import zlib
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field, model_validator

from lenskeep.core.adjust.base import Adjustment, Below, amount, extra
from lenskeep.core.engine.ops import Code, Op
from lenskeep.core.types import Float

MOST_TEXT = 2_500_000
FARTHEST = 1e6
"""Entries and domain stay within this; what is beyond is no colour, and overflows in float32."""
Entry = Annotated[float, Field(ge=-FARTHEST, le=FARTHEST)]
Triple = tuple[Entry, Entry, Entry]


class ColourTable(Adjustment):
    """``data`` is zlib, base64, of uint16 entries (n³ · 3, red fastest as in a .cube file, or n · 3)."""

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
    data: str = extra("", "Table", "table", maxLength=MOST_TEXT)

    @model_validator(mode="after")
    def _whole(self) -> "ColourTable":
        if len(self.data) > MOST_TEXT or (self.data and _entries(self) is None):
            raise ValueError("the colour table is not whole; bring the .cube file in again")
        return self

    def is_neutral(self) -> bool:
        return not self.data or super().is_neutral()

    def table(self) -> Float:
        """Entries as floats: (n, n, n, 3) indexed by red, green, blue, or (n, 3)."""
        entries = _entries(self)
        if entries is None:
            raise ValueError("There is no colour table here.")
        return entries

    def operations(self, below: Below) -> list[Op]:
        return [Op(Code.CUBE, (self.share / 100.0, *self.low, *self.high), cube=self.table())]


def _entries(of: ColourTable) -> Float | None:
    count = 3 * of.size**of.dimensions
    if (
        of.size < 2
        or (of.dimensions == 3 and of.size > 129)
        or min(h - w for h, w in zip(of.high, of.low, strict=True)) <= 0
    ):
        return None
    try:
        opened = zlib.decompressobj()
        raw = opened.decompress(base64.b64decode(of.data, validate=True), 2 * count + 1)
    except (binascii.Error, ValueError, zlib.error):
        return None
    if len(raw) != 2 * count:
        return None
    values = np.frombuffer(raw, "<u2").astype(np.float32) / np.float32(65535.0)
    values = values * np.float32(of.span[1] - of.span[0]) + np.float32(of.span[0])
    if of.dimensions == 1:
        return np.ascontiguousarray(values.reshape(-1, 3))
    return np.ascontiguousarray(values.reshape(of.size, of.size, of.size, 3).transpose(2, 1, 0, 3))


def packed_table(table: Float, name: str, low: Float, high: Float) -> dict[str, object]:
    """The fields of a ColourTable for (n, n, n, 3) indexed by red, green, blue, or (n, 3)."""
    one = table.ndim == 2
    flat = (table if one else table.transpose(2, 1, 0, 3)).astype(np.float64).ravel()
    first, last = float(flat.min()), float(flat.max())
    last = last if last > first else first + 1.0
    codes = np.rint((flat - first) / (last - first) * 65535.0).astype("<u2")
    return {
        "name": name[:120],
        "dimensions": 1 if one else 3,
        "size": table.shape[0],
        "low": [float(v) for v in low],
        "high": [float(v) for v in high],
        "span": [first, last],
        "data": base64.b64encode(zlib.compress(codes.tobytes(), 9)).decode(),
    }

"""Colour bands: eight hues of OKLCh, each with a turn, a chroma and a lightness of its own.

Between two centres the values go over in a cosine, so that no hue is a border. What is nearly grey has no hue and is
not lifted.
"""

from typing import Any, ClassVar, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, create_model

from lenskeep.core.adjust.base import Adjustment, Below, amount
from lenskeep.core.engine.ops import Code, Op, hue_positions, in_lab
from lenskeep.core.types import Float

BANDS = {"red": 25, "orange": 58, "yellow": 105, "green": 143, "teal": 195, "blue": 255, "purple": 305, "pink": 350}
"""OKLCh hue of each band's middle, in degrees."""
MOST_TURN, MOST_LIFT = 30.0, 0.18
MOST_LOG_CHROMA = 1.0


def by_hue(values: list[float]) -> Float:
    """A table over ``hue_positions`` that goes through one value a band, in BANDS' order."""
    centres = np.array(list(BANDS.values()), np.float64)
    hue = np.rad2deg(hue_positions().astype(np.float64)) % 360.0
    before = (np.searchsorted(centres, hue, side="right") - 1) % len(centres)
    after = (before + 1) % len(centres)
    span = (centres[after] - centres[before]) % 360.0
    t = ((hue - centres[before]) % 360.0) / span
    v = np.array(values, np.float64)
    return np.asarray(v[before] + (v[after] - v[before]) * (1.0 - np.cos(np.pi * t)) / 2.0, np.float32)


class _Numbers(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)


def _fields() -> dict[str, Any]:
    out: dict[str, Any] = {}
    for what in ("turn", "chroma", "lightness"):
        for band in BANDS:
            out[f"{band}_{what}"] = (float, amount(-100, 100, label=f"{band.capitalize()} {what}", unit="%"))
    return out


BandNumbers = create_model("BandNumbers", __base__=_Numbers, **_fields())


class ColourBands(BandNumbers, Adjustment):  # type: ignore[misc, valid-type]
    label: ClassVar[str] = "Colour bands"
    group: ClassVar[str] = "Colour"
    help: ClassVar[str] = "Eight hues, each turned towards a neighbour, made fuller or paler, lighter or darker."
    tabs: ClassVar[tuple[str, ...]] = ("turn", "chroma", "lightness")
    kind: Literal["colour_bands"] = "colour_bands"

    def values(self, what: str) -> list[float]:
        """The eight numbers of "turn", "chroma" or "lightness"."""
        return [float(getattr(self, f"{band}_{what}")) for band in BANDS]

    def words(self) -> str:
        used = [band for band in BANDS if any(getattr(self, f"{band}_{w}") for w in self.tabs)]
        return f"colour bands: {' and '.join(used)}" if len(used) in (1, 2) else f"{len(used)} colour bands"

    def operations(self, below: Below) -> list[Op]:
        turn = np.deg2rad(by_hue(self.values("turn")) / 100.0 * MOST_TURN)
        chroma = by_hue(self.values("chroma")) / 100.0
        # -100 % is no colour at all, which no power of two reaches; 2^-8 is under one 8-bit step
        log_chroma = np.where(chroma >= 0, chroma * MOST_LOG_CHROMA, np.log2(np.maximum(1.0 + chroma, 2.0**-8)))
        lift = by_hue(self.values("lightness")) / 100.0 * MOST_LIFT
        tables = tuple(np.asarray(t, np.float32) for t in (turn, log_chroma, lift))
        return in_lab(Op(Code.HUES, tables=tables))

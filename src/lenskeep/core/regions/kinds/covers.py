"""Ground covers as found on each frame; several can be ticked."""

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from lenskeep.core.facts import COVERS
from lenskeep.core.regions.base import FOUND, Found, Part
from lenskeep.core.types import Alpha


class Covers(Part):
    label: ClassVar[str] = "Ground covers"
    group: ClassVar[str] = FOUND
    help: ClassVar[str] = "Greenery, water, ground, rock or buildings, found again on every frame. Tick one or more."
    kind: Literal["covers"] = "covers"
    greenery: bool = Field(default=True, title="Greenery")
    water: bool = Field(default=False, title="Water")
    ground: bool = Field(default=False, title="Ground")
    rock: bool = Field(default=False, title="Rock and hills")
    buildings: bool = Field(default=False, title="Buildings")

    def _ticked(self) -> list[str]:
        return [name for name in COVERS if getattr(self, name)]

    def alpha(self, found: Found) -> Alpha:
        total = np.zeros(found.shape, np.float32)
        for name in self._ticked():
            total += found.mask(name)  # they share each pixel out among them
        return np.minimum(total, np.float32(1.0))

    def lost(self, found: Found) -> str | None:
        ticked = self._ticked()
        found_any = any(found.facts.area(name) > 0.0 for name in ticked)
        return None if found_any else (" or ".join(_SAID[n] for n in ticked) or "ticked ground cover")

    def uses(self) -> frozenset[str]:
        return frozenset(self._ticked())

    def words(self) -> str:
        return " and ".join(_SAID[n] for n in self._ticked()) or "no ground cover"


_SAID = {
    "greenery": "greenery",
    "water": "water",
    "ground": "ground",
    "rock": "rock and hills",
    "buildings": "buildings",
}

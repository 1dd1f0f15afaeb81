"""The sky as found on each frame."""

from typing import ClassVar, Literal

from lenskeep.core.regions.base import FOUND, Found, Part
from lenskeep.core.types import Alpha


class Sky(Part):
    label: ClassVar[str] = "Sky"
    group: ClassVar[str] = FOUND
    help: ClassVar[str] = "The sky, found again on every frame."
    kind: Literal["sky"] = "sky"

    def alpha(self, found: Found) -> Alpha:
        return found.sky

    def lost(self, found: Found) -> str | None:
        return "sky" if found.facts.area("sky") <= 0.0 else None

    def uses(self) -> frozenset[str]:
        return frozenset({"sky"})

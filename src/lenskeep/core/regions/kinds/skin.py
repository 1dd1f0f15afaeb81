"""Skin and faces as found on each frame."""

from typing import ClassVar, Literal

from lenskeep.core.regions.base import FOUND, Found, Part
from lenskeep.core.types import Alpha


class Skin(Part):
    label: ClassVar[str] = "Skin"
    group: ClassVar[str] = FOUND
    help: ClassVar[str] = "The skin of the people found: faces, necks, arms."
    kind: Literal["skin"] = "skin"

    def alpha(self, found: Found) -> Alpha:
        return found.mask("skin")

    def lost(self, found: Found) -> str | None:
        return "skin" if found.facts.area("skin") <= 0.0 else None

    def uses(self) -> frozenset[str]:
        return frozenset({"skin"})


class FacePart(Part):
    label: ClassVar[str] = "Face"
    group: ClassVar[str] = FOUND
    help: ClassVar[str] = "The faces found, softly from forehead to chin."
    kind: Literal["face"] = "face"

    def alpha(self, found: Found) -> Alpha:
        return found.mask("face")

    def lost(self, found: Found) -> str | None:
        return "face" if found.facts.area("face") <= 0.0 else None

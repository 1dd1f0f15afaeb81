"""The sky as found on each frame."""

from typing import ClassVar, Literal

from lenskeep.core.regions.base import Found, Part
from lenskeep.core.types import Alpha


class Sky(Part):
    label: ClassVar[str] = "Sky"
    help: ClassVar[str] = "The sky, found again on every frame."
    kind: Literal["sky"] = "sky"

    def alpha(self, found: Found) -> Alpha:
        if found.facts.sky.area <= 0.0:
            found.missing.add("sky")
        return found.sky

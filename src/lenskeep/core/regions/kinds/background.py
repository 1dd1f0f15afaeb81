"""Everything that is not the subject."""

from typing import ClassVar, Literal

import numpy as np

from lenskeep.core.regions.base import FOUND, Found, Part
from lenskeep.core.types import Alpha


class Background(Part):
    label: ClassVar[str] = "Background"
    group: ClassVar[str] = FOUND
    help: ClassVar[str] = "Everything but the subject."
    kind: Literal["background"] = "background"

    def alpha(self, found: Found) -> Alpha:
        return np.asarray(1.0 - found.subject, np.float32)

    def lost(self, found: Found) -> str | None:
        return "subject" if found.facts.subject_box is None else None

    def uses(self) -> frozenset[str]:
        return frozenset({"subject"})

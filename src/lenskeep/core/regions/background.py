"""Everything that is not the subject."""

from typing import ClassVar, Literal

import numpy as np

from lenskeep.core.regions.base import Found, Part
from lenskeep.core.types import Alpha


class Background(Part):
    label: ClassVar[str] = "Background"
    help: ClassVar[str] = "Everything but the subject."
    kind: Literal["background"] = "background"

    def alpha(self, found: Found) -> Alpha:
        if found.facts.subject_box is None:
            found.missing.add("subject")
        return np.asarray(1.0 - found.subject, np.float32)

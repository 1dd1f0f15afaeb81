"""The subject as found on each frame."""

from typing import ClassVar, Literal

from lenskeep.core.regions.base import Found, Part
from lenskeep.core.types import Alpha


class Subject(Part):
    label: ClassVar[str] = "Subject"
    help: ClassVar[str] = "What the picture is of, found again on every frame."
    kind: Literal["subject"] = "subject"

    def alpha(self, found: Found) -> Alpha:
        if found.facts.subject_box is None:
            found.missing.add("subject")
        return found.subject

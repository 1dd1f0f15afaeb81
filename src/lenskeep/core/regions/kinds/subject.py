"""The subject as found on each frame: all of it, its largest object, or one kind of it."""

from typing import ClassVar, Literal

from pydantic import Field

from lenskeep.core.facts import SUBJECT_KINDS
from lenskeep.core.regions.base import FOUND, Found, Part
from lenskeep.core.regions.pieces import piece_alpha
from lenskeep.core.types import Alpha


class Subject(Part):
    label: ClassVar[str] = "Subject"
    group: ClassVar[str] = FOUND
    help: ClassVar[str] = "What the picture is of, found again on every frame."
    kind: Literal["subject"] = "subject"
    which: Literal["all", "largest", "people", "animals", "things"] = Field(default="all", title="Of it")

    def alpha(self, found: Found) -> Alpha:
        if self.which == "largest":
            objects = found.facts.objects
            return piece_alpha(found, objects[0]) if len(objects) > 1 else found.subject
        return found.mask("subject" if self.which == "all" else self.which)

    def lost(self, found: Found) -> str | None:
        if found.facts.subject_box is None:
            return "subject"
        absent = self.which in SUBJECT_KINDS and found.facts.area(self.which) <= 0.0
        return f"{self.which} in the subject" if absent else None

    def uses(self) -> frozenset[str]:
        return frozenset({self.which if self.which in SUBJECT_KINDS else "subject"})

    def words(self) -> str:
        return {"all": "subject", "largest": "largest subject"}.get(self.which, self.which)

"""How parts make a region: combined left to right, inverted, grown, snapped, feathered, limited."""

from typing import Annotated, Any, get_args

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, field_validator

from lenskeep.core.ids import identified
from lenskeep.core.regions.base import FOUND, Found, Part
from lenskeep.core.regions.kinds.background import Background
from lenskeep.core.regions.kinds.band import Band
from lenskeep.core.regions.kinds.brush import Brush
from lenskeep.core.regions.kinds.colour_match import ColourMatch
from lenskeep.core.regions.kinds.covers import Covers
from lenskeep.core.regions.kinds.edges import Edges
from lenskeep.core.regions.kinds.image import ImagePart
from lenskeep.core.regions.kinds.picked import Picked
from lenskeep.core.regions.kinds.pool import Pool
from lenskeep.core.regions.kinds.ramp import Ramp
from lenskeep.core.regions.kinds.skin import FacePart, Skin
from lenskeep.core.regions.kinds.sky import Sky
from lenskeep.core.regions.kinds.subject import Subject
from lenskeep.core.regions.kinds.tone_range import ToneRange
from lenskeep.core.regions.sentence import linked, sentence_of, shaping_words
from lenskeep.core.regions.shaping import feathered, grown, snapped
from lenskeep.core.types import Alpha, AlphaAtSize

# in the order the interface lists them
_Found = Subject | Background | Sky | Covers | Skin | FacePart | Picked
_Drawn = Ramp | Band | Pool | Brush | ImagePart
_FromPicture = ToneRange | ColourMatch | Edges
_All = _Found | _Drawn | _FromPicture
AnyPart = Annotated[_All, Field(discriminator="kind")]
PART_KINDS: dict[str, type[Part]] = {cls.model_fields["kind"].default: cls for cls in get_args(_All)}
"""Every part by its kind, in the order the interface lists them. A new kind is one file and one entry here."""


def combine(a: Alpha, b: Alpha, how: str) -> Alpha:
    """``a`` with ``b`` added (a + b - ab), taken away (a(1 - b)) or as a limit (ab); raises ValueError otherwise."""
    if how == "add":
        return np.asarray(a + b - a * b, np.float32)
    if how == "take away":
        return np.asarray(a * (1.0 - b), np.float32)
    if how == "only within":
        return np.asarray(a * b, np.float32)
    raise ValueError(f"unknown way to combine parts: {how}")


def _share(label: str, low: float, high: float, neutral: float) -> Any:
    return Field(default=neutral, ge=low, le=high, title=label)


class Region(BaseModel):
    """Where a step works. Without parts it is the whole frame. ``grow`` and ``feather`` are fractions of the long side,
    ``snap`` and ``ceiling`` 0…1.
    """

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)
    parts: list[AnyPart] = Field(default=[], max_length=24)
    invert: bool = False
    grow: float = _share("Grow or shrink", -0.05, 0.05, 0.0)
    snap: float = _share("Snap to edges", 0.0, 1.0, 0.0)
    feather: float = _share("Feather", 0.0, 0.1, 0.0)
    ceiling: float = _share("Ceiling", 0.0, 1.0, 1.0)

    @field_validator("parts")
    @classmethod
    def _have_ids(cls, parts: list[AnyPart]) -> list[AnyPart]:
        return identified(parts, "p")

    @property
    def is_whole(self) -> bool:
        return not self.parts and not self.invert and self.ceiling == 1.0

    def inverted(self) -> "Region":
        """The region's opposite: 1 - alpha, up to the ceiling, which stays."""
        return self.model_copy(update={"invert": not self.invert, "grow": -self.grow})

    def within(self, limit: "Region") -> "Region | None":
        """The region with a limit in it, whose alpha is the product of both; None where no one region says that."""
        if limit.is_whole:
            return self
        if self.is_whole:
            return limit
        if self.invert or not self.parts or len(limit.parts) != 1 or self.is_shaped or limit.is_shaped:
            return None
        part = limit.parts[0]
        also = part.model_copy(update={"id": "", "combine": "only within", "invert": part.invert != limit.invert})
        return self.model_copy(update={"parts": identified([*self.parts, also], "p")})

    def found_masks(self) -> list[Part]:
        """Its parts that are one found mask each, which a frame's repairs can mend."""
        return [p for p in self.parts if p.group == FOUND and len(p.uses()) == 1 and not p.editor]

    @property
    def is_shaped(self) -> bool:
        """Whether something is done to it as a whole."""
        return bool(self.grow or self.snap or self.feather or self.ceiling != 1.0)

    def alpha(self, found: Found, given: tuple[Part, float] | None = None) -> Alpha:
        """Alpha (h, w) at the proxy size of ``found``. A part that the frame lacks is passed over; the ``given`` one
        counts as this alpha all over the frame.
        """
        total: Alpha | None = None
        for part in self.parts:
            if part.lost(found):
                continue
            known = given is not None and part is given[0]
            own = np.full(found.shape, given[1], np.float32) if given and known else part.alpha(found)
            own = np.asarray(1.0 - own, np.float32) if part.invert else own
            if total is None:
                # the first part stands alone, unless what it should limit or be taken from was not found
                first = part is self.parts[0] or part.combine == "add"
                total = own if first else combine(np.ones(found.shape, np.float32), own, part.combine)
            else:
                total = combine(total, own, part.combine)
        if total is None and self.parts:
            return np.full(found.shape, self.ceiling, np.float32)  # nothing of it was found: the frame takes its place
        if total is None:
            total = np.ones(found.shape, np.float32)
        if self.invert:
            total = np.asarray(1.0 - total, np.float32)
        total = grown(total, self.grow * found.long_side)
        total = snapped(total, found, self.snap)
        total = feathered(total, self.feather * found.long_side)
        total = np.clip(total, 0.0, 1.0)
        return np.asarray(total if self.ceiling == 1.0 else total * np.float32(self.ceiling), np.float32)

    def fine_part(self, found: Found) -> tuple[Part, AlphaAtSize] | None:
        """The last part that is to be drawn at the size rendered, and what draws it. A region that is grown, snapped or
        feathered as a whole has no border of its parts' own.
        """
        if self.grow or self.snap or self.feather:
            return None
        drawn = ((part, part.at_size(found)) for part in reversed(self.parts) if not part.lost(found))
        return next(((part, draws) for part, draws in drawn if draws is not None), None)

    def uses(self) -> frozenset[str]:
        """The found masks that it depends on, by name."""
        return frozenset().union(*(part.uses() for part in self.parts))

    def lost(self, found: Found) -> list[str]:
        """What the region asks for and the frame lacks, in words; what was only to be taken away does not count."""
        out = [part.lost(found) for part in self.parts if part.combine != "take away" or part is self.parts[0]]
        return list(dict.fromkeys(words for words in out if words))

    def holds(self, found: Found) -> bool:
        """Whether enough was found for the region to mean what it should: one of the parts that make it up, and every
        part it is limited to.
        """
        making = [p for i, p in enumerate(self.parts) if i == 0 or p.combine == "add"]
        limits = [p for i, p in enumerate(self.parts) if i > 0 and p.combine == "only within"]
        made = not making or any(p.lost(found) is None for p in making)
        return made and all(p.lost(found) is None for p in limits)

    def sentence(self) -> str:
        """The region in words, such as "background, only within ramp 1, without brush 2"."""
        return sentence_of(self.parts, self.invert)

    def in_words(self) -> dict[str, str]:
        """Each part by its id, in words with how it is combined."""
        return {part.id: words for part, words in zip(self.parts, linked(self.parts), strict=True)}

    def edges_in_words(self) -> str:
        """What is done to the edges of the whole, or that nothing is."""
        return shaping_words(self.grow, self.snap, self.feather, self.ceiling)

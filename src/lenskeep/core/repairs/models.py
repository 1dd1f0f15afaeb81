"""Repairs of one frame's masks, in the order they were made in. Places are 0…1 of the frame's width and height."""

from collections.abc import Iterable
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from lenskeep.core.recipes.keys import content_key
from lenskeep.core.undoable import Undoable

MOST = 400
_STRICT = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)
Place = Annotated[float, Field(ge=-0.5, le=1.5)]
MaskName = Annotated[str, Field(pattern=r"^[a-z]{1,24}$")]


class _OfMask(BaseModel):
    """``mask`` names the mask that is repaired; ``away`` takes from it instead of adding to it."""

    model_config = _STRICT
    mask: MaskName
    away: bool = False


class Painted(_OfMask):
    """A stroke; ``size`` is its diameter as a fraction of the frame's long side."""

    kind: Literal["painted"] = "painted"
    points: list[tuple[Place, Place]] = Field(min_length=1, max_length=600)
    size: float = Field(gt=0, le=1)
    hardness: float = Field(default=0.6, ge=0, le=1)
    opacity: float = Field(default=1.0, gt=0, le=1)
    edge_aware: bool = True


class Clicked(_OfMask):
    """The object or piece under a place. ``alone``: it is all there is of the mask, such as "this is the subject"."""

    kind: Literal["clicked"] = "clicked"
    x: float = Field(ge=0, le=1)
    y: float = Field(ge=0, le=1)
    alone: bool = False


class Gap(_OfMask):
    """The hole in the mask under a place, filled; or, taken away, the piece there that hangs together with no other."""

    kind: Literal["gap"] = "gap"
    x: float = Field(ge=0, le=1)
    y: float = Field(ge=0, le=1)


class Swept(_OfMask):
    """The objects and pieces under a path, and those of like colour that touch them: a click that was dragged. Those
    that it only brushes stay: ``least`` is how long it must lie in one, in thicknesses of it.
    """

    kind: Literal["swept"] = "swept"
    points: list[tuple[Place, Place]] = Field(min_length=2, max_length=600)
    least: float = Field(default=0.0, ge=0, le=1)


class Outlined(_OfMask):
    """What lies within a line of points, which ends where it began."""

    kind: Literal["outlined"] = "outlined"
    points: list[tuple[Place, Place]] = Field(min_length=3, max_length=600)


class Traced(_OfMask):
    """What lies within a line of points brought to the picture's own edges near it: an outline from another frame."""

    kind: Literal["traced"] = "traced"
    points: list[tuple[Place, Place]] = Field(min_length=3, max_length=600)


class Emptied(_OfMask):
    """None of this here."""

    kind: Literal["emptied"] = "emptied"


Repair = Annotated[Painted | Clicked | Gap | Swept | Outlined | Traced | Emptied, Field(discriminator="kind")]


class Repairs(Undoable):
    """All repairs of one frame."""

    done: tuple[Repair, ...] = Field(default=(), max_length=MOST)
    undone: tuple[Repair, ...] = Field(default=(), max_length=MOST)

    @property
    def masks(self) -> tuple[str, ...]:
        """The masks that are repaired."""
        return tuple(dict.fromkeys(one.mask for one in self.done))

    def of(self, mask: str) -> tuple[Repair, ...]:
        return tuple(one for one in self.done if one.mask == mask)

    def with_one(self, repair: Repair) -> "Repairs":
        return Repairs(done=(*self.done, repair))

    def with_all(self, repairs: Iterable[Repair]) -> "Repairs":
        return Repairs(done=(*self.done, *repairs))

    def without(self, mask: str) -> "Repairs":
        """As it was found: every repair of one mask taken back."""
        return Repairs(done=tuple(one for one in self.done if one.mask != mask))

    def key(self) -> str:
        """A hash of all that shows; "" without a repair, so that frames without any keep their keys."""
        return content_key(*self.done) if self.done else ""


NONE = Repairs()

"""Marks of one frame that are cleaned up, in the order they were made in. Places are 0…1 of its width and height."""

from collections.abc import Callable, Iterable
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from lenskeep.core.recipes.keys import content_key
from lenskeep.core.undoable import Undoable

MOST_MARKS, MOST_POINTS = 300, 400
MOST_OTHERS = 12
_STRICT = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)
Place = Annotated[float, Field(ge=-0.1, le=1.1)]
Point = tuple[Place, Place]


class _Mark(BaseModel):
    """A stroke over what should go; ``size`` is its diameter as a fraction of the frame's long side, ``soft`` how much
    of its radius the edge takes, ``strength`` how far it goes.
    """

    model_config = _STRICT
    points: tuple[Point, ...] = Field(min_length=1, max_length=MOST_POINTS)
    size: float = Field(gt=0, le=0.5)
    soft: float = Field(default=0.3, ge=0, le=1)
    strength: float = Field(default=1.0, gt=0, le=1)


class Healed(_Mark):
    """Filled from around it. ``other`` counts how often another source was asked for; ``dust`` came from the shoot's
    map of its sensor's dust.
    """

    kind: Literal["heal"] = "heal"
    other: int = Field(default=0, ge=0, le=MOST_OTHERS)
    dust: bool = False


class Cloned(_Mark):
    """Covered with what lies ``across`` and ``down`` from it (shares of the frame's width and height), turned by so
    many degrees clockwise and enlarged by ``scale`` about its middle; ``joined`` to the light around it or as it is.
    ``frame`` is the content of another photograph of the burst, which is laid over this one first.
    """

    kind: Literal["clone"] = "clone"
    across: float = Field(default=0.0, ge=-1, le=1)
    down: float = Field(default=0.0, ge=-1, le=1)
    turn: float = Field(default=0.0, ge=-180, le=180)
    scale: float = Field(default=1.0, ge=0.25, le=4)
    joined: bool = True
    frame: str = Field(default="", max_length=100)


class Uncoloured(_Mark):
    """A spot or a fringe of colour that takes the colour around it; its light stays."""

    kind: Literal["colour"] = "colour"


Mark = Annotated[Healed | Cloned | Uncoloured, Field(discriminator="kind")]


class CleanUp(Undoable):
    """All marks of one frame."""

    done: tuple[Mark, ...] = Field(default=(), max_length=MOST_MARKS)
    undone: tuple[Mark, ...] = Field(default=(), max_length=MOST_MARKS)

    def with_marks(self, marks: Iterable[Mark]) -> "CleanUp":
        return CleanUp(done=(*self.done, *marks))

    def with_last(self, to: Callable[[Mark], Mark]) -> "CleanUp":
        """The mark that was made last in another way."""
        return CleanUp(done=(*self.done[:-1], to(self.done[-1]))) if self.done else self

    def without_dust(self) -> "CleanUp":
        return CleanUp(done=tuple(m for m in self.done if not (isinstance(m, Healed) and m.dust)))

    def turned(self, quarters: int) -> "CleanUp":
        """The same marks on the frame turned by so many quarters clockwise."""
        return CleanUp(done=tuple(_turned(mark, quarters % 4) for mark in self.done))

    def key(self) -> str:
        """A hash of all that shows; "" without a mark, so that frames without any keep their keys."""
        return content_key("clean-1", *self.done) if self.done else ""

    def words(self) -> str:
        """How many marks, in words; "" for none."""
        dust = sum(isinstance(m, Healed) and m.dust for m in self.done)
        rest = len(self.done) - dust
        counted = ((rest, "mark", "marks"), (dust, "speck of dust", "specks of dust"))
        return ", ".join(f"{n} {one if n == 1 else more}" for n, one, more in counted if n)


NOTHING = CleanUp()


def _turned(mark: Mark, quarters: int) -> Mark:
    for _ in range(quarters):
        update: dict[str, object] = {"points": tuple((1.0 - y, x) for x, y in mark.points)}
        if isinstance(mark, Cloned):
            update |= {"across": -mark.down, "down": mark.across}
        mark = mark.model_copy(update=update)
    return mark

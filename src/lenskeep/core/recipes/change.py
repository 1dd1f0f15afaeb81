"""What every change of a recipe is, and what it speaks of."""

from abc import ABC, abstractmethod
from typing import Annotated, ClassVar, TypeAlias

from pydantic import BaseModel, ConfigDict, Field

from lenskeep.core.ids import Identifier
from lenskeep.core.recipes.models import Recipe

Ref: TypeAlias = tuple[str, ...]
"""What a change speaks of: ("step", id), ("adjustment", step, id), ("part", step, id), ("region", id)."""
Places = Annotated[int, Field(ge=-1000, le=1000)]


class Change(BaseModel, ABC):
    """Base of all changes. ``words`` name it in the list of undo; ``fresh`` tells the letter of the id it needs."""

    model_config = ConfigDict(extra="ignore", frozen=True, allow_inf_nan=False)
    words: ClassVar[str] = "a change"
    fresh: ClassVar[str] = ""

    @abstractmethod
    def on(self, recipe: Recipe) -> Recipe:
        """The recipe after it. Raises EditProblem."""

    def did(self) -> str:
        return self.words

    def refs(self) -> list[Ref]:
        """What must still be there, built alike, for a late change to mean the same."""
        return []


class OnStep(Change):
    step: Identifier

    def refs(self) -> list[Ref]:
        return [("step", self.step)]


class OnAdjustment(OnStep):
    adjustment: Identifier

    def refs(self) -> list[Ref]:
        return [("adjustment", self.step, self.adjustment)]


class OnPart(OnStep):
    part: Identifier

    def refs(self) -> list[Ref]:
        return [("part", self.step, self.part)]

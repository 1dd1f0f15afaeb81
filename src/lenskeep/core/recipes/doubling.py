"""The same again: a step doubled, its opposite, another step in the same place."""

from typing import ClassVar, Literal

from lenskeep.core.ids import OwnId
from lenskeep.core.recipes import edit
from lenskeep.core.recipes.change import OnStep
from lenskeep.core.recipes.group_changes import turned
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.recipes.naming import name_of


class DoubleStep(OnStep):
    """The same step again, right below and in the same group; or its opposite: where it is not, and turned round."""

    op: Literal["double-step"] = "double-step"
    words: ClassVar[str] = "doubling a step"
    fresh: ClassVar[str] = "s"
    id: OwnId = ""
    opposite: bool = False

    def on(self, recipe: Recipe) -> Recipe:
        own = edit.step_of(recipe, self.step)
        twin = turned(own) if self.opposite else own
        return edit.with_below(recipe, own, [edit.changed(twin, id=self.id)])


class SamePlace(OnStep):
    """A step that does nothing yet, right below and where a step works."""

    op: Literal["same-place"] = "same-place"
    words: ClassVar[str] = "a step in the same place"
    fresh: ClassVar[str] = "s"
    id: OwnId = ""

    def on(self, recipe: Recipe) -> Recipe:
        own = edit.step_of(recipe, self.step)
        place = name_of(recipe.region_of(own), [])
        empty = edit.changed(own, id=self.id, name=place, adjustments=[], strength=1.0, blend="normal", enabled=True)
        return edit.with_below(recipe, own, [empty])

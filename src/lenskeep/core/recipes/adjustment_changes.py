"""What can be done to a step's adjustments: added, removed, moved, copied, given a file's fields."""

from typing import Any, ClassVar, Literal

from pydantic import Field

from lenskeep.core.adjust import KINDS, AnyAdjustment
from lenskeep.core.ids import Identifier, OwnId
from lenskeep.core.recipes import edit
from lenskeep.core.recipes.change import OnAdjustment, OnStep, Ref
from lenskeep.core.recipes.edit import EditProblem
from lenskeep.core.recipes.models import MOST_ADJUSTMENTS, Recipe, Step


class AddAdjustment(OnStep):
    op: Literal["add-adjustment"] = "add-adjustment"
    words: ClassVar[str] = "adding an adjustment"
    fresh: ClassVar[str] = "a"
    id: OwnId = ""
    kind: str = Field(default="", max_length=40)

    def on(self, recipe: Recipe) -> Recipe:
        if self.kind not in KINDS:
            raise EditProblem("Choose an adjustment.")
        step = edit.step_of(recipe, self.step)
        return edit.change_step(
            recipe, step.id, adjustments=[*step.adjustments, KINDS[self.kind].model_validate({"id": self.id})]
        )


class RemoveAdjustment(OnAdjustment):
    op: Literal["remove-adjustment"] = "remove-adjustment"
    words: ClassVar[str] = "removing an adjustment"

    def on(self, recipe: Recipe) -> Recipe:
        step = edit.step_of(recipe, self.step)
        gone = edit.adjustment_of(recipe, self.step, self.adjustment)
        return edit.change_step(recipe, step.id, adjustments=[a for a in step.adjustments if a.id != gone.id])


class SetAsset(OnAdjustment):
    """Several fields of an adjustment at once: those of a file that was brought in."""

    op: Literal["set-asset"] = "set-asset"
    words: ClassVar[str] = "bringing in a file"
    fields: dict[str, Any]

    def on(self, recipe: Recipe) -> Recipe:
        def change(own: Any) -> Any:
            seen = {name: value for name, value in own.shown_at.items() if getattr(own, name) == 0}
            return edit.changed(own, **(seen | self.fields))

        return edit.change_adjustment(recipe, self.step, self.adjustment, change)


class _ToStep(OnAdjustment):
    """An adjustment goes to a place of a step's list, 0 the first, held to its end; ``to`` may be its own step. ``id``
    is what it is called there.
    """

    fresh: ClassVar[str] = "a"
    id: OwnId = ""
    to: Identifier
    place: int = Field(default=MOST_ADJUSTMENTS, ge=0, le=MOST_ADJUSTMENTS)

    def refs(self) -> list[Ref]:
        return [*super().refs(), ("step", self.to)]

    def put(self, recipe: Recipe, own: AnyAdjustment) -> Recipe:
        held: Step = edit.step_of(recipe, self.to)
        if len(held.adjustments) >= MOST_ADJUSTMENTS:
            raise EditProblem(f"A step holds {MOST_ADJUSTMENTS} adjustments at most. Make another step for more.")
        rest = list(held.adjustments)
        rest.insert(self.place, own)
        return edit.change_step(recipe, self.to, adjustments=rest)


class MoveAdjustment(_ToStep):
    """In its own step it keeps its name."""

    op: Literal["move-adjustment"] = "move-adjustment"
    words: ClassVar[str] = "moving an adjustment"

    def on(self, recipe: Recipe) -> Recipe:
        own = edit.adjustment_of(recipe, self.step, self.adjustment)
        rest = [a for a in edit.step_of(recipe, self.step).adjustments if a.id != own.id]
        without = edit.change_step(recipe, self.step, adjustments=rest)
        return self.put(without, own if self.to == self.step else own.model_copy(update={"id": self.id}))


class CopyAdjustment(_ToStep):
    """As it is, or turned round."""

    op: Literal["copy-adjustment"] = "copy-adjustment"
    words: ClassVar[str] = "copying an adjustment"
    opposite: bool = False

    def on(self, recipe: Recipe) -> Recipe:
        own = edit.adjustment_of(recipe, self.step, self.adjustment)
        return self.put(recipe, (own.opposite() if self.opposite else own).model_copy(update={"id": self.id}))

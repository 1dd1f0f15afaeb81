"""Everything that can be done to a recipe at the Bench: one model each, from the browser's JSON to the new recipe.

Ids of what is new are given by whoever asks (``core`` has no chance in it); they must never have been used before,
since frames keep their own changes by them.
"""

from typing import Annotated, Any, ClassVar, Literal, Union

from pydantic import Field, TypeAdapter

from lenskeep.core.adjust import KINDS
from lenskeep.core.ids import OwnId
from lenskeep.core.recipes import edit
from lenskeep.core.recipes.adjustment_changes import (
    AddAdjustment,
    CopyAdjustment,
    MoveAdjustment,
    RemoveAdjustment,
    SetAsset,
)
from lenskeep.core.recipes.change import Change, OnStep, Places, Ref
from lenskeep.core.recipes.doubling import DoubleStep, SamePlace
from lenskeep.core.recipes.edit import EditProblem
from lenskeep.core.recipes.effects import EffectStep, EffectSteps, TakeEffect
from lenskeep.core.recipes.group_changes import (
    DissolveGroup,
    DoubleGroup,
    GroupSteps,
    JoinGroup,
    LimitGroup,
    MoveGroup,
    RemoveGroup,
    TakeRecipe,
)
from lenskeep.core.recipes.models import Recipe, Step
from lenskeep.core.recipes.naming import name_of
from lenskeep.core.recipes.ready_changes import BalanceStep, HoldBalance, NeutralStep, PaintStep
from lenskeep.core.recipes.region_changes import (
    NOTHING_THERE,
    AddPart,
    AddParts,
    AddPick,
    AddSample,
    AddStroke,
    ClearPicks,
    ClearStrokes,
    CopyRegion,
    DeleteShared,
    KeepOnFrame,
    MovePart,
    OwnCopy,
    RemovePart,
    RemoveSample,
    SetImage,
    ShareAgain,
    ShareRegion,
    UseShared,
)
from lenskeep.core.recipes.settings import Setting
from lenskeep.core.regions import PART_KINDS, Region


class AddStep(Change):
    """``where`` is a part's kind or "whole", ``what`` an adjustment's kind or ""."""

    op: Literal["add-step"] = "add-step"
    words: ClassVar[str] = "adding a step"
    fresh: ClassVar[str] = "s"
    id: OwnId = ""
    where: str = Field(default="", max_length=40)
    what: str = Field(default="", max_length=40)

    def on(self, recipe: Recipe) -> Recipe:
        if self.where != "whole" and self.where not in PART_KINDS:
            raise EditProblem("Choose where the step works.")
        if self.what and self.what not in KINDS:
            raise EditProblem("Choose what the step does.")
        region = Region() if self.where == "whole" else Region.model_validate({"parts": [{"kind": self.where}]})
        name = name_of(region, [KINDS[self.what].label] if self.what else [])
        adjustments = [{"kind": self.what}] if self.what else []
        step = edit.checked(Step, {"id": self.id, "name": name, "region": region, "adjustments": adjustments})
        return edit.changed(recipe, steps=[*recipe.steps, step])


class AddStepOf(Change):
    """A step on a region that was put together beforehand, called after it; ``what`` is an adjustment's kind or ""."""

    op: Literal["add-step-of"] = "add-step-of"
    words: ClassVar[str] = "a step for what was pointed at"
    fresh: ClassVar[str] = "s"
    id: OwnId = ""
    region: Region
    what: str = Field(default="", max_length=40)

    def on(self, recipe: Recipe) -> Recipe:
        if not self.region.parts:
            raise EditProblem(NOTHING_THERE)
        if self.what and self.what not in KINDS:
            raise EditProblem("Choose what the step does.")
        name = name_of(self.region, [KINDS[self.what].label] if self.what else [])
        adjustments = [{"kind": self.what}] if self.what else []
        step = {"id": self.id, "name": name, "region": self.region, "adjustments": adjustments}
        return edit.changed(recipe, steps=[*recipe.steps, edit.checked(Step, step)])


class RemoveStep(OnStep):
    op: Literal["remove-step"] = "remove-step"
    words: ClassVar[str] = "removing a step"

    def on(self, recipe: Recipe) -> Recipe:
        own = edit.step_of(recipe, self.step)
        return edit.with_steps(recipe, [s for s in recipe.steps if s.id != own.id])


class MoveStep(OnStep):
    """By so many places, held to the list's ends. Amid a group a step joins it; away from its own it leaves that."""

    op: Literal["move-step"] = "move-step"
    words: ClassVar[str] = "moving a step"
    by: Places

    def on(self, recipe: Recipe) -> Recipe:
        steps = edit.moved(recipe.steps, self.step, self.by, edit.STEP_GONE)
        at = next(i for i, s in enumerate(steps) if s.id == self.step)
        above, below = (steps[i].group if 0 <= i < len(steps) else None for i in (at - 1, at + 1))
        own = steps[at].group
        stays = own in (above, below) or not any(s.group == own for i, s in enumerate(steps) if i != at)
        group = above if above == below and above is not None else own if stays else None
        steps[at] = edit.changed(steps[at], group=group)
        return edit.with_steps(recipe, steps)


class SetValues(Change):
    """Values set together, with the words of what was moved."""

    op: Literal["set"] = "set"
    values: list[Setting] = Field(max_length=40)
    said: str = Field(default="a change", max_length=60)

    def on(self, recipe: Recipe) -> Recipe:
        for setting in self.values:
            recipe = setting.on(recipe)
        return recipe

    def did(self) -> str:
        return self.said or "a change"

    def refs(self) -> list[Ref]:
        return [ref for setting in self.values for ref in setting.refs()]


_Steps = Union[AddStep, AddStepOf, PaintStep, NeutralStep, BalanceStep, RemoveStep, MoveStep, SetValues]  # noqa: UP007
_Adjustments = Union[AddAdjustment, RemoveAdjustment, MoveAdjustment, CopyAdjustment, SetAsset, HoldBalance]  # noqa: UP007
_Parts = Union[AddPart, AddParts, RemovePart, MovePart, AddStroke, ClearStrokes, KeepOnFrame, AddSample, RemoveSample]  # noqa: UP007
_Shapes = Union[AddPick, ClearPicks, SetImage, ShareRegion, UseShared, OwnCopy, ShareAgain, CopyRegion]  # noqa: UP007
_Groups = Union[GroupSteps, DissolveGroup, RemoveGroup, MoveGroup, JoinGroup, LimitGroup, DoubleGroup, TakeRecipe]  # noqa: UP007
_Again = Union[DoubleStep, SamePlace, TakeEffect, EffectStep, EffectSteps]  # noqa: UP007
AnyChange = Annotated[
    Union[_Steps, _Adjustments, _Parts, _Shapes, _Groups, _Again, DeleteShared],  # noqa: UP007
    Field(discriminator="op"),
]
CHANGE: TypeAdapter[Any] = TypeAdapter(AnyChange)
UNKNOWN = "This change is unknown."


def change_of(data: Any) -> Change:
    """Plain data, from JSON or a form, as the change it asks for. Raises EditProblem."""
    change: Change = edit.checked_by(CHANGE, data, UNKNOWN)
    return change

"""Everything that can be done to a recipe at the Bench: one model each, from the browser's JSON to the new recipe.

Ids of what is new are given by whoever asks (``core`` has no chance in it); they must never have been used before,
since frames keep their own changes by them.
"""

from typing import Annotated, Any, ClassVar, Literal, TypeAlias, Union

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter

from lenskeep.core.adjust import KINDS
from lenskeep.core.assets import AssetKey
from lenskeep.core.ids import Identifier, OwnId
from lenskeep.core.recipes import edit, edit_regions
from lenskeep.core.recipes.edit import EditProblem
from lenskeep.core.recipes.models import Recipe, Step
from lenskeep.core.recipes.settings import Setting
from lenskeep.core.regions import PART_KINDS, Combine, Region
from lenskeep.core.regions.kinds.brush import Stroke
from lenskeep.core.regions.kinds.picked import Pick

Ref: TypeAlias = tuple[str, ...]
"""What a change speaks of: ("step", id), ("adjustment", step, id), ("part", step, id), ("region", id)."""
Places = Annotated[int, Field(ge=-1000, le=1000)]


class Change(BaseModel):
    """Base of all changes. ``words`` name it in the list of undo; ``fresh`` tells the letter of the id it needs."""

    model_config = ConfigDict(extra="ignore", frozen=True, allow_inf_nan=False)
    words: ClassVar[str] = "a change"
    fresh: ClassVar[str] = ""

    def on(self, recipe: Recipe) -> Recipe:
        """The recipe after it. Raises EditProblem."""
        raise NotImplementedError

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
        place = "Whole frame" if self.where == "whole" else PART_KINDS[self.where].label
        name = f"{place} – {KINDS[self.what].label.lower()}" if self.what else place
        adjustments = [{"kind": self.what}] if self.what else []
        step = edit.checked(Step, {"id": self.id, "name": name, "region": region, "adjustments": adjustments})
        return edit.changed(recipe, steps=[*recipe.steps, step])


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
        gone = edit.found(step.adjustments, self.adjustment, edit.ADJUSTMENT_GONE)
        return edit.change_step(recipe, step.id, adjustments=[a for a in step.adjustments if a.id != gone.id])


class SetAsset(OnAdjustment):
    """Several fields of an adjustment at once: those of a file that was brought in."""

    op: Literal["set-asset"] = "set-asset"
    words: ClassVar[str] = "bringing in a file"
    fields: dict[str, Any]

    def on(self, recipe: Recipe) -> Recipe:
        def change(own: Any) -> Any:
            return edit.changed(own, **self.fields)

        return edit.change_adjustment(recipe, self.step, self.adjustment, change)


class AddPart(OnStep):
    op: Literal["add-part"] = "add-part"
    words: ClassVar[str] = "adding a part"
    fresh: ClassVar[str] = "p"
    id: OwnId = ""
    kind: str = Field(default="", max_length=40)
    combine: Combine = "add"

    def on(self, recipe: Recipe) -> Recipe:
        return edit_regions.add_part(recipe, self.step, self.kind, self.combine, self.id)


class RemovePart(OnPart):
    op: Literal["remove-part"] = "remove-part"
    words: ClassVar[str] = "removing a part"

    def on(self, recipe: Recipe) -> Recipe:
        return edit_regions.remove_part(recipe, self.step, self.part)


class MovePart(OnPart):
    op: Literal["move-part"] = "move-part"
    words: ClassVar[str] = "moving a part"
    by: Places

    def on(self, recipe: Recipe) -> Recipe:
        return edit_regions.move_part(recipe, self.step, self.part, self.by)


class AddStroke(OnPart):
    op: Literal["stroke"] = "stroke"
    words: ClassVar[str] = "a stroke"
    stroke: Stroke

    def on(self, recipe: Recipe) -> Recipe:
        return edit_regions.add_stroke(recipe, self.step, self.part, self.stroke)


class ClearStrokes(OnPart):
    op: Literal["clear-strokes"] = "clear-strokes"
    words: ClassVar[str] = "clearing the brush"

    def on(self, recipe: Recipe) -> Recipe:
        return edit_regions.clear_strokes(recipe, self.step, self.part)


class KeepOnFrame(OnPart):
    """``only_on`` names a frame as recipes do; "" for every frame."""

    op: Literal["keep-on-frame"] = "keep-on-frame"
    words: ClassVar[str] = "where the brush works"
    only_on: str = Field(default="", max_length=80)

    def on(self, recipe: Recipe) -> Recipe:
        return edit_regions.keep_on_frame(recipe, self.step, self.part, self.only_on)


class AddSample(OnPart):
    op: Literal["add-sample"] = "add-sample"
    words: ClassVar[str] = "a colour sample"
    colour: tuple[float, float, float]

    def on(self, recipe: Recipe) -> Recipe:
        return edit_regions.add_sample(recipe, self.step, self.part, self.colour)


class RemoveSample(OnPart):
    """``sample`` is its place in the list, and ``of`` how many there were when it was chosen."""

    op: Literal["remove-sample"] = "remove-sample"
    words: ClassVar[str] = "removing a sample"
    sample: int = Field(ge=0, le=1000)

    def on(self, recipe: Recipe) -> Recipe:
        return edit_regions.remove_sample(recipe, self.step, self.part, self.sample)

    def refs(self) -> list[Ref]:
        return [("part and its samples", self.step, self.part)]


class AddPick(OnPart):
    """A click; ``alone`` lets it be the only one."""

    op: Literal["add-pick"] = "add-pick"
    words: ClassVar[str] = "picking an object"
    pick: Pick
    alone: bool = False

    def on(self, recipe: Recipe) -> Recipe:
        return edit_regions.add_pick(recipe, self.step, self.part, self.pick, self.alone)


class ClearPicks(OnPart):
    op: Literal["clear-picks"] = "clear-picks"
    words: ClassVar[str] = "clearing the picks"

    def on(self, recipe: Recipe) -> Recipe:
        return edit_regions.clear_picks(recipe, self.step, self.part)


class SetImage(OnPart):
    op: Literal["set-image"] = "set-image"
    words: ClassVar[str] = "bringing in an image"
    name: str = Field(max_length=120)
    picture: AssetKey

    def on(self, recipe: Recipe) -> Recipe:
        return edit_regions.set_image(recipe, self.step, self.part, self.name, self.picture)


class ShareRegion(OnStep):
    op: Literal["share"] = "share"
    words: ClassVar[str] = "sharing a region"
    fresh: ClassVar[str] = "r"
    id: OwnId = ""
    name: str = Field(default="", max_length=200)

    def on(self, recipe: Recipe) -> Recipe:
        return edit_regions.share_region(recipe, self.step, self.name, self.id)


class UseShared(OnStep):
    op: Literal["use-shared"] = "use-shared"
    words: ClassVar[str] = "using a shared region"
    region: Identifier
    invert: bool = False

    def on(self, recipe: Recipe) -> Recipe:
        return edit_regions.use_shared(recipe, self.step, self.region, self.invert)

    def refs(self) -> list[Ref]:
        return [("step", self.step), ("region", self.region)]


class OwnCopy(OnStep):
    op: Literal["own-copy"] = "own-copy"
    words: ClassVar[str] = "a copy of its own"

    def on(self, recipe: Recipe) -> Recipe:
        return edit_regions.own_copy(recipe, self.step)


class ShareAgain(OnStep):
    op: Literal["share-again"] = "share-again"
    words: ClassVar[str] = "sharing again"

    def on(self, recipe: Recipe) -> Recipe:
        return edit_regions.share_again(recipe, self.step)


class CopyRegion(OnStep):
    op: Literal["copy-region"] = "copy-region"
    words: ClassVar[str] = "copying a region"
    source: Identifier
    invert: bool = False

    def on(self, recipe: Recipe) -> Recipe:
        return edit_regions.copy_region(recipe, self.step, self.source, self.invert)

    def refs(self) -> list[Ref]:
        return [("step", self.step), ("step", self.source)]


class DeleteShared(Change):
    op: Literal["delete-shared"] = "delete-shared"
    words: ClassVar[str] = "deleting a shared region"
    region: Identifier
    then: Literal["copies", "off"] = "copies"

    def on(self, recipe: Recipe) -> Recipe:
        return edit_regions.delete_shared(recipe, self.region, self.then)

    def refs(self) -> list[Ref]:
        return [("region", self.region)]


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


_Steps = Union[AddStep, RemoveStep, MoveStep, AddAdjustment, RemoveAdjustment, SetAsset, SetValues]  # noqa: UP007
_Parts = Union[AddPart, RemovePart, MovePart, AddStroke, ClearStrokes, KeepOnFrame, AddSample, RemoveSample]  # noqa: UP007
_Shapes = Union[AddPick, ClearPicks, SetImage, ShareRegion, UseShared, OwnCopy, ShareAgain, CopyRegion]  # noqa: UP007
AnyChange = Annotated[Union[_Steps, _Parts, _Shapes, DeleteShared], Field(discriminator="op")]  # noqa: UP007
CHANGE: TypeAdapter[Any] = TypeAdapter(AnyChange)
UNKNOWN = "This change is unknown."


def change_of(data: Any) -> Change:
    """Plain data, from JSON or a form, as the change it asks for. Raises EditProblem."""
    change: Change = edit.checked_by(CHANGE, data, UNKNOWN)
    return change

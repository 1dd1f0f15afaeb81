"""What can be done to where a step works: its parts, strokes, samples, picks, and regions that steps share."""

from typing import ClassVar, Literal

from pydantic import Field

from lenskeep.core.assets import AssetKey
from lenskeep.core.ids import Identifier, OwnId
from lenskeep.core.recipes import edit, edit_regions
from lenskeep.core.recipes.change import Change, OnPart, OnStep, Places, Ref
from lenskeep.core.recipes.edit import EditProblem
from lenskeep.core.recipes.models import Recipe, Step
from lenskeep.core.regions import Combine, Region
from lenskeep.core.regions.kinds.brush import Stroke
from lenskeep.core.regions.kinds.picked import Pick

NOTHING_THERE = "Nothing was told apart there. Point at another place, or use a brush."


class AddPart(OnStep):
    op: Literal["add-part"] = "add-part"
    words: ClassVar[str] = "adding a part"
    fresh: ClassVar[str] = "p"
    id: OwnId = ""
    kind: str = Field(default="", max_length=40)
    combine: Combine = "add"

    def on(self, recipe: Recipe) -> Recipe:
        return edit_regions.add_part(recipe, self.step, self.kind, self.combine, self.id)


class AddParts(OnStep):
    """Several parts at once, added to where the step works or taken away from it; each gets ``id`` and its number. In a
    region that is turned round, what is added to it is taken out of what it leaves out.
    """

    op: Literal["add-parts"] = "add-parts"
    words: ClassVar[str] = "what was pointed at"
    fresh: ClassVar[str] = "p"
    id: OwnId = ""
    region: Region

    def on(self, recipe: Recipe) -> Recipe:
        if not self.region.parts:
            raise EditProblem(NOTHING_THERE)
        turned = _turned_round(recipe, edit.step_of(recipe, self.step))
        parts = [
            p.model_copy(update={"id": f"{self.id}-{n}", "combine": _ROUND[p.combine] if turned else p.combine})
            for n, p in enumerate(self.region.parts, 1)
        ]
        return edit.change_region(recipe, self.step, lambda region: edit.changed(region, parts=[*region.parts, *parts]))


_ROUND: dict[Combine, Combine] = {"add": "take away", "take away": "add", "only within": "only within"}


def _turned_round(recipe: Recipe, step: Step) -> bool:
    """Whether a step works where the parts of its region are not."""
    if step.shared is None:
        return step.region.invert
    return recipe.regions[step.shared.region].region.invert != step.shared.invert


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

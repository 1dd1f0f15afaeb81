"""Effects: a *what* without a *where*, named and kept like a recipe, put into steps or painted on."""

from typing import Any, ClassVar, Literal

from pydantic import BaseModel, Field, field_validator

from lenskeep.core.adjust import AnyAdjustment
from lenskeep.core.ids import Identifier, OwnId, identified
from lenskeep.core.recipes import edit
from lenskeep.core.recipes.change import Change, OnStep, Ref
from lenskeep.core.recipes.models import _STRICT, MOST_ADJUSTMENTS, BlendMode, Name, Recipe, Step, Strength
from lenskeep.core.regions import PART_KINDS, Region

EffectFormat = Literal["lenskeep-effect/1"]
EFFECT_FORMAT: EffectFormat = "lenskeep-effect/1"


class Effect(BaseModel):
    """Adjustments in order, a blend mode and a strength 0…2."""

    model_config = _STRICT
    format: EffectFormat = EFFECT_FORMAT
    name: Name = "Effect"
    note: str = Field(default="", max_length=2000)
    adjustments: list[AnyAdjustment] = Field(min_length=1, max_length=MOST_ADJUSTMENTS)
    strength: Strength = 1.0
    blend: BlendMode = "normal"

    @field_validator("adjustments")
    @classmethod
    def _have_ids(cls, adjustments: list[AnyAdjustment]) -> list[AnyAdjustment]:
        return identified(adjustments, "a")

    def as_step(self, step_id: str, region: Region | None = None, **more: Any) -> Step:
        """A step that does it, in the whole frame or in a region."""
        return Step(
            id=step_id,
            name=self.name,
            region=region or Region(),
            adjustments=self.adjustments,
            strength=self.strength,
            blend=self.blend,
            **more,
        )

    def as_recipe(self) -> Recipe:
        """A recipe of one step on the whole frame: how it is kept in the book, and shown."""
        return Recipe(name=self.name, note=self.note, steps=[self.as_step("effect")])

    def does(self) -> str:
        """In words."""
        return self.as_step("effect").does()


def effect_of(step: Step, name: str = "", note: str = "") -> Effect:
    """What a step does, whatever its region. Raises EditProblem where it does nothing."""
    if not step.adjustments:
        raise edit.EditProblem("This step does nothing yet. Add an adjustment, then keep what it does.")
    values = {"adjustments": step.adjustments, "strength": step.strength, "blend": step.blend}
    return edit.checked(Effect, {"name": name.strip() or step.name, "note": note, **values})


def effect_in(recipe: Recipe) -> Effect:
    """The effect that a recipe of one step holds. Raises EditProblem for any other."""
    if len(recipe.steps) != 1:
        raise edit.EditProblem(f"“{recipe.name}” is a recipe of several steps, not an effect.")
    return effect_of(recipe.steps[0], recipe.name, recipe.note)


class TakeEffect(OnStep):
    """An effect put into a step: added to what it does, or in its place. The region stays."""

    op: Literal["take-effect"] = "take-effect"
    words: ClassVar[str] = "taking an effect"
    fresh: ClassVar[str] = "a"
    id: OwnId = ""
    effect: Effect
    way: Literal["add", "replace"] = "add"

    def did(self) -> str:
        return f"the effect {self.effect.name}"

    def on(self, recipe: Recipe) -> Recipe:
        step = edit.step_of(recipe, self.step)
        made = [a.model_copy(update={"id": f"{self.id}-{n}"}) for n, a in enumerate(self.effect.adjustments, 1)]
        if self.way == "replace":
            own = {"adjustments": made, "strength": self.effect.strength, "blend": self.effect.blend}
            return edit.change_step(recipe, step.id, **own)
        if len(step.adjustments) + len(made) > MOST_ADJUSTMENTS:
            raise edit.EditProblem(f"A step holds {MOST_ADJUSTMENTS} adjustments at most. Make another step for more.")
        scaled = [a.model_copy(update={"strength": min(a.strength * self.effect.strength, 2.0)}) for a in made]
        return edit.change_step(recipe, step.id, adjustments=[*step.adjustments, *scaled])


class EffectSteps(Change):
    """Several effects to choose from, each as a step where a step works, right below it, or in the whole frame. The
    first one is on; the others wait, switched off.
    """

    op: Literal["effect-steps"] = "effect-steps"
    words: ClassVar[str] = "effects to choose from"
    fresh: ClassVar[str] = "s"
    id: OwnId = ""
    step: Identifier | None = None
    effects: list[Effect] = Field(min_length=1, max_length=24)

    def refs(self) -> list[Ref]:
        return [("step", self.step)] if self.step else []

    def on(self, recipe: Recipe) -> Recipe:
        named = zip([self.id, *(f"{self.id}-{n}" for n in range(1, len(self.effects)))], self.effects, strict=True)
        if self.step is None:
            made = [effect.as_step(name, enabled=name == self.id) for name, effect in named]
            return edit.changed(recipe, steps=[*recipe.steps, *made])
        own = edit.step_of(recipe, self.step)
        more = {"shared": own.shared, "group": own.group}
        made = [effect.as_step(name, own.region, enabled=name == self.id, **more) for name, effect in named]
        return edit.with_below(recipe, own, made)


class EffectStep(Change):
    """An effect as a step of its own: in the whole frame, in a part, where another step works, or painted on, where its
    brush is empty until the first stroke.
    """

    op: Literal["effect-step"] = "effect-step"
    words: ClassVar[str] = "an effect of its own"
    fresh: ClassVar[str] = "s"
    id: OwnId = ""
    effect: Effect
    where: str = Field(default="whole", max_length=40)
    of_step: Identifier | None = None

    def did(self) -> str:
        return f"the effect {self.effect.name}"

    def refs(self) -> list[Ref]:
        return [("step", self.of_step)] if self.of_step else []

    def on(self, recipe: Recipe) -> Recipe:
        if self.of_step is not None:
            own = edit.step_of(recipe, self.of_step)
            made = self.effect.as_step(self.id, own.region, shared=own.shared, group=own.group)
            return edit.with_below(recipe, own, [made])
        if self.where != "whole" and self.where not in PART_KINDS:
            raise edit.EditProblem("Choose where the effect works.")
        region = Region() if self.where == "whole" else Region.model_validate({"parts": [{"kind": self.where}]})
        return edit.changed(recipe, steps=[*recipe.steps, self.effect.as_step(self.id, region)])

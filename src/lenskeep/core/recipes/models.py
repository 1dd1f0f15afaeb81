"""Recipe, group and step: the models, their JSON and its schema."""

from typing import Annotated, Any, Literal, Self

from pydantic import (
    BaseModel,
    ConfigDict,
    Field,
    SerializerFunctionWrapHandler,
    field_validator,
    model_serializer,
    model_validator,
)

from lenskeep.core.adjust import AnyAdjustment
from lenskeep.core.ids import HasId, Identifier, identified
from lenskeep.core.regions import Region

Format = Literal["lenskeep-recipe/2"]
FORMAT: Format = "lenskeep-recipe/2"
SCHEMA_ID = "urn:lenskeep:recipe:2"
MOST_BYTES = 40_000_000
"""The longest recipe file that is taken; no recipe is kept that would be longer when it is exported."""
MOST_STEPS, MOST_ADJUSTMENTS = 64, 24
Name = Annotated[str, Field(min_length=1, max_length=80)]
Strength = Annotated[float, Field(ge=0.0, le=2.0)]
BlendMode = Literal[
    "normal", "multiply", "screen", "overlay", "darken", "lighten", "color-dodge", "color-burn", "hard-light",
    "soft-light", "difference", "exclusion", "hue", "saturation", "color", "luminosity",
]  # fmt: skip
"""W3C Compositing and Blending Level 1, by the names it gives them."""
Fallback = Literal["leave the step out", "use the frame"]
_STRICT = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)


class SharedRegion(BaseModel):
    """A region with a name, for several steps."""

    model_config = _STRICT
    name: Name
    region: Region = Region()


class Share(BaseModel):
    """A step's use of a shared region, as it is or inverted."""

    model_config = _STRICT
    region: Identifier
    invert: bool = False


class Group(BaseModel):
    """Steps in order that are switched, weakened and limited as one. ``limit`` is multiplied into each step's alpha;
    with ``shared`` set it is that shared region, and ``limit`` is not looked at.
    """

    model_config = _STRICT
    name: Name = "Group"
    folded: bool = False
    enabled: bool = True
    strength: Strength = 1.0
    limit: Region = Region()
    shared: Share | None = None

    @model_serializer(mode="wrap")
    def _as_before(self, write: SerializerFunctionWrapHandler) -> dict[str, Any]:
        """Without a shared limit a group is written as it was before there were any, so that hashes stay."""
        out: dict[str, Any] = write(self)
        return out if self.shared is not None else {k: v for k, v in out.items() if k != "shared"}


class Step(HasId):
    """Where (region), what (adjustments in order), how much (strength 0…2, blend, on or off).

    With ``shared`` set, the step works where that shared region is and ``region`` is not looked at. ``fallback`` says
    what happens on a frame that lacks what the region is made of. ``copied_from`` remembers the shared region that the
    step's own one is a copy of. ``group`` is the group it stands in.
    """

    model_config = _STRICT
    id: Identifier
    name: Name = "Step"
    group: Identifier | None = None
    region: Region = Region()
    shared: Share | None = None
    copied_from: Identifier | None = None
    fallback: Fallback = "leave the step out"
    adjustments: list[AnyAdjustment] = Field(default=[], max_length=MOST_ADJUSTMENTS)
    strength: Strength = 1.0
    blend: BlendMode = "normal"
    enabled: bool = True

    @field_validator("adjustments")
    @classmethod
    def _have_ids(cls, adjustments: list[AnyAdjustment]) -> list[AnyAdjustment]:
        return identified(adjustments, "a")

    def does(self) -> str:
        """What the step does, in words."""
        on = [a for a in self.adjustments if a.enabled]
        return ", ".join(a.words() for a in on) or ("nothing: all is off" if self.adjustments else "nothing yet")


class Recipe(BaseModel):
    """Steps in order, with a strength of their own that multiplies into each, the groups they stand in and the regions
    that they share. The steps of a group follow each other.
    """

    model_config = _STRICT
    format: Format = FORMAT
    name: Name = "Untitled look"
    note: str = Field(default="", max_length=2000)
    strength: Strength = 1.0
    steps: list[Step] = Field(default=[], max_length=MOST_STEPS)
    groups: dict[Identifier, Group] = Field(default={}, max_length=MOST_STEPS)
    regions: dict[Identifier, SharedRegion] = Field(default={}, max_length=64)

    @model_validator(mode="after")
    def _holds_together(self) -> Self:
        if wrong := self.faults():
            raise ValueError(wrong)
        return self

    def faults(self) -> str:
        """What keeps steps, groups and shared regions from holding together, in words; "" when they do."""
        if len({step.id for step in self.steps}) != len(self.steps):
            return "two steps have the same id"
        for step in self.steps:
            if step.shared is not None and step.shared.region not in self.regions:
                return f"step {step.name} uses a shared region that is not in the recipe"
        for group in self.groups.values():
            if group.shared is not None and group.shared.region not in self.regions:
                return f"the group {group.name} is limited to a shared region that is not in the recipe"
        runs = [s.group for i, s in enumerate(self.steps) if s.group and (i == 0 or self.steps[i - 1].group != s.group)]
        if len(set(runs)) != len(runs):
            return "the steps of a group must follow each other"
        if set(runs) != set(self.groups):
            return "groups and the steps that stand in them do not fit together"
        return ""

    def step(self, step_id: str) -> Step:
        """The step with this id. Raises KeyError."""
        for step in self.steps:
            if step.id == step_id:
                return step
        raise KeyError(step_id)

    def region_of(self, step: Step) -> Region:
        """Where a step works: its own region, or the shared one, inverted if the step says so."""
        return step.region if step.shared is None else self._shared(step.shared)

    def _shared(self, share: Share) -> Region:
        region = self.regions[share.region].region
        return region.inverted() if share.invert else region

    def limit_of(self, step: Step) -> Region:
        """What its group limits a step to; the whole frame without one."""
        return self.limit_of_group(self.groups[step.group]) if step.group else Region()

    def limit_of_group(self, group: Group) -> Region:
        """What a group is limited to: a region of its own, or a shared one, inverted if the group says so."""
        return group.limit if group.shared is None else self._shared(group.shared)

    def limit_in_words(self, group: Group) -> str:
        """The same in words; a shared one goes by its name."""
        return self.limit_of_group(group).sentence() if group.shared is None else self._named(group.shared)

    def _named(self, share: Share) -> str:
        name = f"{self.regions[share.region].name} (shared)"
        return f"all but {name}" if share.invert else name

    def sentence(self, step: Step) -> str:
        """A step's region in words; a shared one goes by its name, a group's limit follows."""
        words = step.region.sentence()
        if step.shared is not None:
            words = self._named(step.shared)
        if step.group is None or self.limit_of(step).is_whole:
            return words
        return f"{words}, only within the group's {self.limit_in_words(self.groups[step.group])}"

    def users(self, region_id: str) -> list[Step | Group]:
        """The steps that use a shared region, and the groups that are limited to it."""
        every: list[Step | Group] = [*self.steps, *self.groups.values()]
        return [each for each in every if each.shared is not None and each.shared.region == region_id]

    def assets(self) -> set[str]:
        """The keys of the assets that adjustments and parts refer to."""
        regions = [s.region for s in self.steps] + [r.region for r in self.regions.values()]
        regions += [g.limit for g in self.groups.values()]
        parts = [part for region in regions for part in region.parts]
        holders = [*parts, *(a for step in self.steps for a in step.adjustments)]
        return {key for holder in holders for key in holder.asset_keys() if key}


def unmasked(recipe: Recipe) -> Recipe:
    """The recipe's base: its steps that work in a part of the frame are off."""
    steps = [
        step
        if recipe.region_of(step).is_whole and recipe.limit_of(step).is_whole
        else step.model_copy(update={"enabled": False})
        for step in recipe.steps
    ]
    return recipe.model_copy(update={"steps": steps})


def recipe_schema() -> dict[str, Any]:
    """The JSON Schema (2020-12) of a recipe as it is kept; a file adds its assets (``files.recipes``)."""
    schema = Recipe.model_json_schema()
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", "$id": SCHEMA_ID, **schema}

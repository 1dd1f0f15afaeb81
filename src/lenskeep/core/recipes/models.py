"""Recipe, step and what a frame may change of them: the models, their JSON and its schema."""

import hashlib
import json
from collections.abc import Sequence
from typing import Annotated, Any, Literal, Self

from pydantic import BaseModel, ConfigDict, Field, field_validator, model_validator

from lenskeep.core.adjust import AnyAdjustment
from lenskeep.core.regions import Region

FORMAT: Literal["lenskeep-recipe/1"] = "lenskeep-recipe/1"
SCHEMA_ID = "urn:lenskeep:recipe:1"
MOST_BYTES = 40_000_000
"""The longest recipe file that is taken; no recipe is kept that would be longer when it is exported."""


Identifier = Annotated[str, Field(min_length=1, max_length=40, pattern=r"^[A-Za-z0-9_-]+$")]
BlendMode = Literal[
    "normal", "multiply", "screen", "overlay", "darken", "lighten", "color-dodge", "color-burn", "hard-light",
    "soft-light", "difference", "exclusion", "hue", "saturation", "color", "luminosity",
]  # fmt: skip
"""W3C Compositing and Blending Level 1, by the names it gives them."""
Fallback = Literal["leave the step out", "use the frame"]


class SharedRegion(BaseModel):
    """A region with a name, for several steps."""

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)
    name: str = Field(min_length=1, max_length=80)
    region: Region = Region()


class Share(BaseModel):
    """A step's use of a shared region, as it is or inverted."""

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)
    region: Identifier
    invert: bool = False


class Step(BaseModel):
    """Where (region), what (adjustments in order), how much (strength 0…2, blend, on or off).

    With ``shared`` set, the step works where that shared region is and ``region`` is not looked at. ``fallback`` says
    what happens on a frame that lacks what the region is made of. ``copied_from`` remembers the shared region that the
    step's own one is a copy of.
    """

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)
    id: Identifier
    name: str = Field(default="Step", min_length=1, max_length=80)
    region: Region = Region()
    shared: Share | None = None
    copied_from: Identifier | None = None
    fallback: Fallback = "leave the step out"
    adjustments: list[AnyAdjustment] = Field(default=[], max_length=24)
    strength: float = Field(default=1.0, ge=0.0, le=2.0)
    blend: BlendMode = "normal"
    enabled: bool = True

    def does(self) -> str:
        """What the step does, in words."""
        return ", ".join(a.words() for a in self.adjustments) or "nothing yet"


class Recipe(BaseModel):
    """Steps in order, with a strength of their own that multiplies into each, and the regions that they share."""

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)
    format: Literal["lenskeep-recipe/1"] = FORMAT
    name: str = Field(default="Untitled look", min_length=1, max_length=80)
    note: str = Field(default="", max_length=2000)
    strength: float = Field(default=1.0, ge=0.0, le=2.0)
    steps: list[Step] = Field(default=[], max_length=64)
    regions: dict[Identifier, SharedRegion] = Field(default={}, max_length=64)

    @model_validator(mode="after")
    def _shares_exist(self) -> Self:
        for step in self.steps:
            if step.shared is not None and step.shared.region not in self.regions:
                raise ValueError(f"step {step.name} uses a shared region that is not in the recipe")
        return self

    @field_validator("steps")
    @classmethod
    def _ids_differ(cls, steps: list[Step]) -> list[Step]:
        if len({step.id for step in steps}) != len(steps):
            raise ValueError("two steps have the same id")
        return steps

    def step(self, step_id: str) -> Step:
        """The step with this id. Raises KeyError."""
        for step in self.steps:
            if step.id == step_id:
                return step
        raise KeyError(step_id)

    def region_of(self, step: Step) -> Region:
        """Where a step works: its own region, or the shared one, inverted if the step says so."""
        if step.shared is None:
            return step.region
        region = self.regions[step.shared.region].region
        return region.inverted() if step.shared.invert else region

    def sentence(self, step: Step) -> str:
        """A step's region in words; a shared one goes by its name."""
        if step.shared is None:
            return step.region.sentence()
        shared = self.regions[step.shared.region]
        words = f"{shared.name} (shared)"
        return f"all but {words}" if step.shared.invert else words

    def users(self, region_id: str) -> list[Step]:
        """The steps that use a shared region."""
        return [step for step in self.steps if step.shared is not None and step.shared.region == region_id]


class StepOverride(BaseModel):
    """What one frame changes of one step."""

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)
    enabled: bool | None = None
    strength: float | None = Field(default=None, ge=0.0, le=2.0)


class FrameOverride(BaseModel):
    """What one frame changes of its look. ``strength`` multiplies into the look's."""

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)
    strength: float = Field(default=1.0, ge=0.0, le=2.0)
    steps: dict[str, StepOverride] = {}

    @property
    def is_neutral(self) -> bool:
        return self.strength == 1.0 and all(s == StepOverride() for s in self.steps.values())


def recipe_schema() -> dict[str, Any]:
    """The JSON Schema (2020-12) of a recipe file."""
    schema = Recipe.model_json_schema()
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", "$id": SCHEMA_ID, **schema}


def content_key(*parts: BaseModel | str | int | float) -> str:
    """A hash (32 hex digits) of models and plain values, the same on every machine."""
    text = f"[{','.join(_plain_text(p) for p in parts)}]"
    return hashlib.sha256(text.encode()).hexdigest()[:32]


def _plain_text(part: BaseModel | str | int | float) -> str:
    plain = part.model_dump(mode="json") if isinstance(part, BaseModel) else part
    return json.dumps(plain, sort_keys=True, separators=(",", ":"))


class Keyed:
    """``content_key`` for many things that share one long part, which is written out once."""

    def __init__(self, part: BaseModel) -> None:
        self._text = _plain_text(part)

    def key(self, before: Sequence[str | float], after: Sequence[BaseModel | str | float]) -> str:
        """The key of what stands before the part, the part, and what stands behind it."""
        texts = [*map(_plain_text, before), self._text, *map(_plain_text, after)]
        return hashlib.sha256(f"[{','.join(texts)}]".encode()).hexdigest()[:32]

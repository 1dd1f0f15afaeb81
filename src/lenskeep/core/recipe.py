"""Recipe, step and what a frame may change of them: the models, their JSON and its schema."""

import hashlib
import json
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, field_validator

from lenskeep.core.adjust import AnyAdjustment
from lenskeep.core.regions import Region

FORMAT: Literal["lenskeep-recipe/1"] = "lenskeep-recipe/1"
SCHEMA_ID = "urn:lenskeep:recipe:1"


class Step(BaseModel):
    """Where (region), what (adjustments in order), how much (strength 0…2, blend, on or off)."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    id: str = Field(min_length=1, max_length=40, pattern=r"^[A-Za-z0-9_-]+$")
    name: str = Field(default="Step", min_length=1, max_length=80)
    region: Region = Region()
    adjustments: list[AnyAdjustment] = Field(default=[], max_length=24)
    strength: float = Field(default=1.0, ge=0.0, le=2.0)
    blend: Literal["normal"] = "normal"
    enabled: bool = True

    def does(self) -> str:
        """What the step does, in words."""
        return ", ".join(a.words() for a in self.adjustments) or "nothing yet"


class Recipe(BaseModel):
    """Steps in order, with a strength of their own that multiplies into each."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    format: Literal["lenskeep-recipe/1"] = FORMAT
    name: str = Field(default="Untitled look", min_length=1, max_length=80)
    note: str = Field(default="", max_length=2000)
    strength: float = Field(default=1.0, ge=0.0, le=2.0)
    steps: list[Step] = Field(default=[], max_length=64)

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


class StepOverride(BaseModel):
    """What one frame changes of one step."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    enabled: bool | None = None
    strength: float | None = Field(default=None, ge=0.0, le=2.0)


class FrameOverride(BaseModel):
    """What one frame changes of its look. ``strength`` multiplies into the look's."""

    model_config = ConfigDict(extra="forbid", frozen=True)
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
    plain = [p.model_dump(mode="json") if isinstance(p, BaseModel) else p for p in parts]
    text = json.dumps(plain, sort_keys=True, separators=(",", ":"))
    return hashlib.sha256(text.encode()).hexdigest()[:32]

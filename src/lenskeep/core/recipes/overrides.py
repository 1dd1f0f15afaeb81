"""What one frame changes: its base, of its look the whole, a layer, a group or a step, the repairs of its masks and its
clean-up.
"""

from typing import TypeVar

from pydantic import BaseModel, ConfigDict, Field

from lenskeep.core.base.models import AS_IT_CAME, FrameBase
from lenskeep.core.clean.models import NOTHING, CleanUp
from lenskeep.core.recipes.keys import content_key
from lenskeep.core.recipes.models import Recipe, Strength
from lenskeep.core.regions import Region
from lenskeep.core.repairs.models import NONE, Repairs

_STRICT = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)


class GroupOverride(BaseModel):
    """What one frame changes of one group, or of one layer."""

    model_config = _STRICT
    enabled: bool | None = None
    strength: Strength | None = None


class StepOverride(GroupOverride):
    """What one frame changes of one step; ``region`` takes the place of the step's own, the group's limit stays."""

    region: Region | None = None


class OwnSteps(BaseModel):
    """A recipe that works on one frame alone, after its look."""

    model_config = _STRICT
    recipe: Recipe
    enabled: bool = True
    strength: Strength = 1.0


MOST_OWN = 8
NO_STEP, NO_GROUP = StepOverride(), GroupOverride()


class FrameOverride(BaseModel):
    """What one frame changes of its look. ``strength`` multiplies into the look's; steps, groups and layers are named
    by their ids, those of steps and groups with their layer's before them where a look has several ("l2.sky"). ``own``
    are its own steps, after the look and at strengths of their own; their layers are called own0, own1 …
    """

    model_config = _STRICT
    strength: Strength = 1.0
    layers: dict[str, GroupOverride] = Field(default={}, max_length=64)
    groups: dict[str, GroupOverride] = Field(default={}, max_length=512)
    steps: dict[str, StepOverride] = Field(default={}, max_length=512)
    repairs: Repairs = NONE
    base: FrameBase = AS_IT_CAME
    clean: CleanUp = NOTHING
    own: tuple[OwnSteps, ...] = Field(default=(), max_length=MOST_OWN)

    @property
    def draws(self) -> bool:
        """Whether it makes a picture of its own where there is no look."""
        return bool(self.own) or bool(self.clean.done) or not self.base.is_neutral

    @property
    def keeps_look(self) -> bool:
        """Whether the look is as the shoot's; the masks may be repaired, the base changed, marks cleaned up."""
        if self.own:
            return False
        own = [*self.layers.values(), *self.groups.values(), *self.steps.values()]
        return self.strength == 1.0 and all(o in (NO_STEP, NO_GROUP) for o in own)

    def of_look(self) -> "FrameOverride":
        """Nothing but what it changes of the look."""
        return self.model_copy(update={"repairs": NONE, "base": AS_IT_CAME, "clean": NOTHING})

    @property
    def is_neutral(self) -> bool:
        return self.keeps_look and not self.repairs.done and not self.clean.done and self.base.is_neutral

    def with_look_kept(self) -> "FrameOverride":
        """Nothing but the repairs, the base and the clean-up."""
        return FrameOverride(repairs=self.repairs, base=self.base, clean=self.clean)

    def with_clean(self, clean: CleanUp) -> "FrameOverride":
        return self.model_copy(update={"clean": clean})

    def with_base(self, base: FrameBase) -> "FrameOverride":
        return self.model_copy(update={"base": base})

    def key(self) -> str:
        """A hash of what it changes beside the look's steps; "" where that is nothing."""
        own = [key for key in (self.repairs.key(), self.base.key(), self.clean.key()) if key]
        return content_key(*own) if len(own) > 1 else "".join(own)

    def of_step(self, layer: str, step: str) -> StepOverride:
        return _of(self.steps, layer, step, NO_STEP)

    def of_group(self, layer: str, group: str) -> GroupOverride:
        return _of(self.groups, layer, group, NO_GROUP)


UNCHANGED = FrameOverride()
O = TypeVar("O", bound=GroupOverride)  # noqa: E741


def _of(own: dict[str, O], layer: str, name: str, neutral: O) -> O:
    found = own.get(qualified(layer, name)) if layer else None
    return found or own.get(name, neutral)


def qualified(layer: str, name: str) -> str:
    """The name of a step or group within a look of layers; without a layer it stands alone."""
    return f"{layer}.{name}" if layer else name

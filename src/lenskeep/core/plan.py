"""From a recipe to what is done on one frame: strengths multiplied out, overrides applied, idle steps left away."""

from dataclasses import dataclass

from lenskeep.core.adjust import AnyAdjustment
from lenskeep.core.engine.kernel.blends import Blend
from lenskeep.core.recipes.models import BlendMode, Fallback, FrameOverride, Recipe, StepOverride
from lenskeep.core.regions import Region

MODES: dict[str, int] = {mode.name.lower().replace("_", "-"): int(mode) for mode in Blend}
"""The kernel's number of each blend mode."""


@dataclass(frozen=True)
class PlannedStep:
    """A step to run: adjustments already scaled, ``opacity`` 0…1 to multiply into the region's alpha."""

    id: str
    name: str
    region: Region
    fallback: Fallback
    adjustments: tuple[AnyAdjustment, ...]
    opacity: float
    blend: BlendMode = "normal"


@dataclass(frozen=True)
class Plan:
    """The steps to run on one frame, in order."""

    steps: tuple[PlannedStep, ...]


def make_plan(recipe: Recipe, strength: float = 1.0, override: FrameOverride | None = None) -> Plan:
    """The plan of ``recipe`` at the look's ``strength`` (0…2) with a frame's ``override``.

    Strengths multiply and are held to 0…2. Up to 1 they lower the alpha; over 1 the adjustments' own amounts grow and
    the alpha stays.
    """
    own = override or FrameOverride()
    steps = []
    for step in recipe.steps:
        change = own.steps.get(step.id, StepOverride())
        enabled = step.enabled if change.enabled is None else change.enabled
        step_strength = step.strength if change.strength is None else change.strength
        total = min(max(step_strength * recipe.strength * strength * own.strength, 0.0), 2.0)
        adjustments = tuple(a.scaled(total) if total > 1.0 else a for a in step.adjustments)
        adjustments = tuple(a for a in adjustments if not a.is_neutral())
        if enabled and total > 0.0 and adjustments:
            opacity, region = min(total, 1.0), recipe.region_of(step)
            steps.append(PlannedStep(step.id, step.name, region, step.fallback, adjustments, opacity, step.blend))
    return Plan(tuple(steps))

"""From a look to what is done on one frame: strengths multiplied out, overrides applied, idle steps left away."""

import hashlib
import json
from dataclasses import dataclass
from typing import Any

from lenskeep.core.adjust import AnyAdjustment
from lenskeep.core.engine.kernel.blends import Blend
from lenskeep.core.recipes.layers import Layer, stacked
from lenskeep.core.recipes.models import BlendMode, Fallback, Recipe
from lenskeep.core.recipes.overrides import FrameOverride
from lenskeep.core.regions import Region

MODES: dict[str, int] = {mode.name.lower().replace("_", "-"): int(mode) for mode in Blend}
"""The kernel's number of each blend mode."""
_WHOLE = Region()


@dataclass(frozen=True)
class PlannedStep:
    """A step to run: adjustments already scaled, ``opacity`` 0…1 to multiply into the region's alpha, and ``limit``,
    the region of its group, whose alpha is multiplied in as well.
    """

    id: str
    name: str
    region: Region
    fallback: Fallback
    adjustments: tuple[AnyAdjustment, ...]
    opacity: float
    blend: BlendMode = "normal"
    limit: Region = _WHOLE

    @property
    def regions(self) -> tuple[Region, ...]:
        """The regions whose alphas make up where it works; the limit only where there is one."""
        return (self.region,) if self.limit.is_whole else (self.region, self.limit)


@dataclass(frozen=True)
class Plan:
    """The steps to run on one frame, in order."""

    steps: tuple[PlannedStep, ...]

    def key(self) -> str:
        """A hash (32 hex digits) of all that shows in the picture: names and ids do not."""
        text = json.dumps([_shows(step) for step in self.steps], sort_keys=True, separators=(",", ":"))
        return hashlib.sha256(text.encode()).hexdigest()[:32]

    def assets(self) -> set[str]:
        """The keys of the assets that it needs."""
        parts = [part for step in self.steps for region in step.regions for part in region.parts]
        holders = [*parts, *(a for step in self.steps for a in step.adjustments)]
        return {key for holder in holders for key in holder.asset_keys() if key}


def _shows(step: PlannedStep) -> list[Any]:
    regions = [
        r.model_dump(mode="json", exclude={"parts": {place: part.unshown() for place, part in enumerate(r.parts)}})
        for r in step.regions
    ]
    adjustments = [a.model_dump(mode="json", exclude=a.unshown()) for a in step.adjustments]
    drawn = {part.kind: part.drawn_as for region in step.regions for part in region.parts if part.drawn_as}
    shows = [regions, step.fallback, adjustments, step.opacity, step.blend]
    return [*shows, drawn] if drawn else shows


def make_plan(recipe: Recipe, strength: float = 1.0, override: FrameOverride | None = None) -> Plan:
    """The plan of one ``recipe`` at a ``strength`` (0…2) with a frame's ``override``."""
    return plan_of([Layer(recipe, strength=strength)], override)


def plan_of(layers: list[Layer], override: FrameOverride | None = None) -> Plan:
    """The plan of a look.

    Strengths multiply and are held to 0…2. Up to 1 they lower the alpha; over 1 the adjustments' own amounts grow and
    the alpha stays. An adjustment's own strength is in its amounts. A step that blends otherwise than normally blends
    the picture with itself where it has no adjustment, or neutral ones alone; one whose adjustments are all off is off.
    """
    steps = []
    for each in stacked(layers, override or FrameOverride()):
        total = min(max(each.strength, 0.0), 2.0)
        step = each.step
        on = tuple(a.at_strength(max(total, 1.0)) for a in step.adjustments if a.enabled)
        adjustments = tuple(a for a in on if not a.is_neutral())
        does = bool(adjustments) or (step.blend != "normal" and (bool(on) or not step.adjustments))
        if each.enabled and total > 0.0 and does:
            steps.append(
                PlannedStep(
                    each.id, step.name, each.region, step.fallback, adjustments, min(total, 1.0), step.blend, each.limit
                )
            )
    return Plan(tuple(steps))

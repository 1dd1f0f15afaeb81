"""A scene's look: recipes one upon another, and how the stack becomes one list of steps."""

from dataclasses import dataclass
from typing import TypeVar

from lenskeep.core.recipes.models import Recipe, Step
from lenskeep.core.recipes.overrides import FrameOverride, GroupOverride, qualified
from lenskeep.core.regions import Region

T = TypeVar("T")


@dataclass(frozen=True)
class Layer:
    """One recipe of the stack, the bottom first. ``id`` is "" where a recipe stands alone."""

    recipe: Recipe
    id: str = ""
    enabled: bool = True
    strength: float = 1.0


@dataclass(frozen=True)
class StackedStep:
    """A step of a stack on one frame: what multiplies into its strength, whether it runs, where it works."""

    id: str
    step: Step
    enabled: bool
    strength: float
    region: Region
    limit: Region


def stacked(layers: list[Layer], own: FrameOverride) -> list[StackedStep]:
    """The steps of all layers in order, each layer a group of its recipe's steps, with what the frame changes.

    Strengths multiply: the step's, its group's, its recipe's, its layer's and the frame's.
    """
    out = []
    for layer in layers:
        over = own.layers.get(layer.id, GroupOverride()) if layer.id else GroupOverride()
        on = _either(over.enabled, layer.enabled)
        above = layer.recipe.strength * _either(over.strength, layer.strength) * own.strength
        for step in layer.recipe.steps:
            out.append(_stacked(layer, step, own, on, above))
    return out + _own_steps(own)


def _own_steps(own: FrameOverride) -> list[StackedStep]:
    """Those that work on the frame alone. What it changes of the look's steps is no matter of theirs."""
    out = []
    for place, mine in enumerate(own.own):
        layer = Layer(mine.recipe, f"own{place}", mine.enabled, mine.strength)
        theirs = FrameOverride(steps={k: v for k, v in own.steps.items() if k.startswith(f"{layer.id}.")})
        above = layer.recipe.strength * layer.strength
        out += [_stacked(layer, step, theirs, layer.enabled, above) for step in layer.recipe.steps]
    return out


def _stacked(layer: Layer, step: Step, own: FrameOverride, on: bool, above: float) -> StackedStep:
    mine = own.of_step(layer.id, step.id)
    on = on and _either(mine.enabled, step.enabled)
    strength = _either(mine.strength, step.strength) * above
    if step.group:
        group, over = layer.recipe.groups[step.group], own.of_group(layer.id, step.group)
        on = on and _either(over.enabled, group.enabled)
        strength *= _either(over.strength, group.strength)
    region = layer.recipe.region_of(step) if mine.region is None else mine.region
    return StackedStep(qualified(layer.id, step.id), step, on, strength, region, layer.recipe.limit_of(step))


def _either(own: T | None, given: T) -> T:
    return given if own is None else own


def masks_used(layers: list[Layer]) -> frozenset[str]:
    """The found masks that a look depends on: those of its steps that are on, of their groups' limits, and
    of the colours that adjustments take from them.
    """
    steps = [each for each in stacked(layers, FrameOverride()) if each.enabled]
    colours = [a.uses() for each in steps for a in each.step.adjustments if a.enabled]
    return frozenset().union(*(each.region.uses() | each.limit.uses() for each in steps), *colours)

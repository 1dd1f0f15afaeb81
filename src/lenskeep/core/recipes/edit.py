"""Parts of a recipe exchanged for others: from recipe to recipe, every one validated, none changing its argument.

Models within models are taken as they are, since they were validated when they were made; so a change costs no more
than what it touches.
"""

from collections.abc import Callable, Sequence
from typing import Any, TypeVar

from pydantic import BaseModel, TypeAdapter, ValidationError

from lenskeep.core.adjust import Adjustment
from lenskeep.core.ids import HasId
from lenskeep.core.problems import UserProblem, validation_words
from lenskeep.core.recipes.models import Group, Recipe, SharedRegion, Step
from lenskeep.core.regions import Part, Region

STEP_GONE = "This step is no longer in the recipe."
PART_GONE = "This part is no longer in the region."
ADJUSTMENT_GONE = "This adjustment is no longer in the step."
SHARED_GONE = "This shared region is no longer in the recipe."
GROUP_GONE = "This group is no longer in the recipe."
M = TypeVar("M", bound=BaseModel)
I = TypeVar("I", bound=HasId)  # noqa: E741


class EditProblem(UserProblem):
    """A change that makes no valid recipe; the message is for the photographer."""


def changed(model: M, **values: Any) -> M:
    """A model with other values of some fields, validated anew. Raises EditProblem naming what is wrong."""
    held = {name: getattr(model, name) for name in type(model).model_fields}
    try:
        return type(model).model_validate(held | values)
    except ValidationError as error:
        raise EditProblem(validation_words(error)) from error


def checked(model: type[M], data: Any) -> M:
    """A model from plain data. Raises EditProblem naming what is wrong."""
    try:
        return model.model_validate(data)
    except ValidationError as error:
        raise EditProblem(validation_words(error)) from error


def step_of(recipe: Recipe, step_id: str) -> Step:
    """Raises EditProblem when it is gone."""
    for step in recipe.steps:
        if step.id == step_id:
            return step
    raise EditProblem(STEP_GONE)


def found(items: Sequence[I], item_id: str, gone: str) -> I:
    """The one with this id. Raises EditProblem with the words ``gone``."""
    for item in items:
        if item.id == item_id:
            return item
    raise EditProblem(gone)


def with_steps(recipe: Recipe, steps: Sequence[Step]) -> Recipe:
    """A recipe of other steps; groups that no step stands in any more go."""
    used = {step.group for step in steps}
    groups = {name: group for name, group in recipe.groups.items() if name in used}
    return changed(recipe, steps=list(steps), groups=groups)


def with_step(recipe: Recipe, step: Step) -> Recipe:
    """The recipe with a step in the place of the one of its id."""
    return changed(recipe, steps=[step if s.id == step.id else s for s in recipe.steps])


def with_below(recipe: Recipe, own: Step, made: Sequence[Step]) -> Recipe:
    """The recipe with steps right below one of its own."""
    at = recipe.steps.index(own) + 1
    return changed(recipe, steps=[*recipe.steps[:at], *made, *recipe.steps[at:]])


def change_step(recipe: Recipe, step_id: str, **values: Any) -> Recipe:
    return with_step(recipe, changed(step_of(recipe, step_id), **values))


def adjustment_of(recipe: Recipe, step_id: str, adjustment_id: str) -> Any:
    """Raises EditProblem when it, or its step, is gone."""
    return found(step_of(recipe, step_id).adjustments, adjustment_id, ADJUSTMENT_GONE)


def change_adjustment(
    recipe: Recipe, step_id: str, adjustment_id: str, change: Callable[[Adjustment], Adjustment]
) -> Recipe:
    step = step_of(recipe, step_id)
    own = adjustment_of(recipe, step_id, adjustment_id)
    done = change(own)
    return change_step(recipe, step_id, adjustments=[done if a.id == own.id else a for a in step.adjustments])


def group_of(recipe: Recipe, group_id: str) -> Group:
    """Raises EditProblem when it is gone."""
    if group_id not in recipe.groups:
        raise EditProblem(GROUP_GONE)
    return recipe.groups[group_id]


def change_group(recipe: Recipe, group_id: str, **values: Any) -> Recipe:
    group = changed(group_of(recipe, group_id), **values)
    return changed(recipe, groups=recipe.groups | {group_id: group})


def shared_of(recipe: Recipe, region_id: str) -> SharedRegion:
    """Raises EditProblem when it is gone."""
    if region_id not in recipe.regions:
        raise EditProblem(SHARED_GONE)
    return recipe.regions[region_id]


def change_shared(recipe: Recipe, region_id: str, **values: Any) -> Recipe:
    shared = changed(shared_of(recipe, region_id), **values)
    return changed(recipe, regions=recipe.regions | {region_id: shared})


def change_region(recipe: Recipe, step_id: str, change: Callable[[Region], Region]) -> Recipe:
    """Change the region a step works in: its own, or the shared one that it uses."""
    step = step_of(recipe, step_id)
    if step.shared is None:
        return with_step(recipe, changed(step, region=change(step.region)))
    shared = shared_of(recipe, step.shared.region)
    return change_shared(recipe, step.shared.region, region=change(shared.region))


def change_part(region: Region, part_id: str, change: Callable[[Part], Part], kind: str = "") -> Region:
    """A region with one part changed. Raises EditProblem when there is none of this id, or not of this ``kind``."""
    own = found(region.parts, part_id, PART_GONE)
    if kind and getattr(own, "kind", "") != kind:
        raise EditProblem(PART_GONE)
    done = change(own)
    return changed(region, parts=[done if p.id == part_id else p for p in region.parts])


def moved(items: Sequence[I], item_id: str, by: int, gone: str) -> list[I]:
    """The list with one entry ``by`` places further on, held to the list's ends."""
    own = found(items, item_id, gone)
    rest = [item for item in items if item.id != item_id]
    at = next(i for i, item in enumerate(items) if item.id == item_id)
    to = min(max(at + by, 0), len(rest))
    return [*rest[:to], own, *rest[to:]]


def checked_by(adapter: TypeAdapter[Any], data: Any, otherwise: str) -> Any:
    """Plain data as one of a union of models. Raises EditProblem with what is wrong, or with the words ``otherwise``
    when it is none of them.
    """
    try:
        return adapter.validate_python(data)
    except ValidationError as error:
        kind = error.errors(include_url=False)[0]["type"]
        unknown = kind.startswith("union_tag")
        raise EditProblem(otherwise if unknown else validation_words(error)) from error

"""Changes to a recipe, as functions from recipe to recipe. Every one validates; none changes its argument."""

from collections.abc import Callable
from typing import Any

from pydantic import ValidationError

from lenskeep.core.adjust import KINDS
from lenskeep.core.problems import UserProblem, validation_words
from lenskeep.core.recipes.models import Recipe, Step
from lenskeep.core.regions import PART_KINDS, Region


class EditProblem(UserProblem):
    """A change that makes no valid recipe; the message is for the photographer."""


def checked_recipe(data: dict[str, Any]) -> Recipe:
    """A recipe from plain data. Raises EditProblem naming what is wrong."""
    try:
        return Recipe.model_validate(data)
    except ValidationError as error:
        raise EditProblem(validation_words(error)) from error


def change_steps(recipe: Recipe, change: Callable[[list[dict[str, Any]]], None]) -> Recipe:
    data = recipe.model_dump(mode="json")
    change(data["steps"])
    return checked_recipe(data)


def index_of(recipe: Recipe, step_id: str) -> int:
    for i, step in enumerate(recipe.steps):
        if step.id == step_id:
            return i
    raise EditProblem("This step is no longer in the recipe.")


def add_step(recipe: Recipe, where: str, what: str, step_id: str) -> Recipe:
    """Add a step at the end: ``where`` is a part's kind or "whole", ``what`` an adjustment's kind or "".

    ``step_id`` must be one that no version of the recipe ever used, since frames keep their own changes by it.
    """
    if where != "whole" and where not in PART_KINDS:
        raise EditProblem("Choose where the step works.")
    if what and what not in KINDS:
        raise EditProblem("Choose what the step does.")
    region = Region() if where == "whole" else Region.model_validate({"parts": [{"kind": where}]})
    place = "Whole frame" if where == "whole" else PART_KINDS[where].label
    name = f"{place} – {KINDS[what].label.lower()}" if what else place
    adjustments = [{"kind": what}] if what else []
    step = Step.model_validate({"id": step_id, "name": name, "region": region.model_dump(), "adjustments": adjustments})
    return change_steps(recipe, lambda steps: steps.append(step.model_dump(mode="json")))


def remove_step(recipe: Recipe, step_id: str) -> Recipe:
    at = index_of(recipe, step_id)
    return change_steps(recipe, lambda steps: steps.pop(at))  # type: ignore[arg-type, return-value]


def move_step(recipe: Recipe, step_id: str, by: int) -> Recipe:
    """Move a step ``by`` places, held to the list's ends."""
    at = index_of(recipe, step_id)
    to = min(max(at + by, 0), len(recipe.steps) - 1)

    def change(steps: list[dict[str, Any]]) -> None:
        steps.insert(to, steps.pop(at))

    return change_steps(recipe, change)


def add_adjustment(recipe: Recipe, step_id: str, kind: str) -> Recipe:
    if kind not in KINDS:
        raise EditProblem("Choose an adjustment.")
    at = index_of(recipe, step_id)
    return change_steps(recipe, lambda steps: steps[at]["adjustments"].append({"kind": kind}))


def _step_with(recipe: Recipe, step_id: str, adjustment: int) -> int:
    """The place of a step that has so many adjustments at least."""
    at = index_of(recipe, step_id)
    if not 0 <= adjustment < len(recipe.steps[at].adjustments):
        raise EditProblem("This adjustment is no longer in the step.")
    return at


def remove_adjustment(recipe: Recipe, step_id: str, index: int) -> Recipe:
    at = _step_with(recipe, step_id, index)
    return change_steps(recipe, lambda steps: steps[at]["adjustments"].pop(index))  # type: ignore[arg-type, return-value]


def set_fields(recipe: Recipe, step_id: str, index: int, fields: dict[str, Any]) -> Recipe:
    """Set several fields of one adjustment at once, such as those of a file that was brought in."""
    at = _step_with(recipe, step_id, index)
    return change_steps(recipe, lambda steps: steps[at]["adjustments"][index].update(fields))


LISTS = ("points",)
"""Lists that are set as a whole, by their name at the end of a path."""


def set_values(recipe: Recipe, values: dict[str, Any]) -> Recipe:
    """Set values by path: ``strength``, ``name``, ``steps/ID/strength``, ``steps/ID/adjustments/0/ev`` and so on.

    Raises EditProblem for a path that leads nowhere or a value out of range.
    """
    data = recipe.model_dump(mode="json")
    for path, value in values.items():
        *way, last = path.split("/")
        place: Any = data
        try:
            for part in way:
                if isinstance(place, list):
                    place = place[index_of(recipe, part)] if place is data["steps"] else place[int(part)]
                else:
                    place = place[part]
            if not isinstance(place, dict) or last not in place or isinstance(place[last], dict):
                raise KeyError(last)
            if isinstance(place[last], list) != (isinstance(value, list) and last in LISTS):
                raise KeyError(last)
            place[last] = value
        except EditProblem:
            raise
        except (KeyError, IndexError, ValueError, TypeError) as error:
            raise EditProblem(f"There is nothing at {path} to set.") from error
    return checked_recipe(data)

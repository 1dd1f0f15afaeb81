"""A recipe as it would be with one brush painted everywhere, or nowhere: what shows under the hand while it paints."""

from typing import Any

from lenskeep.core.recipes import edit
from lenskeep.core.recipes.edit import EditProblem
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.recipes.settings import changed_region
from lenskeep.core.regions import Region
from lenskeep.core.regions.kinds.brush import Brush


def as_painted(recipe: Recipe, step_id: str, part_id: str, everywhere: bool) -> Recipe:
    """The recipe with that brush of a step covering the whole frame, or none of it. Raises EditProblem."""
    step = edit.step_of(recipe, step_id)

    def covered(part: Any) -> Any:
        if not isinstance(part, Brush):
            raise EditProblem("This part is not painted.")
        return edit.changed(part, strokes=[], only_on="", invert=part.invert != everywhere)

    def change(region: Region) -> Region:
        return edit.change_part(region, part_id, covered)

    if step.shared is not None:
        return changed_region(recipe, "shared", step.shared.region, change)
    return changed_region(recipe, "step", step_id, change)

"""What would make a guard quiet: the step that its fault comes from, at the greatest strength that it is quiet at."""

from dataclasses import dataclass

from lenskeep.core.guarding import BASE
from lenskeep.core.measure.guards import GUARDS, GuardName
from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes import edit
from lenskeep.core.recipes.models import Recipe
from lenskeep.studio.bench.measures import Guarded, measures
from lenskeep.studio.bench.stage import Stage

HALVINGS = 6


@dataclass(frozen=True)
class Mend:
    """``strength`` of the ``step`` (0…2) that the guard is quiet at, and its ``figure`` then; ``quiet`` is False where
    even without the step it warns, by what others do.
    """

    step: str
    name: str
    strength: float
    figure: float
    unit: str
    quiet: bool


def mend_for(stage: Stage, frame_id: int, recipe: Recipe, guard: GuardName) -> Mend:
    """The mend of one guard's warning on a frame. Raises UserProblem where it does not warn, or no step is to blame."""
    found = _looked(stage, frame_id, recipe, guard)
    if not found.warns or found.step is None:
        raise UserProblem(f"{GUARDS[guard].label} does not warn on this frame.")
    if found.step == BASE:
        raise UserProblem("This comes from the frame’s own base. Change it on the frame’s page.")
    step = recipe.step(found.step)

    def at(strength: float) -> Guarded:
        return _looked(stage, frame_id, edit.change_step(recipe, step.id, strength=strength), guard)

    low, high, figure = 0.0, step.strength, at(0.0)
    if figure.warns and figure.step == step.id:
        return Mend(step.id, step.name, 0.0, figure.figure, figure.unit, False)
    quiet = not figure.warns
    for _ in range(HALVINGS):
        middle = round((low + high) / 2.0, 2)
        tried = at(middle)
        if tried.warns and (quiet or tried.step == step.id):
            high = middle
        else:
            low, figure = middle, tried
    return Mend(step.id, step.name, low, figure.figure, figure.unit, quiet)


def _looked(stage: Stage, frame_id: int, recipe: Recipe, guard: GuardName) -> Guarded:
    return next(g for g in measures(stage, frame_id, recipe, None).guards if g.name == guard)

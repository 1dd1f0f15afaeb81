"""A balance held to a frame: what that frame needs, measured on the picture as it stands below the balance."""

from lenskeep.core.adjust.light.balance import Balance
from lenskeep.core.plan import make_plan
from lenskeep.core.recipes import edit
from lenskeep.core.recipes.change import Change
from lenskeep.core.recipes.edit import EditProblem
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.recipes.ready_changes import HoldBalance
from lenskeep.core.render import compile_steps, render_rows
from lenskeep.studio.bench import draft as bench
from lenskeep.studio.bench.stage import KEY_SIDE, Stage
from lenskeep.studio.library import Library


def hold_to(library: Library, stage: Stage, scene_id: int, step_id: str, adjustment_id: str, frame_id: int) -> Change:
    """The change that holds a balance to a frame. Raises EditProblem, Gone."""
    recipe = bench.recipe_now(library, scene_id)
    own = edit.adjustment_of(recipe, step_id, adjustment_id)
    if not isinstance(own, Balance):
        raise EditProblem("Only a balance can be held to a frame.")
    with stage.at_work(frame_id, KEY_SIDE) as staged:
        frame = staged.frame
        picture = render_rows(
            compile_steps(make_plan(below(recipe, step_id, adjustment_id)), frame).stages(), frame.proxy.copy()
        )
        found = own.needs_of(picture, frame.found.mask)
    return HoldBalance(step=step_id, adjustment=adjustment_id, ev=found.middle, mired=found.mired, duv=found.duv)


def below(recipe: Recipe, step_id: str, adjustment_id: str) -> Recipe:
    """The recipe as far as one adjustment, without it."""
    at = next(i for i, s in enumerate(recipe.steps) if s.id == step_id)
    step = recipe.steps[at]
    place = next(i for i, a in enumerate(step.adjustments) if a.id == adjustment_id)
    head = edit.changed(step, adjustments=step.adjustments[:place])
    return edit.with_steps(recipe, [*recipe.steps[:at], head])

"""Strokes of a recipe that were meant for one frame, moved to that frame as repairs of its mask."""

from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.edit import EditProblem, step_of
from lenskeep.core.recipes.region_changes import RemovePart
from lenskeep.core.regions.kinds.brush import Brush
from lenskeep.core.repairs.from_brush import repairs_of
from lenskeep.core.repairs.models import MOST, NONE
from lenskeep.store import frames, scenes
from lenskeep.store.frames import FrameRow
from lenskeep.studio import repairing
from lenskeep.studio.applying import frame_there
from lenskeep.studio.bench import draft
from lenskeep.studio.library import Library


def move_to_frame(
    library: Library, scene_id: int, step_id: str, part_id: str, frame_id: int, on: int | None = None
) -> FrameRow:
    """Take a brush out of the recipe and keep its strokes on a frame: the one that they were kept to already, or else
    ``frame_id``. Raises EditProblem, UserProblem, ChangedMeanwhile; then nothing changes.
    """
    recipe = draft.recipe_now(library, scene_id)
    region = recipe.region_of(step_of(recipe, step_id))
    brush = next((p for p in region.parts if p.id == part_id), None)
    if not isinstance(brush, Brush) or not brush.strokes:
        raise EditProblem("There is no stroke here to move to the frame.")
    frame = _frame_of(library, scene_id, brush.only_on) if brush.only_on else frame_there(library, frame_id)
    done = repairs_of(region, brush, repairing.found_on(library, frame, NONE))
    if len(frame.override.repairs.done) + len(done) > MOST:
        raise UserProblem("That frame has as many repairs as it can hold. Take some back first.")
    with library.db.writing():
        draft.change(library, scene_id, RemovePart(step=step_id, part=part_id), on)
        return repairing.change(library, frame, lambda r: r.with_all(done))


def _frame_of(library: Library, scene_id: int, content: str) -> FrameRow:
    scene = scenes.scene(library.db, scene_id)
    for frame in frames.summaries(library.db, scene.shoot_id if scene else 0):
        if frame.content == content:
            return frame_there(library, frame.id)
    raise UserProblem(
        "The frame that these strokes were kept to is not in this shoot. Let them work on every frame, or remove them."
    )

"""The line-up: frames down, recipes across, every cell made; columns measured; what is kept mixed into one look."""

from collections.abc import Collection
from dataclasses import dataclass

import numpy as np

from lenskeep.core.colour.oklab import to_oklab
from lenskeep.core.guarding import judge, looked_at
from lenskeep.core.measure.guards import GuardName
from lenskeep.core.measure.pull import Pull, pull
from lenskeep.core.plan import Plan, plan_of
from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.layers import Layer
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.render import compile_steps
from lenskeep.files.recipes import RecipeFile
from lenskeep.store import frames, recipes, scenes
from lenskeep.store.frames import FrameRow, FrameSummary
from lenskeep.studio import looks
from lenskeep.studio.bench import trying
from lenskeep.studio.bench.stage import DRAFT_SIDE, Stage
from lenskeep.studio.bench.witnesses import key_and_witnesses
from lenskeep.studio.book.choices import recipe_at
from lenskeep.studio.book.take_in import take_in
from lenskeep.studio.library import Library

MOST_FRAMES, MOST_COLUMNS = 12, 12
SEVERAL = "Choose at most {} {} for a line-up."


@dataclass(frozen=True)
class Column:
    """What stands over the frames: recipes by their keys (``choices.recipe_at``) with a strength 0…2 each, the first at
    the bottom; none for the frames as they came.
    """

    parts: tuple[tuple[str, float], ...] = ()


@dataclass(frozen=True)
class Measured:
    """A column over its frames: the subject's pull in the middle (None without a subject anywhere), how far the frames'
    light lies apart (standard deviation of median OKLab L, ×100), and on how many of them each guard warns.
    """

    pull: Pull | None
    apart: float
    warned: dict[GuardName, int]


def frames_of(library: Library, scene_id: int, chosen: Collection[int]) -> list[FrameSummary]:
    """The frames of a line-up: those chosen, or a scene's key frame and witnesses. Raises UserProblem."""
    if len(chosen) > MOST_FRAMES:
        raise UserProblem(SEVERAL.format(MOST_FRAMES, "frames"))
    if chosen:
        return [f for f in frames.some(library.db, chosen) if f.found]
    key, witnesses = key_and_witnesses(library, scene_id)
    return [f for f in (key, *witnesses) if f]


def plan_for(library: Library, column: Column) -> Plan:
    """What a column does to a frame, whatever its own look is. Raises UserProblem."""
    return plan_of(
        [
            Layer(recipe_at(library, key), f"l{number}", strength=strength)
            for number, (key, strength) in enumerate(column.parts)
        ]
    )


def picture(library: Library, stage: Stage, frame: FrameRow, column: Column, large: bool) -> bytes:
    """A JPEG of one cell."""
    return trying.picture_of(stage, frame, plan_for(library, column), frame.own_base, draft=not large)


def picture_of_recipe(stage: Stage, frame: FrameRow, recipe: Recipe) -> bytes:
    """A JPEG of a frame with a recipe, at the size of a cell."""
    return trying.picture_of(stage, frame, plan_of([Layer(recipe)]), frame.own_base, draft=True)


def measured(library: Library, stage: Stage, rows: list[FrameRow], column: Column) -> Measured:
    """What a column does to all of its frames, at the size of a cell."""
    pulls: list[Pull] = []
    light: list[float] = []
    warned: dict[GuardName, int] = {}
    plan = plan_for(library, column)
    for frame in rows:
        with stage.at_work(frame.id, DRAFT_SIDE, True) as staged:
            looked = looked_at(staged.frame, staged.picture.copy(), compile_steps(plan, staged.frame), plan)
            finished = looked.finished()
            said = judge(looked, finished)
            own = pull(finished, staged.sized(staged.frame.found.subject))
        pulls += [own] if own else []
        light.append(100.0 * float(np.median(to_oklab(finished)[..., 0])))
        for name in said.warned:
            warned[name] = warned.get(name, 0) + 1
    middle = _middle(pulls) if pulls else None
    return Measured(middle, round(float(np.std(light)), 1) if light else 0.0, warned)


def _middle(pulls: list[Pull]) -> Pull:
    values = np.median([list(p.model_dump().values()) for p in pulls], axis=0)
    return Pull(**dict(zip(Pull.model_fields, (round(float(v), 2) for v in values), strict=True)))


def give(library: Library, scene_id: int, column: Column) -> None:
    """Give a scene a column as its look; ready recipes go into the book for it. Raises UserProblem."""
    scene = scenes.scene(library.db, scene_id)
    if scene is None:
        raise UserProblem("This scene is no longer in the library.")
    if not column.parts:
        raise UserProblem("Tick the recipes that the look should be made of.")
    layers = [(_version(library, key), strength, True) for key, strength in column.parts]
    looks.give_layers(library, scene.shoot_id, layers, scene_ids=[scene_id])


def _version(library: Library, key: str) -> int:
    recipe, version = recipe_at(library, key), recipes.version_at(library.db, key)
    return version.id if version else take_in(library, RecipeFile(recipe)).id

"""Effects: those that ship with the application and those of the book; kept from a step, found by their keys."""

import json
from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files

from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes import edit
from lenskeep.core.recipes.effects import Effect, effect_in, effect_of
from lenskeep.store import recipes
from lenskeep.store.recipes import RecipeVersion
from lenskeep.studio.bench import draft as bench
from lenskeep.studio.library import Library

GONE = "This effect is no longer there. Choose another one."
OWN = "Your own"


@dataclass(frozen=True)
class Listed:
    """An effect as lists show it; ``key`` is "ready NAME" or the number of a version in the book."""

    key: str
    shelf: str
    effect: Effect


@lru_cache(maxsize=1)
def ready() -> tuple[Listed, ...]:
    """Those that ship, set by set."""
    data = json.loads((files("lenskeep") / "ready" / "effects.json").read_text("utf-8"))
    return tuple(
        Listed(f"ready {each['name']}", shelf, Effect.model_validate(each))
        for shelf, effects in data.items()
        for each in effects
    )


def listed(library: Library) -> list[Listed]:
    """All that can be taken: the photographer's own first."""
    own = [
        Listed(str(v.id), v.shelf or OWN, effect_in(v.recipe))
        for v in recipes.newest_versions(library.db, "effect")
        if not v.unreadable and len(v.recipe.steps) == 1 and v.recipe.steps[0].adjustments
    ]
    return [*own, *ready()]


def effect_at(library: Library, key: str) -> Effect:
    """The effect that a key speaks of. Raises UserProblem, UnreadableRecipe."""
    if key.startswith("ready "):
        for each in ready():
            if each.key == key:
                return each.effect
        raise UserProblem(GONE)
    version = recipes.version_at(library.db, key)
    if version is None or version.kind != "effect":
        raise UserProblem(GONE)
    return effect_in(version.recipe)


def keep(library: Library, effect: Effect) -> RecipeVersion:
    """Put an effect into the book: a new one, or the next version of the one of its name. Raises UserProblem."""
    return recipes.save_recipe(library.db, effect.as_recipe(), "effect")


def keep_from_step(library: Library, scene_id: int, step_id: str, name: str) -> RecipeVersion:
    """What a step on the Bench does, without its region, into the book. Raises EditProblem."""
    step = edit.step_of(bench.recipe_now(library, scene_id), step_id)
    return keep(library, effect_of(step, name))

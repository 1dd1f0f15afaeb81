"""What can be chosen by pictures on the Bench: effects, recipes, blends; each as a change of the draft, and drawn."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal, get_args

from lenskeep.core.colour.spaces import OutputSpace
from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.change import Change
from lenskeep.core.recipes.changes import SetValues
from lenskeep.core.recipes.effects import EffectStep, EffectSteps, TakeEffect
from lenskeep.core.recipes.group_changes import TakeRecipe
from lenskeep.core.recipes.models import BlendMode, Recipe
from lenskeep.core.recipes.settings import setting_at
from lenskeep.store import recipes
from lenskeep.studio.bench.stage import DRAFT_SIDE, KEY_SIDE, Stage
from lenskeep.studio.book import effects, starters
from lenskeep.studio.library import Library

Of = Literal["effects", "recipes", "blends"]
Way = Literal["after", "replace", "group", "within"]
"""How a recipe's steps come: after those that are there, in their place, as a group, as one only where a step works."""
GONE = "This is no longer there to be chosen. Choose another one."
TRIED = "tried"
"""The beginning of the ids of what is only tried: nothing of it is kept."""
TILE_SIDE = DRAFT_SIDE


@dataclass(frozen=True)
class Choice:
    """``key`` names it, ``shelf`` is the set that it stands in, ``does`` tells it in words, ``note`` when it serves."""

    key: str
    shelf: str
    name: str
    does: str
    note: str = ""


def choices(library: Library, of: Of) -> list[Choice]:
    """All of a kind, set by set."""
    if of == "effects":
        return [Choice(e.key, e.shelf, e.effect.name, e.effect.does(), e.effect.note) for e in effects.listed(library)]
    if of == "blends":
        return [Choice(mode, "Blends", mode.replace("-", " "), "") for mode in get_args(BlendMode)]
    own = [
        Choice(str(v.id), v.shelf or effects.OWN, v.name, _steps(v.recipe), v.recipe.note)
        for v in recipes.newest_versions(library.db)
        if not v.unreadable and v.recipe.steps
    ]
    return own + [Choice(f"ready {r.name}", s, r.name, _steps(r), r.note) for s, r in starters.in_sets()]


def by_shelf(some: Iterable[Choice]) -> dict[str, list[Choice]]:
    """Choices by the sets that they stand in, in their order."""
    out: dict[str, list[Choice]] = {}
    for choice in some:
        out.setdefault(choice.shelf, []).append(choice)
    return out


def _steps(recipe: Recipe) -> str:
    return ", ".join(step.name for step in recipe.steps)


def recipe_at(library: Library, key: str) -> Recipe:
    """The recipe that a key speaks of. Raises UserProblem, UnreadableRecipe."""
    if key.startswith("ready "):
        return starters.starter(key.removeprefix("ready "))
    version = recipes.version_at(library.db, key)
    if version is None or version.kind != "recipe":
        raise UserProblem(GONE)
    return version.recipe


def earlier(library: Library, key: str) -> list[Choice]:
    """The other versions of the recipe that a key speaks of, the newest first; of a ready one there are none."""
    own = recipes.version_at(library.db, key)
    every = recipes.versions(library.db, own.recipe_id) if own else []
    return [
        Choice(str(v.id), v.shelf or effects.OWN, f"{v.name}, version {v.version}", _steps(v.recipe), v.recipe.note)
        for v in every
        if own and v.id != own.id and not v.unreadable
    ]


def recipe_id_of(library: Library, key: str) -> int | None:
    """The recipe in the book that a key speaks of; None for a ready one."""
    version = recipes.version_at(library.db, key)
    return version.recipe_id if version else None


def change_to(
    library: Library,
    of: Of,
    key: str,
    step: str | None,
    own_step: bool = False,
    id: str = "",
    replace: bool = False,
) -> Change:
    """What taking one changes: an effect goes into the ``step``, or where that works as a step of its own; a recipe
    comes as a group, limited to where the step works; a blend is the step's. Raises UserProblem.
    """
    if of == "recipes":
        return TakeRecipe(id=id, recipe=recipe_at(library, key), way="group", within=step)
    if of == "blends":
        if step is None or key not in get_args(BlendMode):
            raise UserProblem("Open the step that is to be blended otherwise.")
        return SetValues(values=[setting_at(f"steps/{step}/blend", key)], said="the blend mode")
    effect = effects.effect_at(library, key)
    if step is None or own_step:
        return EffectStep(id=id, effect=effect, of_step=step)
    return TakeEffect(id=id, step=step, effect=effect, way="replace" if replace else "add")


def changes_to(
    library: Library, of: Of, keys: list[str], step: str | None, own_steps: bool, replace: bool = False
) -> list[Change]:
    """The same of several: effects become steps, the first of them on, in one change. Raises UserProblem."""
    if of == "effects" and len(keys) > 1:
        return [EffectSteps(step=step, effects=[effects.effect_at(library, key) for key in keys])]
    return [change_to(library, of, key, step, own_steps, replace=replace) for key in keys]


def painted_with(library: Library, key: str) -> Change:
    """An effect as a step that is painted on. Raises UserProblem."""
    return EffectStep(effect=effects.effect_at(library, key), where="brush")


def taken(library: Library, key: str, way: Way, step: str | None, id: str = "") -> TakeRecipe:
    """What taking a recipe in changes, unless it comes in place of all. Raises UserProblem."""
    if way == "within" and not step:
        raise UserProblem("Open the step whose region the recipe should keep to.")
    within = step if way == "within" else None
    return TakeRecipe(id=id, recipe=recipe_at(library, key), way="after" if way == "after" else "group", within=within)


def tried(library: Library, recipe: Recipe, of: Of, key: str, step: str | None, way: Way = "after") -> Recipe:
    """The draft with one taken; nothing is kept of it. Raises UserProblem."""
    whose = step if any(s.id == step for s in recipe.steps) else None
    if of == "recipes":
        whole = recipe_at(library, key)
        return whole if way == "replace" else taken(library, key, way, whose, TRIED).on(recipe)
    return change_to(library, of, key, whose, id=TRIED).on(recipe)


def picture(stage: Stage, frame_id: int, recipe: Recipe, large: bool, space: OutputSpace) -> bytes:
    """A JPEG of a frame with a recipe: as a tile, or as large as the key frame stands on the Bench."""
    if large:
        return stage.picture(frame_id, recipe, KEY_SIDE, space=space)
    return stage.picture(frame_id, recipe, TILE_SIDE, draft=True, space=space)

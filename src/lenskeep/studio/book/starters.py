"""Ready starting points: small recipes that ship with the application, in sets by what they are for."""

import json
from functools import lru_cache
from importlib.resources import files

from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.models import Recipe
from lenskeep.files.recipes import recipe_from_json


@lru_cache(maxsize=1)
def in_sets() -> tuple[tuple[str, Recipe], ...]:
    """(set, recipe) of all of them, set by set, in the order of their files' names; ``sets.json`` says which are in
    which.
    """
    folder = files("lenskeep") / "starters"
    paths = sorted((p for p in folder.iterdir() if p.name.endswith(".json")), key=lambda p: p.name)
    found = {p.name: recipe_from_json(p.read_text("utf-8"), p.name).recipe for p in paths if p.name != "sets.json"}
    sets: dict[str, list[str]] = json.loads((folder / "sets.json").read_text("utf-8"))
    placed = {name for names in sets.values() for name in names}
    if placed != set(found):
        raise RuntimeError(f"not in one set each: {sorted(placed ^ set(found))}")
    return tuple((title, found[name]) for title, names in sets.items() for name in names)


def starters() -> tuple[Recipe, ...]:
    """All of them, set by set."""
    return tuple(recipe for _, recipe in in_sets())


def starter(name: str) -> Recipe:
    """One by name. Raises UserProblem when there is none."""
    for recipe in starters():
        if recipe.name == name:
            return recipe
    raise UserProblem("There is no such starting point.")

"""Ready starting points: small recipes that ship with the application."""

import secrets
from functools import lru_cache
from importlib.resources import files

from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes import edit
from lenskeep.core.recipes.models import Recipe
from lenskeep.files.recipes import recipe_from_json
from lenskeep.studio.bench import draft as bench
from lenskeep.studio.library import Library


@lru_cache(maxsize=1)
def starters() -> tuple[Recipe, ...]:
    """All of them, in the order of their files' names."""
    folder = files("lenskeep") / "starters"
    paths = sorted((p for p in folder.iterdir() if p.name.endswith(".json")), key=lambda p: p.name)
    return tuple(recipe_from_json(p.read_text("utf-8"), p.name).recipe for p in paths)


def starter(name: str) -> Recipe:
    """One by name. Raises UserProblem when there is none."""
    for recipe in starters():
        if recipe.name == name:
            return recipe
    raise UserProblem("There is no such starting point.")


def add_to_bench(library: Library, scene_id: int, name: str) -> str:
    """Add a starting point's steps after those on the Bench; returns the id of the first new one."""
    with library.db.writing():
        recipe = bench.draft(library, scene_id).recipe
        more = starter(name)
        first, whole = _with(recipe, more)
        bench.go_on_from(library, scene_id, whole, f"adding {more.name}")
        return first


def _with(recipe: Recipe, more: Recipe) -> tuple[str, Recipe]:
    """A recipe with the steps of another one behind its own; the id of the first of them."""
    shared = {rid: f"r{secrets.token_hex(4)}" for rid in more.regions}
    groups = {gid: f"g{secrets.token_hex(4)}" for gid in more.groups}
    steps = []
    for step in more.steps:
        used = step.shared and edit.changed(step.shared, region=shared[step.shared.region])
        group, own = groups.get(step.group or ""), f"s{secrets.token_hex(4)}"
        steps.append(edit.changed(step, id=own, shared=used, group=group, copied_from=None))
    whole = edit.changed(
        recipe,
        steps=[*recipe.steps, *steps],
        regions=recipe.regions | {shared[rid]: region for rid, region in more.regions.items()},
        groups=recipe.groups | {groups[gid]: group for gid, group in more.groups.items()},
        note=(recipe.note or more.note) if not recipe.steps else recipe.note,
    )
    return steps[0].id, whole

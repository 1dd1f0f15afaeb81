"""A recipe's steps put behind those of another, with ids of their own."""

from typing import Any

from lenskeep.core.recipes import edit
from lenskeep.core.recipes.models import Group, Name, Recipe, Share, Step


def joined(recipe: Recipe, more: Recipe, seed: str) -> Recipe:
    """``recipe`` with the steps, groups and shared regions of ``more`` behind its own, whose ids begin with ``seed``.
    What a step's strength was by its recipe stays.
    """
    steps, regions, groups = _renamed(more, seed)
    return edit.changed(
        recipe,
        steps=[*recipe.steps, *(_at(step, more.strength) for step in steps)],
        regions=recipe.regions | regions,
        groups=recipe.groups | groups,
        note=(recipe.note or more.note) if not recipe.steps else recipe.note,
    )


def joined_as_group(recipe: Recipe, more: Recipe, seed: str, limit: Share | None = None) -> Recipe:
    """The same of a recipe with steps as one group, called after it and at its strength, limited to a shared region of
    ``recipe``. Groups do not nest: the strengths, switches and limits of its own groups go into their steps.
    """
    steps, regions, _ = _renamed(dissolved(more), seed)
    group = Group(name=more.name, strength=more.strength, shared=limit)
    own = [edit.changed(step, group=seed) for step in steps]
    return edit.changed(
        recipe,
        steps=[*recipe.steps, *own],
        regions=recipe.regions | regions,
        groups=recipe.groups | {seed: group},
    )


def dissolved(recipe: Recipe) -> Recipe:
    """A recipe without groups that does the same. Raises EditProblem where a group's limit can't go into its steps'
    regions.
    """
    steps = [_freed(recipe, step) for step in recipe.steps]
    return edit.changed(recipe, steps=steps, groups={})


def _freed(recipe: Recipe, step: Step) -> Step:
    if step.group is None:
        return step
    group = recipe.groups[step.group]
    freed = _at(step, group.strength)
    freed = edit.changed(freed, group=None, enabled=step.enabled and group.enabled)
    limit = recipe.limit_of_group(group)
    if limit.is_whole:
        return freed
    region = recipe.region_of(step).within(limit)
    if region is None:
        raise edit.EditProblem(
            f"The group “{group.name}” is limited to a region that can’t go into its steps one by one. Take its limit "
            "away first."
        )
    return edit.changed(freed, region=region, shared=None, copied_from=None)


def _at(step: Step, strength: float) -> Step:
    return step if strength == 1.0 else edit.changed(step, strength=min(step.strength * strength, 2.0))


def _renamed(more: Recipe, seed: str) -> tuple[list[Step], dict[str, Any], dict[Name, Group]]:
    shared = {rid: f"{seed}r{n}" for n, rid in enumerate(more.regions)}
    groups = {gid: f"{seed}g{n}" for n, gid in enumerate(more.groups)}
    steps = []
    for number, step in enumerate(more.steps):
        used = step.shared and Share(region=shared[step.shared.region], invert=step.shared.invert)
        named = {"id": f"{seed}s{number}", "shared": used, "group": groups.get(step.group or ""), "copied_from": None}
        steps.append(edit.changed(step, **named))
    regions = {shared[rid]: region for rid, region in more.regions.items()}
    return steps, regions, {groups[gid]: _shared_anew(group, shared) for gid, group in more.groups.items()}


def _shared_anew(group: Group, shared: dict[str, str]) -> Group:
    if group.shared is None:
        return group
    return edit.changed(group, shared=Share(region=shared[group.shared.region], invert=group.shared.invert))

"""What can be done to groups: made of steps, limited, moved as one, doubled, dissolved, removed."""

from typing import Any, ClassVar, Literal

from pydantic import Field

from lenskeep.core.ids import Identifier, OwnId
from lenskeep.core.recipes import edit
from lenskeep.core.recipes.change import Change, Places, Ref
from lenskeep.core.recipes.edit import EditProblem
from lenskeep.core.recipes.joining import dissolved, joined, joined_as_group
from lenskeep.core.recipes.models import Group, Recipe, Share, SharedRegion, Step
from lenskeep.core.recipes.naming import name_of
from lenskeep.core.regions import Region

LIMITS: dict[str, dict[str, Any]] = {
    "subject": {"kind": "subject"},
    "people": {"kind": "subject", "which": "people"},
    "animals": {"kind": "subject", "which": "animals"},
    "skin": {"kind": "skin"},
    "background": {"kind": "background"},
    "sky": {"kind": "sky"},
}
"""What a group can be limited to by a word; to anything else by the region of a step."""


class OnGroup(Change):
    group: Identifier

    def refs(self) -> list[Ref]:
        return [("group", self.group)]


class GroupSteps(Change):
    """Steps put into a group of their own, where the first of them stands; they leave the groups they were in."""

    op: Literal["group-steps"] = "group-steps"
    words: ClassVar[str] = "grouping steps"
    fresh: ClassVar[str] = "g"
    id: OwnId = ""
    steps: list[Identifier] = Field(min_length=1, max_length=64)
    name: str = Field(default="Group", max_length=80)

    def refs(self) -> list[Ref]:
        return [("step", step) for step in self.steps]

    def on(self, recipe: Recipe) -> Recipe:
        own = {edit.step_of(recipe, step).id for step in self.steps}
        members = [edit.changed(s, group=self.id) for s in recipe.steps if s.id in own]
        first = next(i for i, s in enumerate(recipe.steps) if s.id in own)
        around = recipe.steps[first].group
        rest = [s for s in recipe.steps if s.id not in own]
        at = sum(s.id not in own for s in recipe.steps[:first])
        while around and at < len(rest) and rest[at].group == around:
            at += 1  # never amid another group, which would be torn
        group = edit.checked(Group, {"name": self.name.strip() or "Group"})
        used = {s.group for s in rest}
        groups = {name: g for name, g in recipe.groups.items() if name in used} | {self.id: group}
        return edit.changed(recipe, steps=[*rest[:at], *members, *rest[at:]], groups=groups)


class DissolveGroup(OnGroup):
    """Its steps stay where they are, as they are; its strength, switch and limit go into them."""

    op: Literal["dissolve-group"] = "dissolve-group"
    words: ClassVar[str] = "dissolving a group"

    def on(self, recipe: Recipe) -> Recipe:
        edit.group_of(recipe, self.group)
        alone = recipe.model_copy(
            update={
                "steps": [s for s in recipe.steps if s.group == self.group],
                "groups": {self.group: recipe.groups[self.group]},
            }
        )
        freed = {s.id: s for s in dissolved(alone).steps}
        return edit.with_steps(recipe, [freed.get(s.id, s) for s in recipe.steps])


class RemoveGroup(OnGroup):
    op: Literal["remove-group"] = "remove-group"
    words: ClassVar[str] = "removing a group"

    def on(self, recipe: Recipe) -> Recipe:
        edit.group_of(recipe, self.group)
        return edit.with_steps(recipe, [s for s in recipe.steps if s.group != self.group])


class MoveGroup(OnGroup):
    """By so many places, held to the list's ends; a step without a group, or another whole group, is one place."""

    op: Literal["move-group"] = "move-group"
    words: ClassVar[str] = "moving a group"
    by: Places

    def on(self, recipe: Recipe) -> Recipe:
        edit.group_of(recipe, self.group)
        runs = runs_of(recipe)
        at = next(i for i, run in enumerate(runs) if run[0].group == self.group)
        own = runs.pop(at)
        to = min(max(at + self.by, 0), len(runs))
        return edit.changed(recipe, steps=[s for run in [*runs[:to], own, *runs[to:]] for s in run])


class JoinGroup(Change):
    """A step goes into a group, to its end; or, without one, out of its group, behind it."""

    op: Literal["join-group"] = "join-group"
    words: ClassVar[str] = "moving a step into a group"
    step: Identifier
    group: Identifier | None = None

    def refs(self) -> list[Ref]:
        return [("step", self.step), *([("group", self.group)] if self.group else [])]

    def on(self, recipe: Recipe) -> Recipe:
        step = edit.step_of(recipe, self.step)
        beside = self.group or step.group
        if beside is None:
            return recipe
        edit.group_of(recipe, beside)
        rest = [s for s in recipe.steps if s.id != step.id]
        last = max((i for i, s in enumerate(rest) if s.group == beside), default=None)
        at = recipe.steps.index(step) if last is None else last + 1
        return edit.with_steps(recipe, [*rest[:at], edit.changed(step, group=self.group), *rest[at:]])


class LimitGroup(OnGroup):
    """What the whole group is limited to: one of ``LIMITS``, "whole", or the region of a step; or all but that. A
    step's region is shared with the group, so that what is done to one is done to both.
    """

    op: Literal["limit-group"] = "limit-group"
    words: ClassVar[str] = "limiting a group"
    fresh: ClassVar[str] = "r"
    id: OwnId = ""
    where: str = Field(default="whole", max_length=40)
    of_step: Identifier | None = None
    invert: bool = False

    def on(self, recipe: Recipe) -> Recipe:
        if self.of_step is None:
            return edit.change_group(recipe, self.group, limit=limit_of(self.where, self.invert), shared=None)
        recipe, share = sharing(recipe, self.of_step, self.id)
        share = edit.changed(share, invert=share.invert != self.invert)
        return edit.change_group(recipe, self.group, limit=Region(), shared=share)


def sharing(recipe: Recipe, step_id: str, region_id: str) -> tuple[Recipe, Share]:
    """A recipe in which a step's region can be used by others, under this id if it is not shared yet, and how the step
    uses it. Raises EditProblem where it works on the whole frame.
    """
    step = edit.step_of(recipe, step_id)
    if step.shared is not None:
        return recipe, step.shared
    if step.region.is_whole:
        raise EditProblem(f"“{step.name}” works on the whole frame, which limits nothing. Choose a region first.")
    base, number = name_of(step.region, [])[:70], 1
    taken = {shared.name for shared in recipe.regions.values()}
    while (name := base if number == 1 else f"{base} {number}") in taken:
        number += 1
    known = edit.changed(recipe, regions=recipe.regions | {region_id: SharedRegion(name=name, region=step.region)})
    share = Share(region=region_id)
    return edit.change_step(known, step_id, region=Region(), shared=share, copied_from=None), share


def limit_of(where: str, invert: bool) -> Region:
    """The region that a word means. Raises EditProblem."""
    if where == "whole":
        region = Region()
    elif where in LIMITS:
        region = Region.model_validate({"parts": [LIMITS[where]]})
    else:
        raise EditProblem("Choose what the group is limited to.")
    if invert and region.is_whole:
        raise EditProblem("All but the whole frame is nothing. Choose a region first.")
    return region.inverted() if invert else region


class DoubleGroup(OnGroup):
    """The same group again, right below; or its opposite: where it is not, and turned round."""

    op: Literal["double-group"] = "double-group"
    words: ClassVar[str] = "doubling a group"
    fresh: ClassVar[str] = "g"
    id: OwnId = ""
    opposite: bool = False

    def on(self, recipe: Recipe) -> Recipe:
        group = edit.group_of(recipe, self.group)
        own = [s for s in recipe.steps if s.group == self.group]
        if self.opposite and not recipe.limit_of_group(group).is_whole:  # its limit is turned round, its steps stay
            shared = group.shared and edit.changed(group.shared, invert=not group.shared.invert)
            own_limit = group.limit if shared else group.limit.inverted()
            twin = edit.changed(group, name=_opposite(group.name), limit=own_limit, shared=shared)
            steps = [turned(s, region=False) for s in own]
        elif self.opposite:
            twin = edit.changed(group, name=_opposite(group.name))
            steps = [turned(s) for s in own]
        else:
            twin, steps = group, own
        made = [edit.changed(s, id=f"{self.id}s{n}", group=self.id) for n, s in enumerate(steps)]
        held = recipe.model_copy(update={"groups": recipe.groups | {self.id: twin}})
        return edit.with_below(held, own[-1], made)


class TakeRecipe(Change):
    """A recipe's steps after those that are there: as they are, or as a group, which may be limited to where a step
    works: the two then share that region.
    """

    op: Literal["take-recipe"] = "take-recipe"
    words: ClassVar[str] = "taking a recipe in"
    fresh: ClassVar[str] = "g"
    id: OwnId = ""
    recipe: Recipe
    way: Literal["after", "group"] = "after"
    within: Identifier | None = None

    def refs(self) -> list[Ref]:
        return [("step", self.within)] if self.within else []

    def did(self) -> str:
        return f"adding {self.recipe.name}"

    def on(self, recipe: Recipe) -> Recipe:
        if not self.recipe.steps:
            raise EditProblem("This recipe has no steps.")
        if self.way == "after":
            return joined(recipe, self.recipe, self.id)
        share: Share | None = None
        if self.within and not recipe.region_of(edit.step_of(recipe, self.within)).is_whole:
            recipe, share = sharing(recipe, self.within, f"{self.id}w")
        return joined_as_group(recipe, self.recipe, self.id, share)


def turned(step: Step, region: bool = True) -> Step:
    """A step's opposite: where it is not, its adjustments turned round as far as they can be."""
    values: dict[str, Any] = {
        "name": _opposite(step.name),
        "adjustments": [a.opposite() for a in step.adjustments],
        "copied_from": None,
    }
    if region and step.shared is not None:
        values["shared"] = edit.changed(step.shared, invert=not step.shared.invert)
    elif region and not step.region.is_whole:
        values["region"] = step.region.inverted()
    return edit.changed(step, **values)


def _opposite(name: str) -> str:
    return f"{name[:68]}, opposite"


def runs_of(recipe: Recipe) -> list[list[Step]]:
    """The steps of each group, and each step without one, in order."""
    out: list[list[Step]] = []
    for step in recipe.steps:
        if step.group and out and out[-1][0].group == step.group:
            out[-1].append(step)
        else:
            out.append([step])
    return out

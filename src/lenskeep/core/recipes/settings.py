"""One value set at one place of a recipe: what a slider, a tick or a field at the Bench does."""

from typing import Annotated, Any, Literal, Union

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter

from lenskeep.core.ids import Identifier
from lenskeep.core.recipes import edit
from lenskeep.core.recipes.edit import EditProblem
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.regions import Region

Given = float | bool | str | list[tuple[float, float]]
Home = Literal["step", "shared", "group"]
"""Whose region: a step's own, a shared one, or a group's limit."""
_FIXED = frozenset({"id", "kind", "format", "group", "copied_from", "name_of_asset"})


class _Setting(BaseModel):
    """``field`` is a field of the model that is meant."""

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)
    field: str = Field(max_length=40)
    value: Given

    def put(self, model: Any) -> Any:
        """The model with the value. Raises EditProblem for a field that is not there or not to be set."""
        now = getattr(model, self.field, None) if self.field in type(model).model_fields else None
        fixed = self.field in _FIXED or self.field in getattr(model, "asset_fields", ())
        if now is None or fixed or isinstance(now, BaseModel | dict):
            raise EditProblem(f"There is no {self.field[:40]} to set here.")
        whole = (type(model).model_fields[self.field].json_schema_extra or {}).get("editor") == "curve"
        if isinstance(now, list) != (isinstance(self.value, list) and whole):
            raise EditProblem(f"There is no {self.field[:40]} to set here.")
        return edit.changed(model, **{self.field: self.value})


class OfRecipe(_Setting):
    of: Literal["recipe"] = "recipe"

    def on(self, recipe: Recipe) -> Recipe:
        return self.put(recipe)  # type: ignore[no-any-return]

    def refs(self) -> list[tuple[str, ...]]:
        return []


class OfStep(_Setting):
    of: Literal["step"] = "step"
    step: Identifier

    def on(self, recipe: Recipe) -> Recipe:
        return edit.with_step(recipe, self.put(edit.step_of(recipe, self.step)))

    def refs(self) -> list[tuple[str, ...]]:
        return [("step", self.step)]


class OfAdjustment(_Setting):
    of: Literal["adjustment"] = "adjustment"
    step: Identifier
    adjustment: Identifier

    def on(self, recipe: Recipe) -> Recipe:
        return edit.change_adjustment(recipe, self.step, self.adjustment, self.put)

    def refs(self) -> list[tuple[str, ...]]:
        return [("adjustment", self.step, self.adjustment)]


class OfUse(_Setting):
    """Of how a step uses a shared region: whether inverted."""

    of: Literal["use"] = "use"
    step: Identifier
    field: Literal["invert"] = "invert"

    def on(self, recipe: Recipe) -> Recipe:
        share = edit.step_of(recipe, self.step).shared
        if share is None:
            raise EditProblem(edit.SHARED_GONE)
        return edit.change_step(recipe, self.step, shared=self.put(share))

    def refs(self) -> list[tuple[str, ...]]:
        return [("step", self.step)]


class OfGroup(_Setting):
    of: Literal["group"] = "group"
    group: Identifier

    def on(self, recipe: Recipe) -> Recipe:
        done = self.put(edit.group_of(recipe, self.group))
        return edit.changed(recipe, groups=recipe.groups | {self.group: done})

    def refs(self) -> list[tuple[str, ...]]:
        return [("group", self.group)]


class OfShared(_Setting):
    """Of a shared region: its name."""

    of: Literal["shared"] = "shared"
    region: Identifier
    field: Literal["name"] = "name"

    def on(self, recipe: Recipe) -> Recipe:
        done = self.put(edit.shared_of(recipe, self.region))
        return edit.changed(recipe, regions=recipe.regions | {self.region: done})

    def refs(self) -> list[tuple[str, ...]]:
        return [("region", self.region)]


class OfRegion(_Setting):
    """Of a region as a whole: grown, snapped, feathered, limited, inverted."""

    of: Literal["region"] = "region"
    home: Home
    whose: Identifier

    def on(self, recipe: Recipe) -> Recipe:
        return changed_region(recipe, self.home, self.whose, self.put)

    def refs(self) -> list[tuple[str, ...]]:
        return [(_SPOKEN[self.home], self.whose)]


class OfPart(OfRegion):
    of: Literal["part"] = "part"  # type: ignore[assignment]
    part: Identifier

    def on(self, recipe: Recipe) -> Recipe:
        def change(region: Region) -> Region:
            return edit.change_part(region, self.part, self.put)

        return changed_region(recipe, self.home, self.whose, change)

    def refs(self) -> list[tuple[str, ...]]:
        return [(f"part of {self.home}", self.whose, self.part)]


_SPOKEN = {"step": "step", "shared": "region", "group": "group"}


def changed_region(recipe: Recipe, home: Home, whose: str, change: Any) -> Recipe:
    """A recipe with one of its regions changed."""
    if home == "shared":
        return edit.change_shared(recipe, whose, region=change(edit.shared_of(recipe, whose).region))
    if home == "group":
        group = edit.group_of(recipe, whose)
        if group.shared is not None:
            return changed_region(recipe, "shared", group.shared.region, change)
        return edit.change_group(recipe, whose, limit=change(group.limit))
    step = edit.step_of(recipe, whose)
    return edit.with_step(recipe, edit.changed(step, region=change(step.region)))


Setting = Annotated[
    Union[OfRecipe, OfStep, OfAdjustment, OfUse, OfGroup, OfShared, OfRegion, OfPart],  # noqa: UP007
    Field(discriminator="of"),
]
SETTING: TypeAdapter[Any] = TypeAdapter(Setting)


def setting_at(path: str, value: Given) -> Any:
    """A setting from the short way of writing its place, as the pages keep it beside a field: ``strength``,
    ``steps/S/strength``, ``steps/S/adjustments/A/ev``, ``steps/S/shared/invert``, ``steps/S/region/feather``,
    ``steps/S/region/parts/P/x``, ``regions/R/name``, ``regions/R/region/feather`` …, ``groups/G/strength``,
    ``groups/G/limit/feather`` … Raises EditProblem for a way that leads nowhere.
    """
    return edit.checked_by(SETTING, _place(path) | {"value": value}, f"There is nothing at {path[:80]} to set.")


def _place(path: str) -> dict[str, str]:
    match path.split("/"):
        case [field]:
            return {"of": "recipe", "field": field}
        case ["steps", step, "adjustments", adjustment, field]:
            return {"of": "adjustment", "step": step, "adjustment": adjustment, "field": field}
        case ["steps", step, "shared", field]:
            return {"of": "use", "step": step, "field": field}
        case [("steps" | "regions" | "groups") as of, whose, ("region" | "limit"), *rest]:
            home = {"steps": "step", "regions": "shared", "groups": "group"}[of]
            if len(rest) == 3 and rest[0] == "parts":
                return {"of": "part", "home": home, "whose": whose, "part": rest[1], "field": rest[2]}
            if len(rest) == 1:
                return {"of": "region", "home": home, "whose": whose, "field": rest[0]}
        case ["steps", step, field]:
            return {"of": "step", "step": step, "field": field}
        case ["groups", group, field]:
            return {"of": "group", "group": group, "field": field}
        case ["regions", region, field]:
            return {"of": "shared", "region": region, "field": field}
    return {}

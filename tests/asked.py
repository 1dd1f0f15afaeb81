"""Changes as a page asks for them, for tests."""

from typing import Any

from lenskeep.core.recipes.change import Change
from lenskeep.core.recipes.changes import change_of
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.recipes.settings import setting_at


def asked(op: str, values: dict[str, Any]) -> Change:
    """A change by its name; values that are set go by the short way of writing their places."""
    if op == "set":
        return setting(values["values"])
    return change_of({"op": op, **values})


def setting(values: dict[str, Any]) -> Change:
    """Values set together, by place."""
    return change_of({"op": "set", "values": [setting_at(path, value) for path, value in values.items()]})


def plain_setting(values: dict[str, Any]) -> list[dict[str, Any]]:
    """The same as a page sends it."""
    return [setting_at(path, value).model_dump(mode="json") for path, value in values.items()]


def after(recipe: Recipe, op: str, **values: Any) -> Recipe:
    """A recipe after a change."""
    return asked(op, values).on(recipe)

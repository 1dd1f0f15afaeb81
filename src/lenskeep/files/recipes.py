"""Recipe files: JSON in and out, with the pictures and tables they refer to, and with errors that say where."""

import base64
import binascii
import json
from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, Literal, NoReturn

from pydantic import ValidationError

from lenskeep.core.names import shown_name, shown_text
from lenskeep.core.problems import UserProblem, validation_words
from lenskeep.core.recipes.effects import EFFECT_FORMAT, Effect, effect_in
from lenskeep.core.recipes.models import FORMAT, MOST_BYTES, Recipe, recipe_schema
from lenskeep.files.assets import check_assets
from lenskeep.files.formats import FIRST, upgraded

_LONG = 200_000


class RecipeProblem(UserProblem):
    """A recipe file that can't be used; the message says where and why."""


@dataclass(frozen=True)
class RecipeFile:
    """A recipe, or an effect as a recipe of one step, with the bytes of the assets it refers to, by their keys."""

    recipe: Recipe
    assets: Mapping[str, bytes] = field(default_factory=dict)
    kind: Literal["recipe", "effect"] = "recipe"


def parsed(text: str, name: str, what: str = "recipe") -> Any:
    """Plain data from a file's JSON. Raises RecipeProblem with what is wrong with it."""

    def no_number(word: str) -> NoReturn:
        raise RecipeProblem(f"{name} holds {word} where a number should be. Export it again.")

    if len(text) > MOST_BYTES:
        raise RecipeProblem(f"{name} is too large for a {what}: at most {MOST_BYTES // 1_000_000} MB are taken.")
    try:
        return json.loads(text, parse_constant=no_number)
    except json.JSONDecodeError as error:
        raise RecipeProblem(f"{name} is not JSON: {error.msg} in line {error.lineno}.") from error
    except (RecursionError, ValueError) as error:  # nested beyond measure, or an integer of thousands of digits
        raise RecipeProblem(f"{name} is not a {what} that can be read. Export it again.") from error


def recipe_from_json(text: str, name: str = "This recipe") -> RecipeFile:
    """Parse and check a recipe of format 1 or 2, or an effect. Raises RecipeProblem, AssetProblem."""
    data = parsed(text, name)
    if not isinstance(data, dict) or data.get("format") not in (FIRST, FORMAT, EFFECT_FORMAT):
        raise RecipeProblem(
            f'{name} is not a Lens Keep recipe: "format" must be "{FORMAT}", or "{EFFECT_FORMAT}" for an effect.'
        )
    is_effect = data["format"] == EFFECT_FORMAT
    try:
        plain, assets = upgraded(data) if data["format"] == FIRST else _apart(data, name)
        recipe = Effect.model_validate(plain).as_recipe() if is_effect else Recipe.model_validate(plain)
    except ValidationError as error:
        raise RecipeProblem(f"{name} can't be used: {validation_words(error, whole_place=True)}") from error
    except RecursionError as error:
        raise RecipeProblem(f"{name} is not a recipe that can be read. Export it again.") from error
    recipe = named_well(recipe)
    check_assets(recipe, assets, name)
    held = {key: data for key, data in assets.items() if key in recipe.assets()}
    return RecipeFile(recipe, held, "effect" if is_effect else "recipe")


def named_well(recipe: Recipe) -> Recipe:
    """A recipe that came in, with names that can be seen and mean what they show."""
    steps = [s.model_copy(update={"name": shown_name(s.name) or "Step"}) for s in recipe.steps]
    groups = {i: g.model_copy(update={"name": shown_name(g.name) or "Group"}) for i, g in recipe.groups.items()}
    regions = {i: r.model_copy(update={"name": shown_name(r.name) or "Region"}) for i, r in recipe.regions.items()}
    name, note = shown_name(recipe.name) or "Without a name", shown_text(recipe.note)
    return recipe.model_copy(update={"name": name, "note": note, "steps": steps, "groups": groups, "regions": regions})


def _apart(data: dict[str, Any], name: str) -> tuple[dict[str, Any], dict[str, bytes]]:
    """A file's plain data without its assets, and those."""
    assets = decoded(data.get("assets", {}), name)
    return {key: value for key, value in data.items() if key != "assets"}, assets


def decoded(held: Any, name: str) -> dict[str, bytes]:
    """The bytes that a file holds by their names. Raises RecipeProblem."""
    if not isinstance(held, dict) or not all(isinstance(text, str) for text in held.values()):
        raise RecipeProblem(f"{name} can't be used: assets: must hold named values.")
    try:
        return {str(key): base64.b64decode(text, validate=True) for key, text in held.items()}
    except (binascii.Error, ValueError) as error:
        raise RecipeProblem(f"{name} holds a picture or table that was altered. Export it again.") from error


def recipe_from_bytes(data: bytes, name: str = "This recipe") -> RecipeFile:
    """The same from a file's bytes. Raises RecipeProblem, AssetProblem."""
    try:
        return recipe_from_json(data.decode("utf-8-sig"), name)
    except UnicodeDecodeError as error:
        raise RecipeProblem(f"{name} is not text, so it is no recipe.") from error


def read_recipe(path: Path) -> RecipeFile:
    """Read a recipe file. Raises RecipeProblem, AssetProblem."""
    try:
        return recipe_from_bytes(path.read_bytes(), path.name)
    except OSError as error:
        raise RecipeProblem(f"{path.name} can't be read: {error.strerror}.") from error


def recipe_to_json(recipe: Recipe, assets: Mapping[str, bytes] | None = None) -> str:
    """A recipe file: readable, unless pictures and strokes make it long. Raises RecipeProblem when an asset is gone."""
    return _to_json(recipe, recipe, assets)


def effect_to_json(recipe: Recipe, assets: Mapping[str, bytes] | None = None) -> str:
    """An effect, which the book holds as a recipe of one step, as a file of its own format: without a region.

    Raises EditProblem when it is a recipe of several steps, RecipeProblem when an asset is gone.
    """
    return _to_json(effect_in(recipe), recipe, assets)


def _to_json(made: Recipe | Effect, recipe: Recipe, assets: Mapping[str, bytes] | None) -> str:
    held = assets or {}
    if lost := recipe.assets() - set(held):
        raise RecipeProblem(f"{len(lost)} of the pictures or tables of {recipe.name} are gone from the library.")
    data = made.model_dump(mode="json")
    if recipe.assets():
        data["assets"] = {key: base64.b64encode(held[key]).decode() for key in sorted(recipe.assets())}
    plain = json.dumps(data, ensure_ascii=False, separators=(",", ":"))
    if len(plain) > _LONG:
        return plain + "\n"
    return json.dumps(data, indent=2, ensure_ascii=False) + "\n"


def file_schema() -> dict[str, Any]:
    """The JSON Schema (2020-12) of a recipe file."""
    schema = recipe_schema()
    held = {"type": "object", "additionalProperties": {"type": "string", "contentEncoding": "base64"}}
    schema["properties"] = schema["properties"] | {"assets": held | {"title": "Assets", "default": {}}}
    return schema

"""Recipe files: JSON in and out, with errors that say where."""

import json
from pathlib import Path
from typing import NoReturn

from pydantic import ValidationError

from lenskeep.core.problems import UserProblem, validation_words
from lenskeep.core.recipes.models import FORMAT, MOST_BYTES, Recipe

_LONG = 200_000


class RecipeProblem(UserProblem):
    """A recipe file that can't be used; the message says where and why."""


def recipe_from_json(text: str, name: str = "This recipe") -> Recipe:
    """Parse and check a recipe. Raises RecipeProblem."""

    def no_number(word: str) -> NoReturn:
        raise RecipeProblem(f"{name} holds {word} where a number should be. Export it again.")

    if len(text) > MOST_BYTES:
        raise RecipeProblem(f"{name} is too large for a recipe: at most {MOST_BYTES // 1_000_000} MB are taken.")
    try:
        data = json.loads(text, parse_constant=no_number)
    except json.JSONDecodeError as error:
        raise RecipeProblem(f"{name} is not JSON: {error.msg} in line {error.lineno}.") from error
    except (RecursionError, ValueError) as error:  # nested beyond measure, or an integer of thousands of digits
        raise RecipeProblem(f"{name} is not a recipe that can be read. Export it again.") from error
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise RecipeProblem(f'{name} is not a Lens Keep recipe: "format" must be "{FORMAT}".')
    try:
        return Recipe.model_validate(data)
    except ValidationError as error:
        raise RecipeProblem(f"{name} can't be used: {validation_words(error, whole_place=True)}") from error
    except RecursionError as error:
        raise RecipeProblem(f"{name} is not a recipe that can be read. Export it again.") from error


def recipe_from_bytes(data: bytes, name: str = "This recipe") -> Recipe:
    """The same from a file's bytes. Raises RecipeProblem."""
    try:
        return recipe_from_json(data.decode("utf-8-sig"), name)
    except UnicodeDecodeError as error:
        raise RecipeProblem(f"{name} is not text, so it is no recipe.") from error


def read_recipe(path: Path) -> Recipe:
    """Read a recipe file. Raises RecipeProblem."""
    try:
        return recipe_from_bytes(path.read_bytes(), path.name)
    except OSError as error:
        raise RecipeProblem(f"{path.name} can't be read: {error.strerror}.") from error


def recipe_to_json(recipe: Recipe) -> str:
    """The recipe as JSON: readable, unless pictures and strokes make it long."""
    data = recipe.model_dump(mode="json")
    plain = json.dumps(data, ensure_ascii=False, separators=(",", ":"))
    if len(plain) > _LONG:
        return plain + "\n"
    return json.dumps(data, indent=2, ensure_ascii=False) + "\n"

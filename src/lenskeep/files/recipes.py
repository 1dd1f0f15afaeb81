"""Recipe files: JSON in and out, with errors that say where."""

import json
from pathlib import Path

from pydantic import ValidationError

from lenskeep.core.recipe import FORMAT, Recipe


class RecipeProblem(ValueError):
    """A recipe file that can't be used; the message says where and why."""


def recipe_from_json(text: str, name: str = "This recipe") -> Recipe:
    """Parse and check a recipe. Raises RecipeProblem."""
    try:
        data = json.loads(text)
    except json.JSONDecodeError as error:
        raise RecipeProblem(f"{name} is not JSON: {error.msg} in line {error.lineno}.") from error
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise RecipeProblem(f'{name} is not a Lens Keep recipe: "format" must be "{FORMAT}".')
    try:
        return Recipe.model_validate(data)
    except ValidationError as error:
        first = error.errors()[0]
        where = " → ".join(str(part) for part in first["loc"]) or "the file"
        raise RecipeProblem(f"{name} can't be used: {where}: {first['msg']}.") from error


def read_recipe(path: Path) -> Recipe:
    """Read a recipe file. Raises RecipeProblem."""
    try:
        return recipe_from_json(path.read_text("utf-8"), path.name)
    except (OSError, UnicodeDecodeError) as error:
        raise RecipeProblem(f"{path.name} can't be read: {error}.") from error


def recipe_to_json(recipe: Recipe) -> str:
    """The recipe as readable JSON."""
    return json.dumps(recipe.model_dump(mode="json"), indent=2, ensure_ascii=False) + "\n"

"""Recipes as they lie in the database: read lazily, so that one that can't be read harms nothing but itself."""

from dataclasses import dataclass
from functools import cached_property

from pydantic import ValidationError

from lenskeep.core.problems import UserProblem, validation_words
from lenskeep.core.recipes.models import MOST_BYTES, Recipe


class UnreadableRecipe(UserProblem):
    """A recipe in the library that can't be read; the message says why."""


def read_body(text: str) -> Recipe:
    """Raises UnreadableRecipe."""
    try:
        return Recipe.model_validate_json(text)
    except ValidationError as error:
        words = validation_words(error, whole_place=True)
        raise UnreadableRecipe(f"This recipe can't be read: {words[:1].lower()}{words[1:]}") from error


def body_of(recipe: Recipe) -> str:
    """The text of a recipe, read back before anybody relies on it. Raises UserProblem when it would be too long."""
    text = recipe.model_dump_json()
    if len(text) > MOST_BYTES:
        raise UserProblem(
            f"This recipe would be longer than {MOST_BYTES // 1_000_000} MB. Take out strokes or pictures first."
        )
    if read_body(text) != recipe:
        raise RuntimeError("a recipe does not read back as it was written")
    return text


@dataclass(frozen=True)
class Kept:
    """A recipe's text; ``recipe`` parses it when it is first asked for."""

    body: str

    @cached_property
    def recipe(self) -> Recipe:
        """Raises UnreadableRecipe."""
        return read_body(self.body)

    @cached_property
    def unreadable(self) -> str:
        """Why it can't be read; "" when it can."""
        try:
            _ = self.recipe
        except UnreadableRecipe as problem:
            return str(problem)
        return ""

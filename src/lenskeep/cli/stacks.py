"""Recipes and effects as the command line names them: files or ready ones, each maybe with its strength."""

import re
from dataclasses import dataclass
from pathlib import Path

from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.edit import checked
from lenskeep.core.recipes.effects import effect_in
from lenskeep.core.recipes.group_changes import limit_of
from lenskeep.core.recipes.layers import Layer
from lenskeep.core.recipes.models import Recipe
from lenskeep.files.recipes import RecipeFile, read_recipe
from lenskeep.studio.book import effects, starters

_STRENGTH = re.compile(r"^(.*)@(\d+(?:\.\d+)?)%?$")


@dataclass(frozen=True)
class Named:
    """What was asked for, as a title says it, as layers, and the assets it brings along."""

    title: str
    layers: list[Layer]
    assets: dict[str, bytes]


def stacked(names: list[str], effect: str | None = None, where: str = "whole", strength: float = 1.0) -> Named:
    """Recipes upon another in order, NAME or NAME@150%, and an effect above them where it should work. Raises
    UserProblem.
    """
    layers: list[Layer] = []
    assets: dict[str, bytes] = {}
    titles: list[str] = []
    for number, text in enumerate(names):
        name, own = _with_strength(text)
        recipe, held = _recipe(name)
        layers.append(Layer(recipe, f"l{number}", strength=own * strength))
        assets |= held
        titles.append(recipe.name + ("" if own == 1.0 else f" {round(100 * own)} %"))
    if effect is not None:
        name, own = _with_strength(effect)
        recipe, held = _effect(name, where)
        layers.append(Layer(recipe, "effect", strength=own * strength))
        assets |= held
        titles.append(recipe.name)
    if not layers:
        raise UserProblem("Say what to render with: --recipe, or --effect.")
    return Named(" + ".join(titles), layers, assets)


def _with_strength(text: str) -> tuple[str, float]:
    match = _STRENGTH.match(text)
    if match is None or Path(text).exists():
        return text, 1.0
    per_cent = float(match[2])
    if per_cent > 200:
        raise UserProblem(f"A strength goes to 200 %, not {match[2]} %.")
    return match[1], per_cent / 100.0


def _file(name: str) -> RecipeFile | None:
    path = Path(name)
    return read_recipe(path) if path.suffix.lower() == ".json" or path.exists() else None


def _recipe(name: str) -> tuple[Recipe, dict[str, bytes]]:
    if file := _file(name):
        return file.recipe, dict(file.assets)
    try:
        return starters.starter(name), {}
    except UserProblem as problem:
        raise UserProblem(f"“{name}” is neither a file nor a ready recipe.") from problem


def _effect(name: str, where: str) -> tuple[Recipe, dict[str, bytes]]:
    held: dict[str, bytes] = {}
    if file := _file(name):
        effect, held = effect_in(file.recipe), dict(file.assets)
    else:
        found = [e.effect for e in effects.ready() if e.effect.name.lower() == name.lower()]
        if not found:
            raise UserProblem(f"“{name}” is neither a file nor a ready effect.")
        effect = found[0]
    invert = where.startswith("not ")
    region = limit_of(where.removeprefix("not "), invert)
    return checked(Recipe, {"name": effect.name, "steps": [effect.as_step("effect", region)]}), held

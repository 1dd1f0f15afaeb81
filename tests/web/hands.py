"""Somebody at the Bench, over the wire."""

from lenskeep.core.recipes.models import Recipe
from lenskeep.store import frames
from lenskeep.studio.bench import draft as bench


def at_the_bench(visitor, shoot, *steps):
    bench.load(visitor.library, shoot, Recipe.model_validate({"name": "Hands", "steps": list(steps)}))
    return frames.frames(visitor.library.db, shoot)[0].id

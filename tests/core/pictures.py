"""Made-up pictures, and what steps make of them."""

import numpy as np
from PIL import Image

from lenskeep.core.plan import make_plan
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.render import compile_plan, render_rows
from lenskeep.files.reading.photo import Photo
from tools.made_up import frame_of, scene


def linear_scene(seed: int = 0) -> np.ndarray:
    return Photo(scene(seed=seed), None, Image.Exif(), None, "PNG").rows(0, 1000)


def adjusted(picture: np.ndarray, *adjustments: dict, **region: object) -> np.ndarray:
    step = {"id": "a", "adjustments": list(adjustments), "region": region}
    plan = make_plan(Recipe.model_validate({"steps": [step]}))
    return render_rows(compile_plan(plan, frame_of(picture)), picture.copy())


def luminance(picture: np.ndarray) -> np.ndarray:
    return picture @ np.array([0.2627, 0.6780, 0.0593], np.float32)


def rendered(picture, *steps):
    frame = frame_of(picture)
    recipe = Recipe.model_validate({"name": "A", "steps": [{"id": f"s{i}"} | s for i, s in enumerate(steps)]})
    return render_rows(compile_plan(make_plan(recipe), frame), picture.copy()), frame, recipe

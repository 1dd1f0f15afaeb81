"""One recipe with every kind of part, on frames as they are found: it renders on all, and says what a frame lacks."""

import cv2
import numpy as np
import pytest

from lenskeep.core.engine.planes import smaller
from lenskeep.core.plan import make_plan
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.regions import PART_KINDS, Found
from lenskeep.core.render import compile_plan, render_rows
from lenskeep.files.reading.photo import read_photo
from tests.core.parts import EVERY_PART
from tools.made_up import DEMO, found_on

RECIPE = Recipe.model_validate(EVERY_PART)


def rendered(linear: np.ndarray) -> tuple[np.ndarray, Found]:
    frame = found_on(linear)
    return render_rows(compile_plan(make_plan(RECIPE), frame), frame.proxy.copy()), frame.found


def frame(name: str) -> np.ndarray:
    return smaller(read_photo(DEMO / f"{name}.jpg").rows(0, 1 << 30), 1024)


def test_the_recipe_has_every_kind():
    kinds = {p.kind for s in RECIPE.steps for p in RECIPE.region_of(s).parts}
    assert kinds == set(PART_KINDS) and len(RECIPE.steps) == 8


@pytest.mark.parametrize("name", ["LKD_0107", "LKD_0124", "LKD_0212", "LKD_0236"])
def test_every_part_renders_on_demo_frames(name):
    linear = frame(name)
    out, found = rendered(linear)
    assert np.isfinite(out).all() and out.shape == linear.shape
    assert np.abs(out - linear).mean() > 0.002
    for step in RECIPE.steps:
        alpha = RECIPE.region_of(step).alpha(found)
        assert alpha.min() >= 0 and alpha.max() <= 1
    assert found.missing == {"No skin and face was found here; the step “Skin” ran without it."}


def test_a_frame_without_sky_and_one_without_a_subject_are_marked_not_broken():
    linear = frame("LKD_0201")
    ground = np.ascontiguousarray(linear[int(0.66 * linear.shape[0]) :])
    _, found = rendered(ground)
    assert any("No sky" in words and "left out" in words for words in found.missing)
    y = np.linspace(0.9, 0.3, 600, dtype=np.float32)[:, None, None]
    empty = np.broadcast_to(y * np.array([0.5, 0.7, 1.0], np.float32), (600, 900, 3))
    grain = np.random.default_rng(1).normal(0, 0.004, (600, 900, 1)).astype(np.float32)
    out, found = rendered(np.clip(empty + cv2.GaussianBlur(grain, (0, 0), 1)[..., None], 0, 1).astype(np.float32))
    assert found.facts.subject_box is None and np.isfinite(out).all()
    assert any("No subject" in words and "“Calm” was left out" in words for words in found.missing)

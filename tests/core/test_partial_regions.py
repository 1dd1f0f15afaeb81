"""A step on part of the frame is the step on the whole frame, mixed in by the region's alpha, and nothing elsewhere."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lenskeep.core.adjust import KINDS
from lenskeep.core.engine.run import run_stages
from lenskeep.core.plan import make_plan
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.render import compile_plan, region_alpha, render_rows
from lenskeep.core.types import Window
from tests.core.adjustments import strong
from tests.core.pictures import rendered
from tests.effort import examples
from tools.made_up import frame_of, scene


def linear_picture(height=90, width=140, seed=0):
    return ((scene(height, width, seed) / 255.0) ** 2.2).astype(np.float32)


@pytest.mark.parametrize("part", ["subject", "sky", "background", "ramp", "pool"])
@pytest.mark.parametrize("kind", sorted(KINDS.keys() - {"soften"}))  # which looks at its region
def test_every_adjustment_in_every_part(kind, part):
    picture = linear_picture()
    region = {"parts": [{"kind": part}]}
    partly, frame, recipe = rendered(picture, {"region": region, "adjustments": [strong(kind)], "strength": 0.8})
    wholly, *_ = rendered(picture, {"adjustments": [strong(kind)]})
    alpha = 0.8 * region_alpha(frame, recipe.steps[0].region)[..., None]
    assert np.abs(partly - (picture + alpha * (wholly - picture))).max() < 2e-3 * max(1.0, float(wholly.max()))
    outside = alpha[..., 0] == 0
    assert np.abs(partly[outside] - picture[outside]).max() < 1e-6
    reached = np.abs(wholly - picture)[alpha[..., 0] > 0.3].max()  # a vignette hardly touches the middle
    assert np.abs(partly - picture).max() >= 0.2 * reached


@settings(max_examples=examples(25))
@given(
    x=st.floats(-0.2, 1.2), y=st.floats(-0.2, 1.2), r=st.floats(0.02, 0.6), invert=st.booleans(), seed=st.integers(0, 9)
)
def test_a_pool_anywhere_even_outside_the_frame(x, y, r, invert, seed):
    picture = linear_picture(seed=seed)
    pool = {"kind": "pool", "x": x, "y": y, "rx": r, "ry": r, "invert": invert}
    step = {"region": {"parts": [pool]}, "adjustments": [{"kind": "exposure", "ev": 1.0}]}
    partly, frame, recipe = rendered(picture, step)
    alpha = region_alpha(frame, recipe.steps[0].region)[..., None]
    assert np.abs(partly - picture * (1 + alpha)).max() < 1e-4


def test_steps_one_after_another_each_see_the_one_below():
    picture = linear_picture()
    double = {"adjustments": [{"kind": "exposure", "ev": 1.0}]}
    subject = {"region": {"parts": [{"kind": "subject"}]}}
    _, frame, recipe = rendered(picture, double | subject)
    twice, *_ = rendered(picture, double | subject, double, double | subject)
    alpha = region_alpha(frame, recipe.steps[0].region)[..., None]
    assert np.abs(twice - picture * (1 + alpha) * 2 * (1 + alpha)).max() < 1e-3


def test_rows_and_strips_give_the_same_pixels():
    picture = linear_picture(97, 131)
    frame = frame_of(picture)
    steps = [
        {"id": "a", "region": {"parts": [{"kind": "subject"}]}, "adjustments": [strong("medium_detail")]},
        {"id": "b", "adjustments": [strong("vignette"), strong("contrast")]},
    ]
    program = compile_plan(make_plan(Recipe.model_validate({"name": "A", "steps": steps})), frame)
    whole = render_rows(program, picture.copy())
    parts = [run_stages(program, picture[a : a + 16].copy(), Window(a, 0, 97, 131)) for a in range(0, 97, 16)]
    assert np.array_equal(np.vstack(parts), whole)

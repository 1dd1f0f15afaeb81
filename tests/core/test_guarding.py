"""Which step of a look, or the frame's base, each fault of a finished picture is put down to."""

import numpy as np
import pytest

from lenskeep.core import guarding
from lenskeep.core.base.applied import with_base
from lenskeep.core.base.models import FrameBase
from lenskeep.core.engine.planes import smaller
from lenskeep.core.engine.run import guides_of
from lenskeep.core.guarding import BASE, judge, looked_at
from lenskeep.core.plan import make_plan
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.render import alpha_at, compile_steps, render_rows
from tests.core.pictures import linear_scene
from tools.made_up import frame_of


def judged(picture, *steps: dict, base: FrameBase | None = None, skin=None):
    """The verdict on a picture with these steps, named a, b, c …"""
    frame = frame_of(picture)
    if skin is not None:
        frame.found.masks["skin"] = skin
    if base is not None:
        frame = with_base(frame, base, curved=False)
    named = [{"id": "abcdef"[at], **step} for at, step in enumerate(steps)]
    plan = make_plan(Recipe.model_validate({"steps": named}))
    return judge(looked_at(frame, picture, compile_steps(plan, frame), plan))


def step(*adjustments: dict, **more: object) -> dict:
    return {"adjustments": list(adjustments), **more}


@pytest.mark.parametrize("order", [(0, 1, 2), (1, 0, 2), (2, 1, 0)])
def test_the_step_that_burns_out_is_to_blame_wherever_it_stands(order):
    steps = [step({"kind": "exposure", "ev": 4}), step({"kind": "exposure", "ev": 0.1}), step({"kind": "tint"})]
    causes = judged(linear_scene(), *(steps[at] for at in order)).causes
    assert causes["clipped"] == "abc"[order.index(0)]


def test_each_fault_has_its_own_cause():
    vivid = {"kind": "saturation", "saturation": 100}
    said = judged(linear_scene(), step(vivid), step(vivid), step({"kind": "exposure", "ev": 4}))
    assert said.causes["clipped"] == "c" and said.causes["neon"] in ("a", "b")


def test_what_the_base_does_is_the_bases_fault_and_no_steps():
    said = judged(linear_scene(), step({"kind": "tint"}), base=FrameBase(ev=4))
    assert said.causes["clipped"] == BASE
    both = judged(linear_scene(), step({"kind": "exposure", "ev": 4}), base=FrameBase(ev=0.1))
    assert both.causes["clipped"] == "a"


def test_what_was_so_before_the_look_is_nobodys_fault():
    white = np.full((240, 360, 3), 1.5, np.float32)
    said = judged(white, step({"kind": "exposure", "ev": 0.5}))
    assert said.before["clipped"] == said.figures["clipped"] == 100 and not said.causes


def test_a_seam_is_put_down_to_the_step_that_works_within_its_border():
    half = {"parts": [{"kind": "ramp", "x1": 0.498, "y1": 0.5, "x2": 0.502, "y2": 0.5}]}
    flat = np.full((240, 360, 3), 0.2, np.float32)
    lift = step({"kind": "exposure", "ev": 1.5}, region=half)
    said = judged(flat, step({"kind": "exposure", "ev": 0.5}), lift, step({"kind": "tint"}))
    assert said.causes["seam"] == "b"


@pytest.mark.parametrize("side", [7, 14, 60, 200])
def test_the_step_that_moves_skin_is_told_on_little_of_it_too(side):
    """Causes are told on a part of the pixels; a far face has few."""
    picture = linear_scene()
    skin = np.zeros(picture.shape[:2], np.float32)
    skin[:side, :side] = 1
    said = judged(picture, step({"kind": "exposure", "ev": 0.05}), step({"kind": "warmth", "mired": 100}), skin=skin)
    assert said.figures["skin"] > 5 and said.causes["skin"] == "b"


def test_causes_are_the_same_on_all_pixels_as_on_a_part_of_them(monkeypatch):
    """Over many looks, but for steps whose shares are all but alike."""
    kinds = [
        {"kind": "exposure", "ev": 2.5},
        {"kind": "saturation", "saturation": 90},
        {"kind": "warmth", "mired": 60},
        {"kind": "contrast", "contrast": 90},
        {"kind": "exposure", "ev": -4},
    ]
    picture, rng, asked = linear_scene(), np.random.default_rng(5), 0
    skin = np.zeros(picture.shape[:2], np.float32)
    skin[20:90, 30:120] = 1
    for _ in range(12):
        steps = [step(kinds[k]) for k in rng.permutation(len(kinds))[:3]]
        said = []
        for every in (1, 2):
            monkeypatch.setattr(guarding, "CAUSES_EVERY", every)
            said.append(judged(picture, *steps, skin=skin).causes)
        assert said[0] == said[1]
        asked += len(said[0])
    assert asked > 12, "there is something to be told"


def test_where_each_step_works_is_what_the_renderer_draws_at_the_size_looked_at():
    """Steps of one region share it; a brush is drawn at the size itself; a step for all of the frame has no border."""
    picture = linear_scene()
    frame = frame_of(picture)
    small = smaller(picture, max(picture.shape) // 3)
    stroke = {"kind": "brush", "strokes": [{"points": [[0.2, 0.5], [0.8, 0.5]], "size": 0.2, "hardness": 0.5}]}
    dark, ramp = {"kind": "exposure", "ev": -0.5}, {"parts": [{"kind": "ramp"}]}
    regions = [ramp, ramp, {"parts": [stroke]}, {"parts": []}, {"parts": [{"kind": "subject"}], "feather": 0.02}]
    steps = [{"id": "abcde"[at], **step(dark, region=region)} for at, region in enumerate(regions)]
    recipe = Recipe.model_validate({"steps": steps})
    plan = make_plan(recipe)
    looked = looked_at(frame, small, compile_steps(plan, frame), plan)
    assert looked.region("d") is None and looked.region("a") is looked.region("b")
    guides = guides_of(small)
    for name, region in zip("abce", [r for at, r in enumerate(recipe.steps) if at != 3], strict=True):
        np.testing.assert_allclose(looked.region(name), alpha_at(frame, guides, region.region), atol=1e-6)
    whole = render_rows(compile_steps(plan, frame).stages(), small.copy(), guides)
    np.testing.assert_allclose(looked.finished(), whole, atol=2e-4)

from itertools import cycle

import cv2
import numpy as np
import pytest

from lenskeep.core import render as render_module
from lenskeep.core.adjust import KINDS
from lenskeep.core.colour.oklab import delta_e
from lenskeep.core.engine.ops import Code, Op, fuse, matrix_op
from lenskeep.core.engine.planes import PROXY_SIDE
from lenskeep.core.engine.program import pack
from lenskeep.core.plan import make_plan
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.regions.contours import contour_paths, grey, tinted
from lenskeep.core.render import compile_plan, compile_steps, region_alpha, render, render_rows
from lenskeep.files.reading.photo import read_photo
from tests.core.adjustments import strong
from tests.core.pictures import linear_scene
from tools.made_up import DEMO, frame_of

EVERYTHING = Recipe.model_validate(
    {
        "steps": [
            {"id": "a", "adjustments": [{"kind": "contrast", "contrast": 20}, {"kind": "shadows", "shadows": 30}]},
            {
                "id": "b",
                "region": {"parts": [{"kind": "subject"}]},
                "adjustments": [{"kind": "exposure", "ev": 0.5}, {"kind": "medium_detail", "detail": 60}],
            },
            {
                "id": "c",
                "region": {"parts": [{"kind": "background"}, {"kind": "ramp", "combine": "only within", "y2": 0.9}]},
                "adjustments": [{"kind": "saturation", "saturation": -40}, {"kind": "haze", "haze": 20}],
            },
            {
                "id": "d",
                "region": {"parts": [{"kind": "sky"}]},
                "adjustments": [{"kind": "highlights", "highlights": -60}],
            },
            {"id": "e", "adjustments": [{"kind": "warmth", "mired": 8}, {"kind": "vignette", "ev": -0.7}]},
        ]
    }
)


def finished(recipe: Recipe, picture: np.ndarray, frame=None, threads: int = 1) -> np.ndarray:
    frame = frame or frame_of(picture)
    program = compile_plan(make_plan(recipe), frame)
    return render(program, lambda a, b: picture[a:b].copy(), *picture.shape[:2], threads)


EVERY_KIND = Recipe.model_validate(
    {
        "steps": [
            {"id": f"s{i}", "adjustments": [strong(kind)], "strength": 0.5, "region": {"parts": [{"kind": part}]}}
            for i, (kind, part) in enumerate(zip(KINDS, cycle(["subject", "background", "sky", "pool"]), strict=False))
        ]
    }
)


@pytest.mark.parametrize("recipe", [EVERYTHING, EVERY_KIND], ids=["five steps", "every adjustment"])
def test_strips_leave_no_seam_and_threads_change_nothing(monkeypatch, recipe):
    picture = linear_scene()
    whole = finished(recipe, picture)
    for rows in (7, 40, 113):
        monkeypatch.setattr(render_module, "STRIP_ROWS", rows)
        assert np.array_equal(finished(recipe, picture), whole), rows
    assert np.array_equal(finished(recipe, picture, threads=3), whole)


def test_a_step_cut_by_a_neighbourhood_operation_still_blends_with_what_was_below():
    picture = linear_scene()
    region = {"parts": [{"kind": "subject"}]}
    cut = {"id": "a", "region": region, "adjustments": [strong("exposure"), strong("sharpen"), strong("tint")]}
    whole = {"id": "a", "adjustments": cut["adjustments"]}
    frame = frame_of(picture)
    partly, wholly = (
        render_rows(compile_plan(make_plan(Recipe.model_validate({"steps": [s]})), frame), picture.copy())
        for s in (cut, whole)
    )
    alpha = region_alpha(frame, Recipe.model_validate({"steps": [cut]}).steps[0].region)[..., None]
    assert np.abs(partly - (picture + alpha * (wholly - picture))).max() < 2e-3


def test_steps_can_be_rendered_on_top_of_what_lies_below_them():
    picture = linear_scene()
    frame = frame_of(picture)
    compiled = compile_steps(make_plan(EVERY_KIND), frame)
    whole = render_rows(compiled.stages(), picture.copy())
    for first in (1, 9, 20):
        base = render_rows(compiled.stages(0, first), picture.copy())
        np.testing.assert_allclose(render_rows(compiled.stages(first), base, frame.guide), whole, atol=2e-3)


@pytest.mark.parametrize("recipe", [EVERYTHING, EVERY_KIND], ids=["five steps", "every adjustment"])
def test_preview_and_delivery_agree(recipe):
    photo = read_photo(DEMO / "LKD_0201.jpg")
    full, preview = photo.rows(0, photo.height), photo.reduced(1100)
    frame = frame_of(photo.reduced(PROXY_SIDE))
    program = compile_plan(make_plan(recipe), frame)
    large, small = render_rows(program, full), render_rows(program, preview)
    reduced = cv2.resize(large, small.shape[1::-1], interpolation=cv2.INTER_AREA)
    assert float(delta_e(reduced, small).mean()) <= 0.005


def test_a_masked_step_leaves_what_lies_outside_untouched():
    picture = linear_scene()
    step = {"id": "a", "region": {"parts": [{"kind": "subject"}]}, "adjustments": [{"kind": "exposure", "ev": 1}]}
    frame = frame_of(picture)
    program = compile_plan(make_plan(Recipe.model_validate({"steps": [step]})), frame)
    out = render_rows(program, picture.copy())
    far = frame.found.subject < 0.01
    far = cv2.erode(far.astype(np.uint8), np.ones((9, 9), np.uint8)) > 0
    np.testing.assert_allclose(out[far], picture[far], rtol=2e-3, atol=1e-4)
    inside = frame.found.subject > 0.99
    assert np.median(out[inside] / picture[inside]) == pytest.approx(2.0, rel=0.05)


def test_order_matters_and_each_step_sees_what_is_below():
    picture = linear_scene()
    steps = [
        {"id": "a", "adjustments": [{"kind": "exposure", "ev": 2}]},
        {"id": "b", "adjustments": [{"kind": "highlights", "highlights": -100}]},
    ]
    one = finished(Recipe.model_validate({"steps": steps}), picture)
    other = finished(Recipe.model_validate({"steps": steps[::-1]}), picture)
    assert np.abs(one.astype(int) - other).mean() > 4


def test_what_was_kept_gives_the_same_picture_as_a_fresh_start():
    picture = linear_scene()
    frame = frame_of(picture)
    first = finished(EVERYTHING, picture, frame)
    changed = Recipe.model_validate(EVERYTHING.model_dump() | {"strength": 0.6})
    between = finished(changed, picture, frame)
    assert np.array_equal(finished(EVERYTHING, picture, frame), first)
    assert np.array_equal(finished(changed, picture), between)
    assert not np.array_equal(first, between)


def test_matrices_fuse_and_planes_must_agree_in_size():
    fused = fuse([matrix_op(np.eye(3) * 2), matrix_op(np.eye(3) * 3), Op(Code.BELOW)])
    assert len(fused) == 2 and fused[0].params[0] == pytest.approx(6.0)
    a, b = np.zeros((4, 4), np.float32), np.zeros((5, 4), np.float32)
    with pytest.raises(ValueError, match="one proxy size"):
        pack([Op(Code.BLEND, (1.0,), (a, b))])


def test_an_empty_plan_gives_the_original_to_the_bit():
    photo = read_photo(DEMO / "LKD_0113.jpg")
    frame = frame_of(photo.reduced(PROXY_SIDE))
    out = render(compile_plan(make_plan(Recipe()), frame), photo.rows, photo.height, photo.width)
    assert np.array_equal(out, photo.pixels)


def test_a_region_can_be_seen_as_contours_tint_and_grey():
    picture = linear_scene()
    frame = frame_of(picture)
    recipe = Recipe.model_validate({"steps": [{"id": "a", "region": {"parts": [{"kind": "subject"}]}}]})
    region = recipe.step("a").region
    alpha = region_alpha(frame, region)
    paths = contour_paths(alpha)
    assert set(paths) == {"10", "50", "90"} and all(p.startswith("M") for p in paths.values())
    mask = grey(alpha, 240, 360)
    assert mask[144, 180, 0] > 240 and mask[5, 5, 0] < 15
    base = np.full((240, 360, 3), 100, np.uint8)
    washed = tinted(base, alpha, (230, 159, 0))
    assert washed[144, 180, 0] > 150 and (washed[5, 5] == 100).all()

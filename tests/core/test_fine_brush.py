"""A brush is as sharp in the file as it was painted: strokes become alpha at the size rendered."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lenskeep.core.engine.planes import smaller
from lenskeep.core.plan import make_plan
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.render import compile_plan, region_alpha, render_rows
from lenskeep.core.types import Window
from tests.effort import examples
from tools.made_up import frame_of

PROXY = 256
LINE = {"points": [[0.2, 0.5], [0.8, 0.5]], "size": 0.2, "hardness": 1.0, "flow": 1.0}


def recipe(*parts, ev=1.0, **region):
    step = {"id": "s", "name": "S", "region": {"parts": list(parts), **region}}
    return Recipe.model_validate({"steps": [{**step, "adjustments": [{"kind": "exposure", "ev": ev}]}]})


def brush(*strokes, **values):
    return {"kind": "brush", "steadiness": 0, "strokes": list(strokes), **values}


def flat(height, width, value=0.2):
    return np.full((height, width, 3), value, np.float32)


def alpha_at_size(look, picture):
    """What the renderer mixes in at the picture's size, from a lift of one stop."""
    frame = frame_of(smaller(picture, PROXY))
    out = render_rows(compile_plan(make_plan(look), frame), picture.copy())
    return (out / picture - 1)[..., 1]


def border(alpha, x):
    """How many rows the upper border of a stroke takes, from 10 to 90 %."""
    column = alpha[: alpha.shape[0] // 2, x]
    return int(((column > 0.1) & (column < 0.9)).sum())


def test_a_hard_brush_has_a_border_of_a_pixel_or_two_at_any_size():
    for scale in (1, 3, 6):
        alpha = alpha_at_size(recipe(brush(LINE)), flat(PROXY * scale * 2 // 3, PROXY * scale))
        assert border(alpha, alpha.shape[1] // 2) <= 2, scale
        assert alpha[alpha.shape[0] // 2, alpha.shape[1] // 2] == pytest.approx(1, abs=0.01)


def test_a_soft_brush_is_as_soft_in_shares_of_the_frame_at_any_size():
    look = recipe(brush({**LINE, "hardness": 0.2}))
    small, large = (alpha_at_size(look, flat(168 * s, PROXY * s)) for s in (1, 6))
    reduced = smaller(np.repeat(large[..., None], 3, 2), PROXY)[..., 0]
    assert np.abs(reduced - small).mean() < 0.003 and np.abs(reduced - small).max() < 0.08


@given(
    first=st.integers(1, 199),
    hardness=st.sampled_from([0.0, 0.4, 1.0]),
    aware=st.booleans(),
    erase=st.booleans(),
)
@settings(max_examples=examples(20))
def test_strips_leave_no_seam(first, hardness, aware, erase):
    picture = np.random.default_rng(3).uniform(0.1, 0.4, (200, 300, 3)).astype(np.float32)
    frame = frame_of(smaller(picture, 100))
    strokes = [{**LINE, "hardness": hardness, "edge_aware": aware, "points": [[0.2, 0.4], [0.7, 0.7]]}]
    strokes += [{**LINE, "size": 0.05, "erase": erase}]
    stages = compile_plan(make_plan(recipe(brush(*strokes))), frame)
    whole = render_rows(stages, picture.copy())
    from lenskeep.core.engine.run import run_stages

    parts = [run_stages(stages, picture[a:b].copy(), Window(a, 0, 200, 300)) for a, b in ((0, first), (first, 200))]
    assert np.allclose(np.concatenate(parts), whole, atol=2e-5)


def rough_scene(height, width):
    """Two halves of unlike brightness that meet in a straight line at 60 % of the width."""
    out = flat(height, width, 0.08)
    out[:, int(0.6 * width) :] = 0.5
    return out


def test_a_stroke_that_stops_at_edges_stops_at_the_large_pictures_edge():
    stroke = {**LINE, "points": [[0.3, 0.5], [0.55, 0.5]], "size": 0.3, "edge_aware": True, "hardness": 0.8}
    picture = rough_scene(PROXY * 4 * 2 // 3, PROXY * 4)
    alpha = alpha_at_size(recipe(brush(stroke)), picture)
    middle, edge = alpha.shape[0] // 2, int(0.6 * alpha.shape[1])
    assert alpha[middle, edge - 3] > 0.8 and alpha[middle, edge + 3] < 0.1


PARTS = {
    "added to the subject": ({"kind": "subject"}, brush(LINE)),
    "taken from the subject": ({"kind": "subject"}, brush(LINE, combine="take away")),
    "a limit": ({"kind": "background"}, brush(LINE, combine="only within")),
    "before a ramp": (brush(LINE), {"kind": "ramp", "combine": "only within"}),
    "inverted": ({"kind": "subject"}, brush(LINE, combine="take away", invert=True)),
    "two of them": (brush(LINE), brush({**LINE, "points": [[0.5, 0.2], [0.5, 0.8]]})),
}


@pytest.mark.parametrize("parts", PARTS.values(), ids=PARTS)
@pytest.mark.parametrize("region", [{}, {"invert": True}, {"ceiling": 0.6}], ids=["plain", "inverted", "held"])
def test_it_is_combined_as_the_region_says(parts, region):
    """At proxy size it agrees with the region's own alpha, but for the softness that this has at borders."""
    look = recipe(*parts, **region)
    picture = flat(170, 255)
    frame = frame_of(picture)
    expected = region_alpha(frame, look.steps[0].region)
    got = alpha_at_size(look, picture)
    assert np.abs(got - expected).mean() < 0.012


def test_a_region_grown_snapped_or_feathered_as_a_whole_is_as_it_was():
    feathered = alpha_at_size(recipe(brush(LINE), feather=0.05), flat(340, 510))
    assert border(feathered, 255) > 12


def test_a_group_limits_it():
    from lenskeep.core.regions import Region
    from lenskeep.core.render import blend_planes

    frame = frame_of(flat(120, 180))
    own = Region.model_validate({"parts": [brush(LINE)]})
    limit = Region.model_validate({"parts": [{"kind": "subject"}]})
    planes, fine = blend_planes(frame, own, limit)
    without, whole = (np.clip(planes[k] * frame.guide + planes[k + 1], 0, 1) for k in (0, 2))
    assert fine is not None and without.max() < 0.01
    assert np.abs(whole - frame.found.subject).mean() < 0.02


def test_only_looks_with_a_brush_have_new_keys():
    """What was finished without one stays finished: its key is what it was in the first version."""
    plain, painted = recipe({"kind": "subject"}), recipe(brush(LINE))
    assert make_plan(plain).key() == "601e1767cc6b8b35f332d1841973937e"
    assert make_plan(painted).key() != make_plan(recipe(brush({**LINE, "size": 0.3}))).key()

"""Planes at the picture's size: the same values whether looked up or held, and no column missed that is not 0."""

from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lenskeep.core.engine.kernel.borrowed import lent_planes
from lenskeep.core.engine.kernel.planerows import columns_of, live_columns, plane_row
from lenskeep.core.engine.planes import smaller
from lenskeep.core.engine.run import run_stages
from lenskeep.core.plan import make_plan
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.render import compile_plan, compile_steps, render
from lenskeep.core.types import Window
from tests.effort import examples
from tools.made_up import frame_of, scene

PLANES = np.random.default_rng(2).uniform(-1, 1, (2, 9, 14)).astype(np.float32)


def places(first, count, full_width, width):
    left, right, across = np.empty(count, np.uint32), np.empty(count, np.uint32), np.empty(count, np.float32)
    columns_of(first, full_width, width, left, right, across, count)
    return left, right, across


def read(planes, k, y, height, where, spread, line=True):
    """Row ``y`` of a picture so high, by way of rows held or looked up."""
    left, right, across = where
    n = len(left)
    at = np.float32(min(max((y + 0.5) / height * planes.shape[1] - 0.5, 0.0), planes.shape[1] - 1))
    held = np.empty((len(planes) if spread else 0, 2, n), np.float32)
    held_row = np.full((len(planes) if spread else 0, 2), -1, np.int32)
    out = np.empty(n, np.float32)
    line = np.empty(planes.shape[2] if line else 0, np.float32)
    top, lent = int(at), lent_planes(list(planes))
    plane_row(lent, k, top, np.float32(at - top), line, left, right, across, held, held_row, 0, n, -1, out)
    return out


def bilinear(plane, y, height, xs, width):
    """NumPy's own interpolation, first down and then across."""
    h, w = plane.shape
    at = np.clip((y + 0.5) / height * h - 0.5, 0, h - 1)
    line = np.array([np.interp(at, np.arange(h), column) for column in plane.T])
    return np.interp(np.clip((xs + 0.5) / width * w - 0.5, 0, w - 1), np.arange(w), line)


@settings(max_examples=examples(60))
@given(st.integers(0, 1), st.integers(0, 59), st.integers(0, 90), st.integers(1, 60), st.booleans(), st.booleans())
def test_a_plane_is_read_bilinearly_looked_up_or_held(k, y, first, count, spread, line):
    got = read(PLANES, k, y, 60, places(first, count, 150, 14), spread, line)
    assert got == pytest.approx(bilinear(PLANES[k], y, 60, first + np.arange(count), 150), abs=2e-6)


def test_rows_held_from_above_serve_the_rows_below():
    where = places(0, 150, 150, 14)
    held, held_row = np.empty((2, 2, 150), np.float32), np.full((2, 2), -1, np.int32)
    line, out, lent = np.empty(14, np.float32), np.empty(150, np.float32), lent_planes(list(PLANES))
    for y in [*range(60), 3, 41]:  # down the picture, and then back, as a strip begun anew would
        at = np.float32(min(max((y + 0.5) / 60 * 9 - 0.5, 0.0), 8.0))
        plane_row(lent, 1, int(at), np.float32(at - int(at)), line, *where, held, held_row, 20, 130, -1, out[20:130])
        assert np.array_equal(out[20:130], read(PLANES, 1, y, 60, where, True)[20:130])


def test_planes_of_the_pictures_own_size_are_read_as_they_are():
    """In strips and cuts as well; planes of twice the size, that hold the same, are looked up to the same end."""
    picture = np.asarray(scene(60, 90, seed=4) / np.float32(255.0), np.float32)
    steps = [
        {"id": "a", "region": {"parts": [{"kind": "ramp"}]}, "adjustments": [{"kind": "exposure", "ev": 1}]},
        {"id": "b", "region": {"parts": [{"kind": "pool"}]}, "adjustments": [{"kind": "medium_detail", "detail": 60}]},
    ]
    frame = frame_of(picture)
    compiled = compile_steps(make_plan(Recipe.model_validate({"steps": steps})), frame)
    planes = {id(p): p for ops in compiled.steps for op in ops for p in op.planes}
    assert {p.shape for p in planes.values()} == {(60, 90)}
    whole = run_stages(compiled.stages(), picture.copy(), Window(0, 0, 60, 90), frame.guide)
    for top, left, bottom, right in ((0, 0, 7, 90), (31, 0, 60, 90), (10, 64, 50, 90)):
        block = picture[top:bottom, left:right].copy()
        guides = np.ascontiguousarray(frame.guide[top:bottom, left:right])
        part = run_stages(compiled.stages(), block, Window(top, left, 60, 90), guides)
        np.testing.assert_allclose(part, whole[top:bottom, left:right], atol=1e-6)
    doubled = compiled.at_size(lambda plane: np.repeat(np.repeat(plane, 2, 0), 2, 1))
    looked_up = run_stages(doubled.stages(), picture.copy(), Window(0, 0, 60, 90), frame.guide)
    np.testing.assert_allclose(looked_up, whole, atol=1e-5)


@settings(max_examples=examples(80))
@given(
    st.lists(st.tuples(st.integers(0, 1), st.integers(0, 8), st.integers(0, 13)), max_size=4),
    st.integers(0, 8),
    st.integers(0, 120),
    st.integers(1, 30),
)
def test_where_a_region_may_be_holds_every_column_that_is_not_0(spots, top, first, count):
    planes = np.zeros((2, 9, 14), np.float32)
    for k, y, x in spots:
        planes[k, y, x] = -0.5 if k else 1e-30
    where = places(first, count, 150, 14)
    live, which = np.full((2, 3), -1, np.int32), np.array([0, 1, -1, -1], np.int32)
    lo, hi = live_columns(lent_planes(list(planes)), which, top, where[0], where[1], live, count)
    low = min(top + 1, 8)
    reached = [bool(planes[:, [top, low]][..., [a, b]].any()) for a, b in zip(where[0], where[1], strict=True)]
    assert not any(reached[:lo]) and not any(reached[hi:])
    if hi:
        assert reached[lo] and reached[hi - 1], "and no more than that"
    else:
        assert not any(reached)


def test_arrays_that_are_lent_outlive_the_call_among_threads():
    """Rows are lent to the kernel uncounted; with many small programs at once none may be let go too soon."""
    picture = np.ascontiguousarray((scene(90, 2300, seed=5) / np.float32(255.0)) ** 2.2, np.float32)
    brighter = {"kind": "exposure", "ev": 0.4}
    steps = [
        {"id": kind, "name": kind, "region": {"parts": [{"kind": kind}]}, "adjustments": [brighter]}
        for kind in ("subject", "sky", "background")
    ]
    stages = compile_plan(
        make_plan(Recipe.model_validate({"name": "x", "steps": steps})), frame_of(smaller(picture, 300))
    )

    def made(_):
        return render(stages, lambda a, b: picture[a:b].copy(), *picture.shape[:2])

    first = made(0)
    with ThreadPoolExecutor(4) as pool:
        assert all(np.array_equal(first, other) for other in pool.map(made, range(40)))

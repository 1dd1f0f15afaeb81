"""Grow and shrink, snap, what is missing on a frame, and what the renderer does about it."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lenskeep.core.plan import make_plan
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.regions.shaping import feathered, grown, snapped
from lenskeep.core.render import compile_plan, render_rows
from tests.core.parts import PARTS, found, region
from tools.made_up import frame_of


@given(radius=st.floats(1, 15))
def test_growing_moves_a_border_by_so_many_pixels_and_shrinking_takes_it_back(radius):
    y, x = np.mgrid[:120, :120]
    disc = np.clip(30.5 - np.hypot(x - 60, y - 60), 0, 1).astype(np.float32)
    out = grown(disc, radius)
    assert np.sqrt(out.sum() / np.pi) == pytest.approx(30 + radius, abs=0.7)
    back = grown(out, -radius)
    assert np.sqrt(back.sum() / np.pi) == pytest.approx(30, abs=0.7)
    assert (out >= disc - 1e-6).all()


def test_growing_keeps_a_soft_border_soft_and_an_even_mask_as_it_is():
    ramp = np.tile(np.linspace(1, 0, 100, dtype=np.float32), (40, 1))
    out = grown(ramp, 10)
    assert np.abs(out[:, 15:85] - np.minimum(ramp[:, 5:75] + 0.0, 1)).mean() < 0.03
    np.testing.assert_allclose(grown(np.full((9, 9), 0.4, np.float32), 3), 0.4, atol=0.07)


@given(st.floats(0.4, 12))
def test_feathering_softens_a_border_and_knows_no_border_where_the_frame_ends(sigma):
    np.testing.assert_allclose(feathered(np.ones((40, 60), np.float32), sigma), 1.0, atol=1e-5)
    half = np.zeros((60, 60), np.float32)
    half[:, 30:] = 1
    soft = feathered(half, sigma)
    assert (np.diff(soft, axis=1) >= -1e-6).all()
    np.testing.assert_allclose(soft + soft[:, ::-1], 1.0, atol=1e-4)  # the border stays where it is


def test_snapping_draws_a_border_to_the_pictures_edge():
    f = found(200, 300)
    f.picture[:] = 0.05
    f.picture[:, 150:] = 0.6
    rough = np.zeros((200, 300), np.float32)
    rough[:, 154:] = 1
    out = snapped(rough, f, 1.0)
    assert np.abs(out[:, :148]).mean() < np.abs(rough[:, 150:154] - 1).mean()
    assert out[100, 152] > 0.5 and out[100, 146] < 0.2
    assert np.array_equal(snapped(rough, f, 0.0), rough)


LOST = {"subject_box": None, "skyline": None, "areas": {}, "pieces": []}


@pytest.mark.parametrize(
    ("parts", "words", "holds"),
    [
        ([PARTS["background"]], ["subject"], False),
        ([PARTS["pool"]], ["subject"], False),
        ([PARTS["ramp"]], ["skyline"], False),
        ([PARTS["skin"]], ["skin"], False),
        ([{"kind": "sky"}, {**PARTS["pool"], "combine": "take away"}], [], True),
        ([{"kind": "sky"}, {**PARTS["background"], "combine": "add"}], ["subject"], True),
        ([{"kind": "sky"}, {**PARTS["ramp"], "combine": "only within"}], ["skyline"], False),
    ],
)
def test_a_region_tells_what_the_frame_lacks_and_whether_it_still_means_something(parts, words, holds):
    f, r = found(**LOST), region(*parts)
    assert r.lost(f) == words and r.holds(f) is holds


def look(fallback, *parts):
    step = {
        "id": "a",
        "name": "Lift",
        "region": {"parts": list(parts)},
        "fallback": fallback,
        "adjustments": [{"kind": "exposure", "ev": 1}],
    }
    return make_plan(Recipe.model_validate({"steps": [step]}))


def test_a_step_without_its_subject_is_left_out_or_uses_the_frame_as_it_says():
    picture = np.full((60, 90, 3), 0.2, np.float32)
    frame = frame_of(picture, subject_box=None)
    out = render_rows(compile_plan(look("leave the step out", {"kind": "subject"}), frame), picture.copy())
    np.testing.assert_array_equal(out, picture)
    assert frame.found.missing == {"No subject was found here; the step “Lift” was left out."}
    frame = frame_of(picture, subject_box=None)
    out = render_rows(compile_plan(look("use the frame", {"kind": "subject"}), frame), picture.copy())
    np.testing.assert_allclose(out, 0.4, rtol=1e-3)
    assert frame.found.missing == {"No subject was found here; the step “Lift” ran without it."}


def test_a_part_that_is_only_taken_away_is_not_missed():
    picture = np.full((60, 90, 3), 0.2, np.float32)
    frame = frame_of(picture, subject_box=None)
    plan = look("leave the step out", {"kind": "sky"}, {"kind": "subject", "combine": "take away"})
    out = render_rows(compile_plan(plan, frame), picture.copy())
    assert out[5, 45, 0] == pytest.approx(0.4, rel=0.01) and frame.found.missing == set()

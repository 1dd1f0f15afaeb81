"""A frame's base: neutral changes nothing, a stop is a stop of the camera, and every step sees what it leaves."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from lenskeep.core.base.applied import light_ops, rebased, with_base
from lenskeep.core.base.curve import bent, light_under, unbent
from lenskeep.core.base.models import AS_IT_CAME, FrameBase
from lenskeep.core.colour.adapt import balance_matrix
from lenskeep.core.colour.oklab import to_oklab
from lenskeep.core.colour.spaces import REC2020_TO_SRGB, SRGB_TO_REC2020
from lenskeep.core.engine.ops import fuse
from lenskeep.core.engine.program import staged
from lenskeep.core.engine.run import run_stages
from lenskeep.core.plan import Plan, make_plan
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.recipes.overrides import FrameOverride
from lenskeep.core.render import compile_plan, compile_steps, render_rows
from lenskeep.core.types import Window
from tools.made_up import frame_of

DRAWN = np.random.default_rng(4).uniform(0.002, 0.9, (24, 40, 3)).astype(np.float32)
PIXELS = np.asarray(DRAWN @ SRGB_TO_REC2020.T, np.float32)


def ran(ops, picture):
    out = np.ascontiguousarray(picture, np.float32).copy()
    return run_stages(staged(fuse(ops)), out, Window(0, 0, *out.shape[:2]))


@given(st.floats(1e-4, 1.0))
def test_the_curve_and_the_way_back_undo_each_other(light):
    assert float(unbent(bent(np.float32(light)))) == pytest.approx(light, rel=2e-3, abs=1e-5)


def test_the_curve_rises_from_black_to_white():
    drawn = bent(np.linspace(0, 1, 400, dtype=np.float32))
    assert drawn[0] == 0 and drawn[-1] == pytest.approx(1.0) and (np.diff(drawn) > 0).all()
    assert float(bent(np.float32(3.0))) == 1.0, "more light than white is white"


@given(st.floats(-2, 2), st.floats(-40, 40), st.floats(-12, 12))
def test_a_base_and_its_opposite_bring_back_what_was_not_burnt(ev, mired, duv):
    there = FrameBase(ev=ev, mired=mired, duv=duv)
    once = ran(light_ops(there, True), PIXELS)
    back = np.linalg.inv(balance_matrix(ev, mired, duv))
    # the opposite in the light under the curve, as exactly as tables of 512 entries hold it
    light = (light_under(once) @ back.T.astype(np.float32)) @ REC2020_TO_SRGB.T.astype(np.float32)
    once = once @ REC2020_TO_SRGB.T.astype(np.float32)
    kept = ((once < 0.9) & (once > 1e-3) & (light > 0)).all(-1)
    assert np.abs(bent(np.clip(light, 0, 1)) - DRAWN)[kept].max() < 6e-3


def test_raw_files_take_a_stop_as_twice_the_light():
    assert np.allclose(ran(light_ops(FrameBase(ev=1.0), False), PIXELS), PIXELS * 2, rtol=1e-5)


def test_under_the_curve_shadows_gain_more_than_highlights():
    grey = np.array([[[0.03] * 3, [0.7] * 3]], np.float32)
    out = ran(light_ops(FrameBase(ev=1.0), True), grey)[0, :, 0] / grey[0, :, 0]
    assert out[0] > 2.0 > out[1] > 1.0


def test_white_stays_white_whatever_is_given_to_it():
    white = np.ones((1, 4, 3), np.float32)
    assert ran(light_ops(FrameBase(ev=3.0), True), white).max() <= 1.0 + 1e-4
    warm = ran(light_ops(FrameBase(ev=3.0, mired=60), True), white)
    assert warm.min() > 0.98, "burnt light stays white as a camera draws it"


def test_tables_and_the_way_through_the_matrix_agree():
    plain = ran(light_ops(FrameBase(ev=0.7), True), PIXELS)
    turned = ran(light_ops(FrameBase(ev=0.7, mired=1e-6), True), PIXELS)
    assert np.abs(plain - turned).max() < 2e-3


def test_nothing_is_done_where_nothing_is_set():
    frame = frame_of(PIXELS)
    assert with_base(frame, AS_IT_CAME, True) is frame
    assert AS_IT_CAME.key() == "" and AS_IT_CAME.words() == "as it came" and light_ops(AS_IT_CAME, True) == []
    assert FrameOverride().key() == "" and FrameOverride().is_neutral


def test_steps_see_what_the_base_leaves():
    """A step on tones works where they lie after the base, and wide filters look at it."""
    picture = np.full((40, 60, 3), 0.05, np.float32)
    picture[:, 30:] = 0.3
    look = Recipe.model_validate(
        {
            "steps": [
                {
                    "id": "a",
                    "region": {"parts": [{"kind": "tone_range", "low": 70, "high": 100, "soft_low": 1}]},
                    "adjustments": [{"kind": "saturation", "saturation": -50}, {"kind": "exposure", "ev": -1}],
                }
            ]
        }
    )
    plain, brighter = frame_of(picture), with_base(frame_of(picture), FrameBase(ev=1.5), True)
    untouched = render_rows(compile_plan(make_plan(look), plain), picture.copy())
    assert np.allclose(untouched[:, :25], 0.05, atol=2e-3) and np.allclose(untouched[:, 40:], 0.3, atol=0.1)
    based = render_rows(compile_plan(Plan(()), brighter), picture.copy())
    done = render_rows(compile_plan(make_plan(look), brighter), picture.copy())
    assert done[20, 50, 0] == pytest.approx(based[20, 50, 0] / 2, rel=0.03), "bright after the base, so in the region"
    assert np.allclose(done[:, :20], based[:, :20], atol=2e-3)


def test_steps_from_the_base_are_the_whole_from_the_picture():
    base = FrameBase(ev=-0.6, mired=12, highlights=-40, shadows=30)
    frame = with_base(frame_of(PIXELS), base, True)
    look = Recipe.model_validate({"steps": [{"id": "a", "adjustments": [{"kind": "contrast", "contrast": 30}]}]})
    whole = render_rows(compile_plan(make_plan(look), frame), PIXELS.copy())
    steps = render_rows(compile_steps(make_plan(look), frame).stages(), frame.proxy.copy())
    assert np.abs(to_oklab(whole) - to_oklab(steps)).max() < 1e-3


def test_another_base_takes_the_place_of_the_first():
    first = with_base(frame_of(PIXELS), FrameBase(ev=2.0), True)
    again = rebased(first, FrameBase(ev=-0.5), True)
    fresh = with_base(frame_of(PIXELS), FrameBase(ev=-0.5), True)
    assert np.array_equal(again.proxy, fresh.proxy) and np.array_equal(again.untouched, PIXELS)
    assert rebased(first, AS_IT_CAME, True).base == ()


@pytest.mark.parametrize("wrong", [{"ev": 4.5}, {"ev": float("nan")}, {"mired": -101}, {"gamma": 1}])
def test_what_no_base_can_be_is_refused(wrong):
    with pytest.raises(ValidationError):
        FrameBase.model_validate(wrong)


def test_words_and_rounding():
    base = FrameBase(ev=0.30001, mired=-4.2, shadows=12.4).held()
    assert base == FrameBase(ev=0.3, mired=-4, shadows=12)
    assert base.words() == "exposure +0.30 EV, warmth −4 mired, shadows +12 %"
    assert FrameBase(ev=-0.001).held() == AS_IT_CAME and FrameBase(ev=-0.001).held().ev == 0.0

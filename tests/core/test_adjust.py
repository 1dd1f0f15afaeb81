"""What each adjustment does to a picture, through the same path as a delivery."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lenskeep.core.adjust import KINDS
from lenskeep.core.colour.oklab import to_oklab
from tests.core.pictures import adjusted, linear_scene, luminance
from tests.effort import examples


@pytest.mark.parametrize("kind", KINDS)
def test_neutral_changes_no_pixel(kind):
    picture = linear_scene()
    assert np.array_equal(adjusted(picture, {"kind": kind}), picture)


@pytest.mark.parametrize("kind", KINDS)
def test_both_ends_of_the_range_give_a_finite_picture_and_say_what_they_do(kind):
    picture = linear_scene()
    cls = KINDS[kind]
    assert cls.help and cls.group and (cls.controls() or cls.extras())
    for control in cls.controls():
        for value in (control.low, control.high):
            out = adjusted(picture, {"kind": kind, control.name: value})
            assert np.isfinite(out).all() and out.min() > -0.5 and out.max() < 40, (kind, control.name, value)


@given(st.floats(-4, 4))
def test_exposure_is_a_power_of_two_in_linear_light(ev):
    picture = np.full((20, 30, 3), 0.2, np.float32)
    np.testing.assert_allclose(adjusted(picture, {"kind": "exposure", "ev": ev}), picture * 2**ev, rtol=1e-4)


@settings(max_examples=examples(30))
@given(st.floats(-100, 100))
def test_contrast_keeps_grey_and_never_swaps_tones(contrast):
    ramp = np.geomspace(1e-3, 4, 400, dtype=np.float32)[None, :, None].repeat(20, 0).repeat(3, 2)
    out = luminance(adjusted(ramp, {"kind": "contrast", "contrast": contrast}))[10]
    assert (np.diff(out) > 0).all()
    at_grey = np.interp(0.18, ramp[0, :, 0], out)
    assert at_grey == pytest.approx(0.18, rel=0.01)


def test_highlights_and_shadows_each_leave_the_other_end_alone():
    picture = np.full((90, 90, 3), 0.004, np.float32)
    picture[:, 45:] = 1.0
    calmed = adjusted(picture, {"kind": "highlights", "highlights": -100})
    opened = adjusted(picture, {"kind": "shadows", "shadows": 100})
    dark, bright = (slice(10, 80), slice(5, 25)), (slice(10, 80), slice(65, 85))
    assert luminance(calmed)[bright].mean() < 0.45
    assert luminance(calmed)[dark].mean() == pytest.approx(0.004, rel=0.02)
    assert luminance(opened)[dark].mean() > 0.010
    assert luminance(opened)[bright].mean() == pytest.approx(1.0, rel=0.02)


def test_saturation_keeps_lightness_and_hue_and_ends_in_grey():
    picture = linear_scene()
    before, fuller = to_oklab(picture), to_oklab(adjusted(picture, {"kind": "saturation", "saturation": 40}))
    np.testing.assert_allclose(fuller[..., 0], before[..., 0], atol=2e-3)
    np.testing.assert_allclose(fuller[..., 1:], before[..., 1:] * 1.4, atol=3e-3)
    grey = to_oklab(adjusted(picture, {"kind": "saturation", "saturation": -100}))
    assert np.abs(grey[..., 1:]).max() < 2e-3


def test_warmth_warms_and_undoes_itself_nearly():
    picture = linear_scene()
    warm = adjusted(picture, {"kind": "warmth", "mired": 25})
    assert (to_oklab(warm)[..., 2] - to_oklab(picture)[..., 2]).mean() > 0.01
    back = adjusted(warm, {"kind": "warmth", "mired": -25})
    assert np.abs(back - picture).max() < 0.03


def test_detail_grows_texture_leaves_flat_areas_and_overshoots_little_at_an_edge():
    random = np.random.default_rng(1)
    picture = np.full((200, 300, 3), 0.2, np.float32)
    picture[:100] *= np.exp(random.normal(0, 0.15, (100, 300, 1))).astype(np.float32)
    picture[100:, 150:] = 0.8
    out = adjusted(picture, {"kind": "medium_detail", "detail": 100})
    rough = (slice(10, 80), slice(10, 290))
    assert np.log(luminance(out)[rough]).std() > 1.15 * np.log(luminance(picture)[rough]).std()
    assert luminance(out)[150:190, 10:100] == pytest.approx(0.2, rel=0.02)
    edge = luminance(out)[160, 120:180]
    assert edge.min() > 0.2 * 0.88 and edge.max() < 0.8 * 1.12


def test_haze_clears_and_adds():
    picture = linear_scene()
    veiled = picture * 0.5 + 0.5 * np.float32(0.8)
    contrast = [float(luminance(p).std()) for p in (veiled, adjusted(veiled, {"kind": "haze", "haze": -80}))]
    assert contrast[1] > 1.3 * contrast[0]
    added = adjusted(picture, {"kind": "haze", "haze": 60})
    assert luminance(added).std() < 0.9 * luminance(picture).std()
    assert luminance(added).min() > 3 * luminance(picture).min()


def test_vignette_darkens_corners_most_and_follows_the_subject():
    picture = np.full((120, 180, 3), 0.3, np.float32)
    out = luminance(adjusted(picture, {"kind": "vignette", "ev": -1.0}))
    assert out[60, 90] == pytest.approx(0.3, rel=0.01)
    assert out[0, 0] < 0.2 and out[0, 0] == pytest.approx(out[-1, -1], rel=0.02)
    on_subject = luminance(adjusted(picture, {"kind": "vignette", "ev": -1.0, "size": 40, "centre": "subject"}))
    assert np.unravel_index(on_subject.argmax(), on_subject.shape)[0] > 60  # the subject lies below the middle


def test_a_grey_ramp_stays_grey_under_light_adjustments():
    ramp = np.linspace(0.01, 1, 180, dtype=np.float32)[None, :, None].repeat(60, 0).repeat(3, 2)
    out = adjusted(
        ramp,
        {"kind": "contrast", "contrast": 40},
        {"kind": "shadows", "shadows": 50},
        {"kind": "medium_detail", "detail": 100},
        {"kind": "exposure", "ev": -0.4},
    )
    assert np.abs(to_oklab(out)[..., 1:]).max() < 1e-3

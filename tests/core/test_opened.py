"""Pictures that are dark, flat or grainy are opened before anything is looked for in them; others stay as they are."""

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lenskeep.core.detect.opened import HIGH, LEAST_RANGE, LOW, grain, opened, tones
from tests.effort import examples
from tools.made_up import scene

H, W = 240, 360


def grey(values):
    return np.repeat(np.clip(np.rint(values), 0, 255).astype(np.uint8)[..., None], 3, axis=2)


def ramp(low, high):
    return np.tile(np.linspace(low, high, W, dtype=np.float64), (H, 1))


def test_a_picture_of_full_range_without_grain_is_itself():
    picture = scene(H, W)
    assert opened(picture) is picture


@given(low=st.integers(0, 120), span=st.integers(10, 90))
@settings(max_examples=examples(30))
def test_a_narrow_range_is_stretched_in_order(low, span):
    picture = grey(ramp(low, low + span))
    out = opened(picture)
    assert tones(out) == pytest.approx((LOW, HIGH), abs=12)
    row = out[0, :, 0].astype(int)
    assert (np.diff(row) >= 0).all(), "what is brighter stays brighter"


@pytest.mark.parametrize(("low", "high", "stays"), [(10, 10 + LEAST_RANGE + 25, True), (0, 100, False)])
def test_only_narrow_ones_are_stretched(low, high, stays):
    picture = grey(ramp(low, high))
    assert (opened(picture) is picture) == stays


@given(sigma=st.floats(1.0, 12.0), seed=st.integers(0, 99))
@settings(max_examples=examples(25))
def test_grain_is_told_in_levels(sigma, seed):
    noise = np.random.default_rng(seed).normal(0, sigma, (H, W))
    assert grain(grey(ramp(80, 160) + noise)) == pytest.approx(sigma, rel=0.17, abs=0.3)


def test_leaves_are_no_grain():
    texture = np.random.default_rng(1).integers(0, 255, (H, W)).astype(np.float64)
    texture[: H // 3] = 150  # with an even sky above
    assert grain(grey(texture)) < 1.0


def test_black_and_burnt_places_do_not_hide_grain():
    noisy = ramp(60, 200) + np.random.default_rng(2).normal(0, 8, (H, W))
    noisy[: H // 2, : W // 2], noisy[: H // 2, W // 2 :] = 0, 255
    assert grain(grey(noisy)) == pytest.approx(8, rel=0.2)


def test_the_stronger_the_grain_the_more_of_it_goes_and_edges_stay():
    edge = np.where(np.arange(W) < W // 2, 60.0, 190.0) * np.ones((H, 1))
    for sigma in (6.0, 14.0):
        noisy = grey(edge + np.random.default_rng(3).normal(0, sigma, (H, W)))
        out = opened(noisy)
        left = out[:, : W // 2 - 12, 0].astype(float)
        assert left.std() < 0.45 * sigma
        assert out[:, W // 2 + 12 :, 0].mean() - left.mean() == pytest.approx(130, abs=6)


def test_one_lamp_does_not_keep_a_night_dark():
    night = grey(ramp(5, 60))
    night[20:23, 20:23] = 255
    assert np.median(opened(night)) > 80


def test_tiny_and_even_pictures_are_taken_as_well():
    for picture in (grey(np.full((16, 16), 7.0)), grey(np.zeros((40, 20))), grey(np.full((300, 17), 255.0))):
        out = opened(picture)
        assert out.shape == picture.shape and out.dtype == np.uint8


def test_colours_keep_their_order():
    picture = cv2.merge([np.full((H, W), v, np.uint8) for v in (70, 50, 30)])
    picture[:, : W // 2] //= 2
    r, g, b = (int(v) for v in opened(picture)[5, -5])
    assert r > g > b

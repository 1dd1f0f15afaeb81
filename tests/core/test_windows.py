"""Lines fitted within windows, held against the same in double precision, window by window."""

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.lib.stride_tricks import sliding_window_view

from lenskeep.core.engine.planes import base_coefficients, guide_of, guided_coefficients
from tests.effort import examples


def means(plane, radius):
    padded = np.pad(np.asarray(plane, np.float64), radius, "symmetric")
    return sliding_window_view(padded, (2 * radius + 1,) * 2).mean((-1, -2))


def fitted(guide, target, radius, eps):
    """He, Sun & Tang 2013, equations 5, 6 and 8, as they are written."""
    g, t = (np.asarray(plane, np.float64) for plane in (guide, target))
    mean, other = means(g, radius), means(t, radius)
    a = (means(g * t, radius) - mean * other) / (means(g * g, radius) - mean * mean + eps)
    return means(a, radius), means(other - a * mean, radius)


@st.composite
def pictures(draw):
    """A guide and a target of any size, also narrower or lower than a window."""
    shape = draw(st.integers(1, 40)), draw(st.integers(1, 40))
    rng = np.random.default_rng(draw(st.integers(0, 2**32 - 1)))
    guide = rng.random(shape, np.float32) * draw(st.sampled_from([1.0, 0.01]))
    target = (rng.random(shape) < 0.5).astype(np.float32)
    return np.asarray(guide, np.float32), target


@settings(max_examples=examples(80))
@given(pictures(), st.integers(1, 7), st.sampled_from([4e-4, 0.01, 0.25]))
def test_a_target_is_followed_as_the_method_says(both, radius, eps):
    guide, target = both
    fraction = radius / max(guide.shape)
    a, b = guided_coefficients(guide, target, fraction, eps)
    want_a, want_b = fitted(guide, target, radius, eps)
    np.testing.assert_allclose(a, want_a, atol=2e-6 / eps)
    np.testing.assert_allclose(a * guide + b, want_a * guide + want_b, atol=1e-5 + 1e-7 / eps)


@settings(max_examples=examples(40))
@given(pictures(), st.integers(1, 7))
def test_a_guide_that_follows_itself_is_a_target_like_any_other(both, radius):
    guide, _ = both
    fraction = radius / max(guide.shape)
    for own, other in zip(
        base_coefficients(guide, fraction, 0.01), guided_coefficients(guide, guide, fraction, 0.01), strict=True
    ):
        np.testing.assert_allclose(own, other, atol=1e-4)


def test_wide_windows_are_fitted_on_less_and_come_back_at_full_size():
    rng = np.random.default_rng(3)
    guide = np.asarray(np.linspace(0, 1, 200)[None, :] + 0.02 * rng.standard_normal((120, 200)), np.float32)
    target = (guide > 0.5).astype(np.float32)
    a, b = guided_coefficients(guide, target, 0.1, 0.05)
    want_a, want_b = fitted(guide, target, 20, 0.05)
    assert guide_of(guide, 0.1).small.shape == (30, 50) and a.shape == b.shape == guide.shape
    assert np.abs((a * guide + b) - (want_a * guide + want_b)).max() < 0.06


def test_what_is_flat_takes_the_targets_mean():
    flat = np.full((30, 30), 0.4, np.float32)
    target = np.zeros_like(flat)
    target[:, 15:] = 1.0
    a, b = guided_coefficients(flat, target, 2 / 30, 0.01)
    assert np.abs(a).max() < 1e-3
    np.testing.assert_allclose(a * flat + b, means(means(target, 2), 2), atol=1e-4)


def test_targets_cut_from_larger_ones_and_of_double_precision_are_followed_too():
    rng = np.random.default_rng(5)
    large, guide = rng.random((50, 60)), rng.random((20, 30)).astype(np.float32)
    cut = large[::2, ::2][:20, :30]
    a, b = guided_coefficients(guide, cut, 3 / 30, 0.01)
    want_a, want_b = fitted(guide, cut, 3, 0.01)
    np.testing.assert_allclose(a * guide + b, want_a * guide + want_b, atol=1e-4)

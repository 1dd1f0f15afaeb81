"""What is told of every pixel at once, held against NumPy."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lenskeep.core.colour.spaces import LUMINANCE
from lenskeep.core.easing import ease, eased
from lenskeep.core.engine.planes import least_channel, log_luminance, luminance, mask_guide
from lenskeep.core.measure.quantile import quantile


@pytest.fixture(scope="module")
def light():
    """From far below black, as what lies outside of sRGB may be, to two stops over white, and nothing at all."""
    picture = (np.random.default_rng(1).random((37, 53, 3), np.float32) * 5.0 - 0.5) ** 3 / 16.0
    picture[0] = 0.0
    return np.asarray(picture, np.float32)


def test_luminance_is_what_the_weights_say(light):
    want = np.asarray(light, np.float64) @ LUMINANCE
    np.testing.assert_allclose(luminance(light), want, atol=1e-6)
    np.testing.assert_allclose(log_luminance(light), np.log2(np.maximum(want, 2.0**-20)), atol=1e-5)
    np.testing.assert_allclose(mask_guide(light), np.cbrt(want), atol=2e-4)


def test_a_part_of_a_picture_a_locked_one_and_one_of_doubles_are_told_alike(light):
    part = light[3:20, 5:30]
    locked = part.copy()
    locked.flags.writeable = False
    for tell in (luminance, log_luminance, mask_guide, least_channel):
        want = tell(part.copy())
        assert want.shape == part.shape[:2] and want.dtype == np.float32
        for other in (part, locked, part.astype(np.float64)):
            np.testing.assert_array_equal(tell(other), want)


def test_the_least_channel_counts_each_by_its_factor(light):
    np.testing.assert_array_equal(least_channel(light), light.min(-1))
    factors = (2.0, 0.5, 1.25)
    np.testing.assert_allclose(least_channel(light, factors), (light * np.float32(factors)).min(-1), rtol=1e-6)


@given(st.floats(-3, 3), st.floats(-2, 2), st.integers(0, 2**32 - 1))
def test_easing_in_place_is_easing(times, plus, seed):
    plane = np.random.default_rng(seed).uniform(-1.5, 1.5, (7, 11)).astype(np.float32)
    want = ease(np.float32(plus) + np.float32(times) * plane)
    out = eased(plane, times, plus)
    assert out is plane
    np.testing.assert_allclose(out, want, atol=2e-6)


def test_easing_leaves_what_it_is_given_as_it_is():
    given_ = np.linspace(-1, 2, 7)
    before = given_.copy()
    np.testing.assert_allclose(ease(given_), [0, 0, 0, 0.5, 1, 1, 1])
    np.testing.assert_array_equal(given_, before)
    assert float(ease(0.25)) == pytest.approx(3 * 0.25**2 - 2 * 0.25**3)


@given(st.lists(st.floats(-1e3, 1e3, width=32), min_size=1, max_size=60), st.floats(0, 1))
def test_a_quantile_is_numpys(values, share):
    numbers = np.array(values, np.float32)
    assert quantile(numbers, share) == pytest.approx(float(np.quantile(numbers.astype(np.float64), share)), abs=1e-3)

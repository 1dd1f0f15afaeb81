"""Pictures made smaller: every pixel the mean of the area that it stands for."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lenskeep.core.engine.planes import area_mean, smaller
from tests.effort import examples


def shares(length: int, count: int) -> np.ndarray:
    """(count, length): how much of each whole one every one of ``count`` equal parts of them holds, as a mean."""
    edges = np.arange(length + 1)
    low, high = np.arange(count)[:, None] * length / count, (np.arange(count) + 1)[:, None] * length / count
    held = np.clip(np.minimum(edges[None, 1:], high) - np.maximum(edges[None, :-1], low), 0, None)
    return np.asarray(held / held.sum(1, keepdims=True))


def reference(picture: np.ndarray, size: tuple[int, int]) -> np.ndarray:
    down, across = shares(picture.shape[0], size[0]), shares(picture.shape[1], size[1])
    return np.einsum("ab,bc...,dc->ad...", down, picture.astype(np.float64), across)


@settings(max_examples=examples(80))
@given(st.data())
def test_every_pixel_is_the_mean_of_its_area(data):
    high, wide = data.draw(st.integers(1, 70)), data.draw(st.integers(1, 70))
    size = data.draw(st.integers(1, high)), data.draw(st.integers(1, wide))
    shape = (high, wide) if data.draw(st.booleans()) else (high, wide, 3)
    picture = np.random.default_rng(high * 100 + wide).random(shape, np.float32)
    np.testing.assert_allclose(area_mean(picture, size), reference(picture, size), atol=2e-6)


@pytest.mark.parametrize("size", [(20, 30), (19, 7), (1, 1)])
def test_eight_bits_are_rounded_to_the_nearest(size):
    picture = np.random.default_rng(4).integers(0, 256, (40, 60, 3), np.uint8)
    out = area_mean(picture, size)
    assert out.dtype == np.uint8
    assert np.abs(out - reference(picture, size)).max() <= 0.5 + 1e-3


def test_what_is_even_stays_even_and_light_is_neither_won_nor_lost():
    white = np.full((683, 1024, 3), 255, np.uint8)
    assert (area_mean(white, (213, 320)) == 255).all()
    light = np.random.default_rng(2).random((683, 1024, 3), np.float32)
    assert smaller(light, 320).mean() == pytest.approx(float(light.mean()), rel=1e-5)


def test_a_picture_that_is_small_already_is_left_alone():
    picture = np.zeros((20, 30, 3), np.float32)
    assert smaller(picture, 30) is picture and area_mean(picture, (20, 30)) is picture


def test_a_locked_picture_and_one_that_lies_scattered_are_read_too():
    whole = np.random.default_rng(6).random((60, 80, 3), np.float32)
    want = area_mean(whole[::2, ::2].copy(), (11, 13))
    locked = whole[::2, ::2].copy()
    locked.flags.writeable = False
    for other in (whole[::2, ::2], locked):
        np.testing.assert_array_equal(area_mean(other, (11, 13)), want)

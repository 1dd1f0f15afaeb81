"""The three guards of single pixels against what they say in words, by NumPy."""

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from lenskeep.core.colour.spaces import REC2020_TO_SRGB, SRGB_TO_REC2020
from lenskeep.core.measure.pixelwise import BLACK, GAMUT_SLACK, PIXELWISE, WHITE, pixel_faults
from tests.effort import examples

NEAR = 1e-5
SRGB = arrays(np.float32, (6, 7, 3), elements=st.floats(-0.5, 2.0, width=32))


def in_rec2020(srgb: np.ndarray) -> np.ndarray:
    return (srgb.astype(np.float64) @ SRGB_TO_REC2020.T).astype(np.float32)


@settings(max_examples=examples(200))
@given(SRGB)
def test_every_pixel_is_told_as_its_words_say(srgb):
    picture = in_rec2020(srgb)
    values = picture.astype(np.float64) @ REC2020_TO_SRGB.T
    least, middle, most = np.moveaxis(np.sort(values, axis=-1), -1, 0)
    said = pixel_faults(picture)
    for name, value, limit, over in (
        ("clipped", middle, float(WHITE), True),
        ("crushed", most, float(BLACK), False),
        ("gamut", least / np.maximum(most, 1.0), -float(GAMUT_SLACK), False),
    ):
        told = np.abs(value - limit) > NEAR  # rounding decides nearer than that
        assert np.array_equal(said[name][told] == 1, (value > limit)[told] if over else (value < limit)[told]), name
        assert set(np.unique(said[name])) <= {0.0, 1.0}


def test_one_channel_at_white_is_a_colour_and_two_have_lost_detail():
    picture = in_rec2020(np.array([[[1.0, 0.5, 0.2], [1.0, 1.0, 0.2], [0.4, 1.2, 1.1], [1.3, 1.3, 1.3]]], np.float32))
    assert pixel_faults(picture)["clipped"].tolist() == [[0, 1, 1, 1]]


def test_parts_and_turned_pictures_are_told_like_whole_ones():
    picture = np.random.default_rng(3).uniform(-0.2, 1.4, (40, 50, 3)).astype(np.float32)
    whole = pixel_faults(picture)
    for name in PIXELWISE:
        assert np.array_equal(pixel_faults(picture[5:30, 7:44])[name], whole[name][5:30, 7:44])
        assert np.array_equal(pixel_faults(picture[::-1, ::-1])[name], whole[name][::-1, ::-1])
    assert pixel_faults(picture[:0])["clipped"].shape == (0, 50)

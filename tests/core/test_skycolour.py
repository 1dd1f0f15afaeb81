"""Sky by colour: gaps that the decoder half saw are filled, and nothing of that colour on the ground is."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lenskeep.core.detect.skycolour import GROUND, above_ground, completed
from tests.effort import examples

H, W = 300, 400
PALE, WOOD = (0.62, 0.70, 0.80), (0.02, 0.03, 0.02)


def snowfield(horizon: float, faint: float, seed: int = 0) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """(linear picture, the decoder's probability, true sky) of a wood on a horizon between a pale sky and snow of the
    same colour, where the decoder finds the snow a little like sky.
    """
    y = np.arange(H)[:, None] / H + np.zeros((1, W))
    sky, wood = y < horizon - 0.08, (y >= horizon - 0.08) & (y < horizon)
    noise = np.random.default_rng(seed).normal(0, 0.004, (H, W, 1))
    picture = np.where(wood[..., None], WOOD, PALE) + noise
    probability = np.where(sky, 0.97, np.where(wood, 0.001, faint))
    return picture.astype(np.float32), probability.astype(np.float32), sky


@settings(max_examples=examples(25))
@given(horizon=st.floats(0.2, 0.8), faint=st.floats(0.0, 0.1), seed=st.integers(0, 9))
def test_snow_of_the_skys_colour_under_a_wood_stays_ground(horizon, faint, seed):
    picture, probability, sky = snowfield(horizon, faint, seed)
    out = completed(picture, probability)
    assert out[sky].min() > 0.9
    beneath = np.arange(H) / H > horizon - 0.08 + GROUND[1] + 0.01
    assert out[beneath].max() <= faint + 1e-3, "no more than the decoder said itself"


def test_gaps_between_crowns_are_still_filled_as_low_as_the_decoder_sees_any():
    picture, probability, _ = snowfield(0.7, 0.0)
    gap = np.zeros((H, W), bool)
    gap[100:130, 60:90] = True
    picture[60:186], probability[60:186] = WOOD, 0.001
    picture[gap], probability[gap] = PALE, 0.05  # half seen
    probability[150:160, 300:330], picture[150:160, 300:330] = 0.6, PALE  # seen, and lower
    out = completed(picture, probability)
    assert out[gap].mean() > 0.9 and out[210:].max() < 0.01


def test_a_patch_of_snow_that_it_takes_for_half_a_sky_stays_ground_as_the_snow_around_does():
    picture, probability, _ = snowfield(0.5, 0.005)
    probability[240:270, 100:160] = 0.35  # between somebody's arms
    assert completed(picture, probability)[250:260, 110:150].max() < 0.4


def test_what_it_half_sees_low_down_is_a_gap_for_all_that():
    picture, probability, _ = snowfield(0.5, 0.2)
    assert completed(picture, probability)[250:].min() > 0.9


def test_what_the_decoder_is_sure_of_stays_wherever_it_lies():
    picture, probability, _ = snowfield(0.3, 0.0)
    probability[280:, :2] = 0.95  # fewer than count
    out = completed(picture, probability)
    assert out[290, 0] >= 0.95


@given(st.lists(st.integers(0, 99), min_size=1, max_size=30))
def test_colour_speaks_down_to_the_lowest_probable_sky_and_fades_below(rows):
    probability = np.zeros((100, 50), np.float32)
    probability[rows] = 0.8
    high = above_ground(probability)[:, 0]
    assert (high[: max(rows) + 1] == 1).all() and (np.diff(high) <= 0).all()
    assert (high[max(rows) + 1 + int(100 * GROUND[1]) :] == 0).all()


@pytest.mark.parametrize("probability", [np.zeros((40, 50), np.float32), np.full((40, 50), 0.6, np.float32)])
def test_without_a_sure_sky_nothing_is_made_of_colour(probability):
    picture = np.full((40, 50, 3), PALE, np.float32)
    assert completed(picture, probability) is probability

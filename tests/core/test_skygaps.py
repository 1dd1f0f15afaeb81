"""Sky through gaps: shares known from how a picture was mixed are found again from its light."""

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lenskeep.core.colour.transfer import encode_srgb
from lenskeep.core.detect.sky import find_sky
from lenskeep.core.detect.skycolour import undecided
from lenskeep.core.detect.skygaps import WHITE, through_gaps
from lenskeep.core.detect.trust import burnt
from lenskeep.core.detect.trust_of_sky import sky_values
from tests.effort import examples

H, W = 240, 360


def crowns(seed, blur):
    """The share of sky (H, W) of a wood out of focus: holes in a dark band over grass, and none below."""
    rng = np.random.default_rng(seed)
    sharp = np.zeros((H, W), np.float32)
    for _ in range(7):
        x, y, r = int(rng.integers(20, W - 20)), int(rng.integers(20, H // 2 - 10)), int(rng.integers(9, 22))
        cv2.circle(sharp, (x, y), r, 1.0, -1)
    return cv2.GaussianBlur(sharp, (0, 0), blur)


def mixed(share, sky, dark):
    """Linear light in which a camera's curve compressed the highlights of a sky of that share."""
    light = share[..., None] * np.float32(sky) + (1.0 - share[..., None]) * np.float32(dark)
    return np.asarray(light * (1.0 + WHITE) / (light + WHITE), np.float32)


def fit(mask, share):
    return float(np.minimum(mask, share).sum() / np.maximum(mask, share).sum())


def seen(share):
    """What an undecided decoder says of it: sky where half or more is, a little of it around; and what colour makes of
    that.
    """
    probability = np.asarray(0.7 * cv2.GaussianBlur((share > 0.7).astype(np.float32), (0, 0), 4.0), np.float32)
    return probability, np.asarray(np.where(share > 0.85, 0.97, 0.6 * share), np.float32)


@settings(max_examples=examples(20))
@given(
    seed=st.integers(0, 40),
    blur=st.floats(1.5, 4.0),
    sky=st.tuples(st.floats(0.4, 0.68), st.floats(0.4, 0.68), st.floats(0.4, 0.68)),
    dark=st.tuples(st.floats(0.005, 0.02), st.floats(0.01, 0.04), st.floats(0.003, 0.015)),
)
def test_shares_are_found_from_light_whatever_the_decoder_cut_off(seed, blur, sky, dark):
    share = crowns(seed, blur)
    probability, sure = seen(share)
    found, _ = through_gaps(mixed(share, sky, dark), probability, sure, probability)
    assert found.shape == (H, W) and found.min() >= 0.0 and found.max() <= 1.0
    assert fit(found, share) > 0.93
    assert fit(found, share) > fit(probability, share) + 0.1


def test_what_the_decoder_rules_out_stays_ruled_out_however_bright():
    share = crowns(3, 2.0)
    probability, sure = seen(share)
    picture = mixed(share, (0.8, 0.85, 0.9), (0.02, 0.03, 0.01))
    picture[190:230, 100:200] = picture.max()  # a white dress on the grass
    found, _ = through_gaps(picture, probability, sure, probability)
    assert not found[195:225, 105:195].any()


def test_without_contrast_everything_stays_as_it_was():
    share = crowns(5, 2.0)
    probability, sure = seen(share)
    snow = mixed(share, (0.85, 0.87, 0.9), (0.6, 0.62, 0.65))
    found, by_light = through_gaps(snow, probability, sure, probability)
    assert np.array_equal(found, probability) and not by_light.any()


def test_clouds_well_within_the_sky_leave_no_holes():
    share = np.zeros((H, W), np.float32)
    share[: H // 2] = 1.0
    picture = mixed(share, (0.8, 0.85, 0.9), (0.01, 0.02, 0.01))
    picture[20:60, 100:200] *= 0.5  # the dark side of a cloud
    probability = np.asarray(share * 0.7, np.float32)
    found, _ = through_gaps(picture, probability, np.asarray(share * 0.97, np.float32), probability)
    assert found[: H // 2 - 12].min() > 0.95 and found[H // 2 + 12 :].max() < 0.05


def test_a_burnt_sky_fills_a_mixed_pixel_sooner_than_by_its_share():
    share = crowns(7, 3.0)
    probability, sure = seen(share)
    light = share[..., None] * 2.5 + (1.0 - share[..., None]) * np.float32((0.02, 0.03, 0.01))
    picture = np.asarray(np.clip(light * (1.0 + WHITE) / (light + WHITE), 0.0, 1.0), np.float32)
    found, _ = through_gaps(picture, probability, sure, probability)
    plain, _ = through_gaps(picture * np.float32(0.94), probability, sure, probability)  # as if it was not
    assert fit(found, share) > fit(plain, share)


BARELY_EVIDENT = 0.895
"""What the decoders give at least where a sky seen through crowns is widest."""


def seen_as(share, light):
    """What is found of a sky of that share in linear ``light``, and its signs, where the decoder is undecided."""
    picture = np.rint(encode_srgb(light) * 255).astype(np.uint8)
    probability = np.asarray(seen(share)[0] * (BARELY_EVIDENT / 0.7), np.float32)
    found = find_sky(picture, probability)
    return found, probability, sky_values(picture, found.mask, found, burnt(picture))


def test_what_light_tells_is_not_doubted_for_the_decoders_indecision():
    share = crowns(3, 2.0)
    found, probability, signs = seen_as(share, mixed(share, (0.6, 0.62, 0.66), (0.01, 0.02, 0.01)))
    inside = found.mask > 0.5
    assert fit(found.mask, share) > 0.85 and (found.evident >= probability).all()
    assert signs["range"] < 0.85 and not (probability > 0.9).any(), "nowhere is the decoder sure"
    assert signs["faint"] < 0.15 < 0.5 * (1.0 - float(probability[inside].mean())), "only its soft border is"
    assert np.array_equal(found.evident[found.mask == 0], probability[found.mask == 0]), "only where it is sky"


def test_without_contrast_the_decoders_indecision_is_doubted_as_before():
    share = crowns(3, 2.0)
    found, probability, signs = seen_as(share, mixed(share, (0.6, 0.62, 0.66), (0.35, 0.36, 0.38)))
    assert found.mask.any() and np.array_equal(found.evident, probability)
    assert signs["faint"] == pytest.approx(1.0 - float(probability[found.mask > 0.5].mean())) and signs["faint"] > 0.25


def test_a_sky_that_is_sure_is_what_the_decoder_says():
    share = np.zeros((H, W), np.float32)
    share[: H // 2] = 1.0
    picture = np.rint(encode_srgb(mixed(share, (0.6, 0.62, 0.66), (0.01, 0.02, 0.01))) * 255).astype(np.uint8)
    found = find_sky(picture, share)
    assert found.evident is share and fit(found.mask, share) > 0.97
    none = find_sky(picture, np.zeros_like(share))
    assert not none.mask.any() and not none.evident.any()


@pytest.mark.parametrize(
    ("high", "top", "found"), [(0.06, 0.85, False), (0.06, 0.92, True), (0.3, 0.7, True), (0.002, 0.99, False)]
)
def test_what_is_probable_here_and_there_and_evident_nowhere_is_no_sky(high, top, found):
    share = np.zeros((H, W), np.float32)
    share[: max(round(H * high), 1), : W // 2 if high < 0.01 else W] = top
    picture = np.rint(encode_srgb(mixed(share > 0, (0.6, 0.62, 0.66), (0.01, 0.02, 0.01))) * 255).astype(np.uint8)
    assert find_sky(picture, share).mask.any() == found


@pytest.mark.parametrize(("top", "expected"), [(0.95, False), (0.7, True)])
def test_undecided_is_a_picture_whose_sky_is_nowhere_sure(top, expected):
    assert undecided(np.asarray(crowns(1, 2.0) * top, np.float32)) is expected
    assert not undecided(np.zeros((H, W), np.float32)), "no sky at all is decided"

"""Skyline, box, trust and pull: numbers read off masks and pictures that are known."""

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lenskeep.core.detect.sky import FoundSky
from lenskeep.core.detect.skyline import find_skyline
from lenskeep.core.detect.subject import box_around
from lenskeep.core.detect.trust import Evidence, burnt, picture_values, subject_trust, subject_values
from lenskeep.core.detect.trust_of_sky import sky_trust, sky_values
from lenskeep.core.facts import DOUBTFUL_BELOW
from lenskeep.core.measure.pull import pull
from tools.made_up import scene

H, W = 120, 180
Y, X = np.mgrid[:H, :W]


def disc(cx=0.5, cy=0.6, r=0.22):
    return (np.hypot(X - cx * W, Y - cy * H) < r * H).astype(np.float32)


@given(left=st.floats(0.2, 0.7), rise=st.floats(-0.2, 0.2))
def test_the_skyline_is_found_behind_trees_and_the_subject(left, rise):
    line = (left + rise * (X + 0.5) / W) * H
    sky = (line > Y).astype(np.float32)
    sky[:, 20:32] = 0  # a tower
    subject = np.zeros((H, W), np.float32)
    subject[int(0.1 * H) :, 90:130] = 1
    sky[subject > 0] = 0
    found = find_skyline(sky, subject)
    assert found.left == pytest.approx(left, abs=0.02) and found.right == pytest.approx(left + rise, abs=0.02)


@given(hidden=st.integers(0, 6), left=st.floats(0.4, 0.7))
def test_a_row_of_trees_before_more_than_half_of_the_line_does_not_lift_it(hidden, left):
    sky = (left * H > Y).astype(np.float32)
    trees = np.arange(W) % 10 < hidden
    sky[int(0.2 * H) :, trees] = 0
    found = find_skyline(sky, np.zeros((H, W), np.float32))
    assert found.left == pytest.approx(left, abs=0.02) and found.right == pytest.approx(left, abs=0.02)


def test_no_sky_or_sky_down_to_the_foot_has_no_skyline():
    nothing = np.zeros((H, W), np.float32)
    assert find_skyline(nothing, nothing) is None
    assert find_skyline(np.ones((H, W), np.float32), nothing) is None


def test_the_box_holds_the_subject_and_is_none_without_one():
    box = box_around(disc())
    assert (box.x0, box.x1) == pytest.approx((0.5 - 0.22 * H / W, 0.5 + 0.22 * H / W), abs=0.01)
    assert (box.y0, box.y1) == pytest.approx((0.38, 0.82), abs=0.012)
    assert box_around(np.zeros((H, W), np.float32)) is None


def test_a_clean_mask_on_the_pictures_edges_is_trusted_a_shifted_or_torn_one_is_not():
    picture, mask, sky = scene(H, W), disc(), np.zeros((H, W), np.float32)

    def trust(mask, guess, by_colour, sky):
        seen = Evidence(np.asarray(cv2.resize(disc(), (12, 8)), np.float32), [], 0.05, [])
        area = float((mask > 0.5).mean())
        values = subject_values(picture, mask, guess, guess, by_colour, sky, seen) | picture_values(picture)
        return subject_trust(values, area)

    clean = trust(mask, mask, mask, sky)
    assert clean.trust > 0.9 and clean.reasons == []
    torn = mask * (((X // 5) % 2) == 0)
    doubted = trust(torn, 0.5 * mask, mask, sky)
    assert doubted.trust < DOUBTFUL_BELOW and doubted.reasons
    none = trust(sky, sky, sky, sky)
    assert none.trust < DOUBTFUL_BELOW and none.reasons == ["No clear subject was found."]
    overlapping = trust(mask, mask, mask, np.ones((H, W), np.float32))
    assert "Subject and sky overlap." in overlapping.reasons


def test_a_frame_clearly_without_sky_is_trusted_an_undecided_border_is_not():
    picture, empty = scene(H, W), np.zeros((H, W), np.float32)

    def trust(mask, probability):
        found = FoundSky(mask, probability, probability)
        values = sky_values(picture, mask, found, burnt(picture)) | picture_values(picture)
        return sky_trust(values, probability, float((mask > 0.5).mean()))

    assert trust(empty, empty).trust == 1.0
    sky = (Y < 0.45 * H).astype(np.float32)
    assert trust(sky, sky).trust > 0.9
    vague = np.clip((0.75 * H - Y) / (0.6 * H), 0, 1).astype(np.float32)
    doubted = trust(sky, vague)
    assert doubted.trust < 0.8 and "undecided" in " ".join(doubted.reasons)


def test_pull_measures_the_subject_against_its_surroundings():
    flat = np.full((H, W, 3), 0.18, np.float32)
    alike = pull(flat, disc())
    assert (alike.brightness, alike.warmth) == pytest.approx((0, 0), abs=0.01)
    lit = flat.copy()
    lit[disc() > 0.5] *= 2  # one stop: OKLab L grows by the cube root of two
    assert pull(lit, disc()).brightness == pytest.approx(100 * 0.18 ** (1 / 3) * (2 ** (1 / 3) - 1), abs=0.1)
    warm = flat.copy()
    warm[disc() > 0.5] *= np.array([1.2, 1.0, 0.7], np.float32)
    assert pull(warm, disc()).warmth > 1
    rough = flat.copy()
    noise = np.random.default_rng(0).normal(1, 0.2, (H, W, 1)).astype(np.float32)
    rough[disc() > 0.5] *= noise[disc() > 0.5]
    assert pull(rough, disc()).detail > 1
    assert pull(flat, np.zeros((H, W), np.float32)) is None


def doubts_of_sky(picture, mask, probability=None):
    seen = mask if probability is None else probability
    values = sky_values(picture, mask, FoundSky(mask, seen, seen), burnt(picture)) | picture_values(picture)
    return sky_trust(values, seen, float((mask > 0.5).mean()))


def bright_in(where, inside=210, outside=90):
    light = np.where(where, inside, outside).astype(np.uint8)
    return np.repeat(light[..., None], 3, axis=2)


def bright_above(line, above=210, below=90):
    return bright_in(line * H > Y, above, below)


def test_a_wall_taken_for_sky_is_doubted_for_what_no_sky_does():
    sky = (Y < 0.45 * H).astype(np.float32)
    assert doubts_of_sky(bright_above(0.45), sky).trust > DOUBTFUL_BELOW
    wall = ((X < 0.3 * W) | (X > 0.75 * W)).astype(np.float32)
    low = doubts_of_sky(bright_in(wall > 0), wall)
    assert low.trust < DOUBTFUL_BELOW and "lower edge" in " ".join(low.reasons)
    dim = doubts_of_sky(bright_above(0.45, 60, 190), sky)
    assert dim.trust < DOUBTFUL_BELOW and "hardly brighter" in " ".join(dim.reasons)
    lake = ((Y > 0.4 * H) & (Y < 0.7 * H)).astype(np.float32)
    off = doubts_of_sky(bright_in(lake > 0), lake)
    assert off.trust < DOUBTFUL_BELOW and "upper edge" in " ".join(off.reasons)
    gaps = ((np.hypot(X - 0.3 * W, Y - 0.4 * H) < 14) | (np.hypot(X - 0.7 * W, Y - 0.35 * H) < 18)).astype(np.float32)
    assert doubts_of_sky(bright_in(gaps > 0), gaps).trust > DOUBTFUL_BELOW, "gaps between crowns are no lake"


def test_a_sky_as_white_as_paper_is_doubted_one_with_some_light_left_is_not():
    sky = (Y < 0.45 * H).astype(np.float32)
    assert doubts_of_sky(bright_above(0.45, 245), sky).trust > DOUBTFUL_BELOW
    paper = doubts_of_sky(bright_above(0.45, 255), sky)
    assert paper.trust < DOUBTFUL_BELOW and "burnt out" in " ".join(paper.reasons)


@given(share=st.floats(0.0, 0.2))
def test_sky_that_was_probably_missed_is_said_in_proportion(share):
    empty = np.zeros((H, W), np.float32)
    probable = np.zeros((H, W), np.float32)
    probable.ravel()[: round(share * H * W)] = 0.6
    found = doubts_of_sky(bright_above(0.45), empty, probable)
    assert 0.0 <= found.trust <= 1.0 and found.area == 0.0
    if share < 0.004:
        assert found.trust == 1.0 and not found.reasons
    if share > 0.012:
        assert found.trust < DOUBTFUL_BELOW and found.reasons == ["There may be a little sky that was not taken."]

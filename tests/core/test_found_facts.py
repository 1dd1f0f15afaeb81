"""Skyline, box, trust and pull: numbers read off masks and pictures that are known."""

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lenskeep.core.detect.skyline import find_skyline
from lenskeep.core.detect.subject import box_around
from lenskeep.core.detect.trust import Evidence, picture_values, sky_trust, sky_values, subject_trust, subject_values
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
        values = sky_values(picture, mask, probability, np.zeros_like(mask)) | picture_values(picture)
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

"""What the sky decoders learn from: the label of a made-up view says what of it is sky."""

import numpy as np
import pytest

from tools.sky_decoder import made_up_rooms, made_up_skies, made_up_views
from tools.sky_decoder.samples import LONG, SHORT, VIEWS, made_up

GROUND = np.random.default_rng(1).uniform(0.0, 0.4, (176, 256, 3)).astype(np.float32)
OUTDOORS = (made_up_views.made_street, made_up_views.made_pale, made_up_rooms.made_crowns)


@pytest.mark.parametrize("make", OUTDOORS)
def test_what_is_labelled_as_sky_is_the_skys_colour_and_the_rest_is_not(make, monkeypatch):
    for module in (made_up_views, made_up_rooms):
        monkeypatch.setattr(module, "sky", lambda h, w, random: np.full((h, w, 3), (0.6, 0.1, 0.6)))
    seen = 0
    for seed in range(12):
        image, share = make(GROUND, None, np.random.default_rng(seed))
        assert (
            image.shape == GROUND.shape and share.min() > -1e-5 and share.max() < 1 + 1e-5 and image.dtype == np.float32
        )
        sky, none = share > 0.98, share < 0.001
        if sky.sum() < 20:
            continue
        seen += 1
        colour = np.median(image[sky], 0)
        assert np.abs(image[sky] - colour).max() < 0.04, "one sky, one colour"
        if make is not made_up_views.made_pale:  # whose ground may have it
            assert (np.abs(image[none] - colour).max(-1) < 0.02).mean() < 0.05, "and hardly anything else has it"
    assert seen >= (1 if make is made_up_rooms.made_crowns else 6)  # crowns leave hardly a pixel whole


def test_what_stands_in_front_is_no_sky():
    green = np.array([0.0, 1.0, 0.0], np.float32)
    subject = np.tile(green, (100, 60, 1)), np.ones((100, 60), np.float32)
    for make in OUTDOORS:
        for seed in range(4):
            image, share = make(GROUND, subject, np.random.default_rng(seed))
            there = np.abs(image - green).max(-1) < 0.01
            assert there.any() and share[there].max() < 0.01


def test_slivers_over_houses_are_slivers_more_often_than_not():
    shares = [made_up_views.made_street(GROUND, None, np.random.default_rng(seed))[1].mean() for seed in range(40)]
    assert np.median(shares) < 0.15 and max(shares) > 0.15


@pytest.mark.parametrize("views", VIEWS)
def test_every_view_comes_up_and_a_number_is_always_the_same_view(views):
    assert made_up_skies.made_scene in VIEWS[views] and made_up_rooms.made_room in VIEWS[views]
    for number in range(len(VIEWS[views])):
        one, two = (made_up(number, views, [GROUND], [(GROUND, np.ones(GROUND.shape[:2], np.float32))]) for _ in "ab")
        assert np.array_equal(one[0], two[0]) and np.array_equal(one[1], two[1])
        assert one[0].dtype == np.uint8 and sorted(one[1].shape) == [SHORT, LONG]

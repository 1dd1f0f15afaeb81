"""Dust: told by its place on the sensor through a shoot, not by what one picture shows."""

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lenskeep.core.clean.dust import log_light, seen_at, specks
from lenskeep.core.clean.sensor import stored, to_frame, to_sensor

H, W = 400, 600
PLACES = ((0.2, 0.3), (0.7, 0.25), (0.5, 0.6))


def shoot(count, dust=PLACES, seed=0):
    """Linear pictures of clouds that move, each with dark things of its own, and dust that stays."""
    rng = np.random.default_rng(seed)
    out = []
    for _ in range(count):
        light = 0.4 + 0.15 * cv2.GaussianBlur(rng.standard_normal((H, W)).astype(np.float32), (0, 0), 40) * 40
        for _ in range(4):  # birds
            cv2.circle(light, tuple(int(v) for v in rng.integers([0, 0], [W, H])), 3, 0.05, -1)
        for x, y in dust:
            yy, xx = np.mgrid[:H, :W]
            light *= 1 - 0.25 / (1 + np.exp(np.minimum(np.hypot(xx - x * W, yy - y * H) / 2.2 - 1, 9) * 8))
        grain = 1 + 0.02 * rng.standard_normal((H, W, 1))
        out.append(np.asarray(light[..., None] * grain, np.float32).repeat(3, 2))
    return out


def test_every_speck_is_found_where_it_is_and_nothing_else():
    found = specks([log_light(p) for p in shoot(10)])
    assert len(found) == len(PLACES)
    for x, y in PLACES:
        assert min(np.hypot((s.x - x) * W, (s.y - y) * H) for s in found) < 1.0
    assert all(s.seen >= 8 and len(s.shows) == 6 for s in found)


def test_a_shoot_without_dust_has_none():
    assert specks([log_light(p) for p in shoot(12, ())]) == [] == specks([])


def test_what_stands_in_one_picture_taken_again_and_again_is_no_dust():
    [one] = shoot(1, ((0.3, 0.3),))
    rng = np.random.default_rng(1)
    same = [log_light(one * (1 + 0.01 * rng.standard_normal((H, W, 1))).astype(np.float32)) for _ in range(8)]
    assert specks(same) == []


def test_a_speck_is_seen_only_where_its_surroundings_are_calm():
    [calm] = shoot(1, ((0.3, 0.3),))
    assert seen_at(log_light(calm), (0.3, 0.3), 0.0035)[2] and not seen_at(log_light(calm), (0.6, 0.3), 0.0035)[2]
    rng = np.random.default_rng(2)
    grass = calm * np.exp2(rng.normal(0, 0.5, (H, W, 1))).astype(np.float32)
    assert seen_at(log_light(grass), (0.3, 0.3), 0.0035)[1:] == (False, False)
    assert seen_at(log_light(calm), (1.5, 0.3), 0.0035) == (0.0, False, False)


@given(st.integers(1, 8), st.integers(0, 3), st.floats(0, 1), st.floats(0, 1))
def test_places_go_to_the_sensor_and_back(orientation, turn, x, y):
    assert to_sensor(to_frame((x, y), orientation, turn), orientation, turn) == pytest.approx((x, y))


@pytest.mark.parametrize("orientation", range(1, 9))
@pytest.mark.parametrize("turn", range(4))
def test_a_picture_and_a_place_go_the_same_way(orientation, turn):
    sensor = np.zeros((40, 60), np.float32)
    sensor[5, 12] = 1.0
    x, y = to_frame((12.5 / 60, 5.5 / 40), orientation, turn)
    upright = sensor
    # stored() takes the upright picture back; try every upright picture that there can be
    options = [np.rot90(s, k) for s in (sensor, sensor[:, ::-1]) for k in range(4)]
    [upright] = [o for o in options if o.shape and np.array_equal(stored(o, orientation, turn), sensor)]
    assert upright[int(y * upright.shape[0]), int(x * upright.shape[1])] == 1.0

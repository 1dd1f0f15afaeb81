"""Blend modes against the formulas of W3C Compositing and Blending Level 1, written down once more from its text."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lenskeep.core.colour.transfer import decode_srgb, encode_srgb
from lenskeep.core.plan import MODES
from tests.core.pictures import linear_scene, rendered
from tests.effort import examples

SEPARABLE = {
    "multiply": lambda b, s: b * s,
    "screen": lambda b, s: b + s - b * s,
    "overlay": lambda b, s: SEPARABLE["hard-light"](s, b),
    "darken": min,
    "lighten": max,
    "color-dodge": lambda b, s: 0 if b == 0 else 1 if s == 1 else min(1, b / (1 - s)),
    "color-burn": lambda b, s: 1 if b == 1 else 0 if s == 0 else 1 - min(1, (1 - b) / s),
    "hard-light": lambda b, s: b * 2 * s if s <= 0.5 else b + (2 * s - 1) - b * (2 * s - 1),
    "soft-light": lambda b, s: (
        b - (1 - 2 * s) * b * (1 - b)
        if s <= 0.5
        else b + (2 * s - 1) * ((((16 * b - 12) * b + 4) * b if b <= 0.25 else math.sqrt(b)) - b)
    ),
    "difference": lambda b, s: abs(b - s),
    "exclusion": lambda b, s: b + s - 2 * b * s,
}


def lum(c):
    return 0.3 * c[0] + 0.59 * c[1] + 0.11 * c[2]


def set_lum(c, light):
    c = c + (light - lum(c))
    light, low, high = lum(c), c.min(), c.max()
    if low < 0:
        c = light + (c - light) * light / (light - low)
    if high > 1:
        c = light + (c - light) * (1 - light) / (high - light)
    return c


def sat(c):
    return c.max() - c.min()


def set_sat(c, s):
    return (c - c.min()) * s / sat(c) if sat(c) > 5e-4 else np.zeros(3)


WHOLE = {
    "hue": lambda b, s: set_lum(set_sat(s, sat(b)), lum(b)),
    "saturation": lambda b, s: set_lum(set_sat(b, sat(s)), lum(b)),
    "color": lambda b, s: set_lum(s, lum(b)),
    "luminosity": lambda b, s: set_lum(b, lum(s)),
}


def blended(below: np.ndarray, colour: str, mode: str) -> np.ndarray:
    """``below`` as encoded Rec. 2020 (3,), a fill blended onto it, encoded again."""
    picture = np.broadcast_to(decode_srgb(below), (20, 20, 3)).astype(np.float32).copy()
    fill = {"kind": "fill", "cover": 100, "colour": colour}
    out, *_ = rendered(picture, {"adjustments": [fill], "blend": mode})
    return encode_srgb(out[10, 10])


def fill_as_stored(colour: str) -> np.ndarray:
    return blended(np.array([0.5, 0.5, 0.5]), colour, "normal").astype(np.float64)


@settings(max_examples=examples(12))
@given(
    below=st.tuples(*[st.floats(0.02, 0.98)] * 3),
    colour=st.sampled_from(["#102030", "#c8a26a", "#7f7f7f", "#f0e0d0", "#40c080"]),
)
@pytest.mark.parametrize("mode", sorted(SEPARABLE.keys() | WHOLE.keys()))
def test_every_mode_is_the_published_formula(mode, below, colour):
    b, s = np.array(below), fill_as_stored(colour)
    if mode in SEPARABLE:
        expected = np.array([SEPARABLE[mode](float(x), float(y)) for x, y in zip(b, s, strict=True)])
    else:
        expected = WHOLE[mode](b, s)
    assert blended(b, colour, mode) == pytest.approx(np.clip(expected, 0, 1), abs=3e-3)


def test_there_are_the_standards_sixteen_modes_and_no_others():
    assert MODES.keys() == SEPARABLE.keys() | WHOLE.keys() | {"normal"}
    assert sorted(MODES.values()) == list(range(16))


@pytest.mark.parametrize("mode", sorted(MODES))
def test_a_mode_in_a_region_is_mixed_in_by_its_alpha_and_keeps_light_over_white(mode):
    picture = linear_scene() * 1.5
    fill = {"kind": "fill", "cover": 60, "colour": "#b08d57"}
    region = {"parts": [{"kind": "subject"}]}
    partly, *_ = rendered(picture, {"adjustments": [fill], "blend": mode, "region": region})
    assert np.isfinite(partly).all() and partly.max() < 2
    outside = picture[:20]
    assert np.abs(partly[:20] - outside).max() < 1e-4

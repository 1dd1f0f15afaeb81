"""Skin of a made-up portrait: even over light, shade and shine; lips, hair and white cloth are told apart from it."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lenskeep.core.colour.transfer import encode_srgb
from lenskeep.core.detect.skin import face_mask, skin_mask
from lenskeep.core.facts import Box, Face
from tests.effort import examples

H, W = 240, 200
TONES = {
    "pale": (0.72, 0.48, 0.37),
    "olive": (0.52, 0.33, 0.21),
    "brown": (0.26, 0.145, 0.085),
    "deep": (0.11, 0.06, 0.037),
}
HAIR = {"black": (0.012, 0.010, 0.010), "brown": (0.045, 0.028, 0.017), "grey": (0.30, 0.30, 0.31)}
FACE = Face(
    box=Box(x0=0.34, y0=0.28, x1=0.66, y1=0.56),
    score=0.95,
    eyes=((0.43, 0.37), (0.57, 0.37)),
    mouth=(0.5, 0.505),
)


def oval(cx, cy, rx, ry):
    y, x = np.mgrid[:H, :W]
    return ((x / W - cx) / rx) ** 2 + ((y / H - cy) / ry) ** 2 < 1


def portrait(tone="pale", hair="brown", gain=1.0, light=(1.0, 1.0, 1.0)):
    """(image, where each thing is): lit from the left so that the right cheek has a third of the light."""
    y, x = np.mgrid[:H, :W]
    skin, lips = np.array(TONES[tone]), np.array(TONES[tone]) * [0.95, 0.52, 0.62]
    places = {
        "hair": oval(0.5, 0.30, 0.25, 0.20),
        "cloth": (y / H > 0.70) & oval(0.5, 1.0, 0.46, 0.32),
        "skin": oval(0.5, 0.43, 0.19, 0.22),
        "lips": oval(0.5, 0.505, 0.075, 0.022),
    }
    shade = np.clip(1.0 - 0.66 * (x / W - 0.3) / 0.4, 0.34, 1.0)[..., None]
    scene = np.full((H, W, 3), 0.05)
    for name, colour in (("hair", HAIR[hair]), ("cloth", (0.8, 0.8, 0.8)), ("skin", skin), ("lips", lips)):
        scene = np.where(places[name][..., None], np.array(colour), scene)
    scene = scene * shade
    shine = np.exp(-(((x / W - 0.42) / 0.03) ** 2 + ((y / H - 0.33) / 0.02) ** 2))[..., None]
    scene = scene + 0.35 * skin.mean() * shine * places["skin"][..., None]
    noise = np.random.default_rng(5).normal(0, 0.004, scene.shape)
    codes = encode_srgb(np.clip(scene * gain * np.array(light) + noise, 0, 1).astype(np.float32))
    people = (places["hair"] | places["cloth"] | places["skin"]).astype(np.float32)
    places["skin"] &= ~oval(0.5, 0.505, 0.09, 0.035)
    places["hair"] &= ~oval(0.5, 0.43, 0.21, 0.24)
    return np.rint(codes * 255).astype(np.uint8), places, people


def shares(**how):
    image, places, people = portrait(**how)
    mask = skin_mask(image, [FACE], people)
    assert mask.shape == (H, W) and mask.min() >= 0 and mask.max() <= 1
    return {name: float(mask[place].mean()) for name, place in places.items()}


@pytest.mark.parametrize("tone", TONES)
@pytest.mark.parametrize("hair", HAIR)
def test_lips_hair_and_cloth_are_apart_from_skin_of_every_tone(tone, hair):
    if (tone, hair) == ("deep", "brown"):
        pytest.skip("the same colour: nothing but their shape tells them apart")
    found = shares(tone=tone, hair=hair)
    assert found["skin"] > 0.85, found
    assert found["lips"] < 0.35 and found["hair"] < 0.25 and found["cloth"] < 0.1, found


@settings(max_examples=examples(15))
@given(st.floats(0.4, 1.15), st.floats(0.85, 1.15), st.floats(0.75, 1.1))
def test_however_it_is_exposed_and_whatever_the_light_is(gain, red, blue):
    found = shares(gain=gain, light=(red, 1.0, blue))
    assert found["skin"] > 0.8 and found["cloth"] < 0.15 and found["lips"] < 0.45, found


def test_light_and_shade_of_one_cheek_are_both_skin():
    image, places, people = portrait()
    mask = skin_mask(image, [FACE], people)
    left, right = places["skin"].copy(), places["skin"].copy()
    left[:, W // 2 :], right[:, : W // 2] = False, False
    assert abs(mask[left].mean() - mask[right].mean()) < 0.12


def test_without_a_face_the_hue_of_skin_counts_and_without_people_nothing_is_skin():
    image, places, people = portrait()
    mask = skin_mask(image, [], people)
    assert mask[places["skin"]].mean() > 0.5 > mask[places["cloth"]].mean()
    assert not skin_mask(image, [FACE], np.zeros((H, W), np.float32)).any()
    assert not face_mask((H, W), [], people).any()


def test_a_face_that_an_earlier_finder_noted_without_a_mouth_is_read():
    face = Face.model_validate({"box": FACE.box.model_dump(), "score": 0.9})
    image, places, people = portrait()
    assert skin_mask(image, [face], people)[places["skin"]].mean() > 0.85

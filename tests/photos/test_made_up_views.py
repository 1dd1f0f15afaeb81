"""What the sky decoders learn from: the label of a made-up view says what of it is sky."""

import numpy as np
import pytest

from tools.photos.mesh import ball
from tools.photos.scenes import woods
from tools.photos.shoots import save_render
from tools.sky_decoder import made_up_rooms, made_up_skies, made_up_views, made_up_woods
from tools.sky_decoder.samples import LONG, SHORT, VIEWS, made_up

GROUND = np.random.default_rng(1).uniform(0.0, 0.4, (176, 256, 3)).astype(np.float32)
LIT_BY = 1.1
"""How bright the sky of the traced wood is."""
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


@pytest.fixture(scope="module")
def wood(tmp_path_factory):
    """A traced wood of which the left half is sky, with a soft border, and the rest green light ten metres off."""
    share = np.tile(np.clip((90 - np.arange(180)) / 20 + 0.5, 0, 1), (120, 1)).astype(np.float32)
    green = np.array([0.02, 0.06, 0.01], np.float32)
    picture = share[..., None] * LIT_BY + (1 - share[..., None]) * green
    folder = tmp_path_factory.mktemp("renders")
    traced = {"img": picture, "z": (1 - share) * 10, "sky": share[::2, ::2]}
    save_render(folder / "woods-wood-1.npz", traced, (0.5, 0.5))
    save_render(folder / "woods-wood-2.npz", {**traced, "sky": np.zeros((60, 90), np.float32)}, (0.5, 0.5))
    save_render(folder / "woods-wood-13.npz", {**traced, "img": picture * 2}, (0.5, 0.5))
    plates, aside = made_up_woods.plates(folder), made_up_woods.plates(folder, aside=True)
    assert len(plates) == 1, "a wood without any sky tells nothing, and another is kept aside"
    assert [round(plate.sky, 2) for plate in aside] == [2 * LIT_BY]
    return plates[0]


def test_what_stands_before_a_traced_sky_is_known_without_it(wood):
    assert wood.sky == pytest.approx(LIT_BY, abs=0.01) and wood.share.shape == wood.light.shape[:2]
    there = wood.share < 0.001
    assert np.abs(wood.light[there] - (0.02, 0.06, 0.01)).max() < 0.002
    assert wood.light[wood.share > 0.999].max() < 0.01, "no light of the traced sky is left"


def test_a_wood_under_another_sky_has_its_colour_where_it_says_so_and_nowhere_else(wood, monkeypatch):
    monkeypatch.setattr(made_up_woods, "sky", lambda h, w, random: np.full((h, w, 3), (0.6, 0.1, 0.6)))
    for seed in range(12):
        image, share = made_up_woods.made_wood(wood, None, np.random.default_rng(seed))
        assert image.dtype == np.float32 and image.shape[:2] == share.shape == wood.share.shape
        ratio = image[..., 0] / np.maximum(image[..., 1], 0.02)
        burnt = image[..., 1] > 0.95
        assert (ratio[(share > 0.98) & ~burnt] > 1).all(), "lilac"
        assert np.median(image[share > 0.98]) > np.median(image[share < 0.001]), "and brighter than what it lights"
        assert np.array_equal(share, wood.share)


def test_whoever_stands_before_a_wood_is_no_sky(wood):
    subject = np.tile(np.array([1.0, 0.0, 0.0], np.float32), (100, 60, 1)), np.ones((100, 60), np.float32)
    before = wood.share.copy()
    for seed in range(4):
        image, share = made_up_woods.made_wood(wood, subject, np.random.default_rng(seed))
        there = (image[..., 0] > 0.8) & (image[..., 1:].max(-1) < 0.2)
        assert there.any() and share[there].max() < 0.05
    assert np.array_equal(wood.share, before), "the next view has it whole"


def test_woods_to_learn_from_differ_and_stand_before_the_lens(monkeypatch):
    monkeypatch.setattr(woods, "tree", lambda *words, **more: (ball((0, 0, 3), 1.0), ball((0, 0, 6), 2.0)))
    monkeypatch.setattr(woods, "lawn", lambda *words, **more: ball((0, 5, 0), 0.1))
    seen = set()
    for number in range(len(woods.KINDS)):
        scene = woods.build(f"wood-{number}")
        assert not scene.subjects() and scene.sky.zenith == scene.sky.horizon, "a sky that can be taken away"
        trunks = scene.things[-2].mesh.vertices
        assert trunks[:, 1].min() > 0 and len(trunks) > 5 * len(ball((0, 0, 3), 1.0).vertices)
        seen.add((scene.camera.view, scene.camera.aperture, len(trunks)))
    assert len(seen) == len(woods.KINDS)
    again = woods.build("wood-3")
    assert (again.camera.view, again.camera.aperture, len(again.things[-2].mesh.vertices)) in seen


@pytest.mark.parametrize("views", VIEWS)
def test_every_view_comes_up_and_a_number_is_always_the_same_view(views, wood):
    assert {made_up_skies.made_scene, made_up_rooms.made_room, made_up_rooms.made_crowns} <= set(VIEWS[views])
    subjects = [(GROUND, np.ones(GROUND.shape[:2], np.float32))]
    for number in range(len(VIEWS[views])):
        one, two = (made_up(number, views, [GROUND], subjects, [wood]) for _ in "ab")
        assert np.array_equal(one[0], two[0]) and np.array_equal(one[1], two[1])
        assert one[0].dtype == np.uint8 and sorted(one[1].shape) == [SHORT, LONG]

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lenskeep.core.colour.oklab import from_oklab, to_oklab
from lenskeep.core.measure.guards import GUARDS, faults
from lenskeep.core.measure.histogram import histograms
from lenskeep.core.measure.pull import pull
from tests.core.pictures import linear_scene
from tests.effort import examples

H, W = 240, 360


def ground(value: float = 0.2) -> np.ndarray:
    return np.full((H, W, 3), value, np.float32)


def disc(soft: float = 2.0) -> np.ndarray:
    y, x = np.mgrid[:H, :W]
    return np.clip((70 - np.hypot(x - W / 2, y - H / 2)) / soft + 0.5, 0, 1).astype(np.float32)


NO_SKIN = np.zeros((H, W), np.float32)


def test_an_untouched_picture_has_no_fault_but_what_was_in_it():
    picture = linear_scene()
    found = faults(picture, picture, np.ones(picture.shape[:2], np.float32), [])
    assert found.figures.keys() == found.maps.keys() == GUARDS.keys()
    assert all(found.figures[name] == 0 for name in ("skin", "glow", "seam", "gamut"))


def test_shares_of_clipped_and_crushed_pixels_are_counted():
    after = ground()
    after[:24] = 1.2
    after[24:36] = 0.0
    found = faults(ground(), after, NO_SKIN, [])
    assert found.figures["clipped"] == pytest.approx(10.0) and found.figures["crushed"] == pytest.approx(5.0)
    assert found.maps["clipped"][:24].min() == 1 and found.maps["clipped"][24:].max() == 0


def test_a_colour_srgb_cannot_hold_is_found_and_light_over_white_is_not():
    after = ground()
    after[:120] = (0.1, 0.5, 0.05)  # a green of Rec. 2020
    after[120:] = 1.8
    found = faults(ground(), after, NO_SKIN, [])
    assert found.figures["gamut"] == pytest.approx(50.0)


def test_skin_drift_is_measured_inside_skin_alone():
    after = ground()
    after[:, : W // 2] = (0.30, 0.2, 0.1)
    skin = NO_SKIN.copy()
    skin[:, W // 2 :] = 1
    assert faults(ground(), after, skin, []).figures["skin"] == 0
    assert faults(ground(), after, 1 - skin, []).figures["skin"] > GUARDS["skin"].limit


@given(
    st.sampled_from([(0.82, 0.53, 0.40), (0.56, 0.24, 0.14), (0.16, 0.06, 0.035)]),
    st.floats(-1.0, 1.0),
    st.sampled_from([(1.12, 1.0, 0.75), (0.9, 1.0, 1.35), (1.15, 0.85, 1.1)]),
)
def test_lighter_skin_is_the_same_skin_and_orange_skin_is_not(skin, stops, tint):
    """Skin of three tones as linear light: any exposure alone leaves it what it is; a cast shows at any exposure."""
    before = np.tile(np.asarray(skin, np.float32), (40, 40, 1))
    lit = before * np.float32(2.0**stops)
    all_skin = np.ones((40, 40), np.float32)
    assert faults(before, lit, all_skin, [], {"skin"}).figures["skin"] < 0.05
    cast = faults(before, lit * np.asarray(tint, np.float32), all_skin, [], {"skin"})
    alone = faults(before, before * np.asarray(tint, np.float32), all_skin, [], {"skin"})
    assert cast.figures["skin"] == pytest.approx(alone.figures["skin"] * 2 ** (stops / 3), rel=0.02)
    assert cast.figures["skin"] > 1.0 and cast.maps["skin"].min() > 0.1


def test_skin_of_stronger_colour_warns_and_of_little_stronger_does_not():
    lab = np.tile(np.array([0.7, 0.113, 0.078], np.float32), (40, 40, 1))
    skin = np.ones((40, 40), np.float32)

    def drift(times):
        after = lab * np.array([1.0, times, times], np.float32)
        return faults(from_oklab(lab), from_oklab(after), skin, [], {"skin"}).figures["skin"]

    assert drift(1.15) < GUARDS["skin"].limit < drift(1.4)
    assert drift(0.85) < GUARDS["skin"].limit < drift(0.6), "grey skin is a fault as well"


@pytest.mark.parametrize("tone", [(0.0, 0.0), (0.01, 0.03)])
def test_a_picture_in_black_and_white_drifts_nowhere_and_grey_skin_in_a_coloured_one_does(tone):
    picture = linear_scene()
    skin = np.zeros(picture.shape[:2], np.float32)
    skin[:60] = 1
    lab = to_oklab(picture)
    lab[:60, :, 1:] = (0.113, 0.078)
    coloured, grey = from_oklab(lab), lab.copy()
    grey[..., 1:] = tone
    assert faults(coloured, from_oklab(grey), skin, [], {"skin"}).figures["skin"] == 0
    lab[:60, :, 1:] = tone
    assert faults(coloured, from_oklab(lab), skin, [], {"skin"}).figures["skin"] > GUARDS["skin"].limit


def test_a_rim_along_a_border_is_edge_glow_and_an_even_lift_is_not():
    region = disc()
    picture = ground() * (0.5 + 2.5 * (region > 0.5))[..., None].astype(np.float32)
    lifted = picture * (1 + 0.5 * region)[..., None]
    assert faults(picture, lifted, NO_SKIN, [region]).figures["glow"] < 1.0
    y, x = np.mgrid[:H, :W]
    rim = np.exp(-(((np.hypot(x - W / 2, y - H / 2) - 72) / 2.0) ** 2))
    haloed = lifted * (1 + 0.6 * rim)[..., None].astype(np.float32)
    found = faults(picture, haloed, NO_SKIN, [region])
    assert found.figures["glow"] > GUARDS["glow"].limit
    at = np.argwhere(found.maps["glow"] == found.maps["glow"].max())
    assert np.abs(np.hypot(at[:, 1] - W / 2, at[:, 0] - H / 2) - 71).max() < 5


def test_fur_and_grass_hide_a_faint_rim_and_not_a_halo():
    region, random = disc(), np.random.default_rng(3)
    y, x = np.mgrid[:H, :W]
    rim = np.exp(-(((np.hypot(x - W / 2, y - H / 2) - 72) / 2.0) ** 2))[..., None]

    def glow(roughness, halo):
        lab = to_oklab(ground() * (0.6 + 1.2 * (region > 0.5))[..., None].astype(np.float32))
        lab[..., 0] += random.normal(0, roughness, (H, W))
        picture = np.maximum(from_oklab(lab), 0.001)
        lifted = (picture * (1 + 0.3 * region[..., None] + halo * rim)).astype(np.float32)
        return faults(picture, lifted, NO_SKIN, [region]).figures["glow"]

    assert glow(0.0, 0.25) > GUARDS["glow"].limit > glow(0.06, 0.25)
    assert glow(0.06, 0.8) > GUARDS["glow"].limit


def test_a_hard_border_where_the_picture_has_none_is_a_seam_and_a_soft_one_or_a_true_edge_is_not():
    hard, soft = disc(0.5), disc(80)
    flat = ground()
    assert faults(flat, flat * (1 + hard)[..., None], NO_SKIN, [hard]).figures["seam"] > GUARDS["seam"].limit
    assert faults(flat, flat * (1 + soft)[..., None], NO_SKIN, [soft]).figures["seam"] < GUARDS["seam"].limit
    edged = ground() * (0.3 + 2 * hard)[..., None]
    assert faults(edged, edged * (1 + hard)[..., None], NO_SKIN, [hard]).figures["seam"] < 1.0


def test_an_edge_of_colour_excuses_a_step_as_one_of_light_does():
    """Brown fur before blue paper, equally light: nobody takes the fur's outline for a seam."""
    hard = disc(0.5)
    lab = np.tile(np.array([0.55, -0.02, -0.07], np.float32), (H, W, 1))
    lab[hard > 0.5, 1:] = (0.03, 0.07)
    lifted = lab + np.array([0.1, 0, 0], np.float32) * (1 - hard)[..., None]
    found = faults(from_oklab(lab), from_oklab(lifted), NO_SKIN, [hard])
    assert found.figures["seam"] < 1.0
    lab[..., 1:] = (-0.02, -0.07)
    lifted[..., 1:] = lab[..., 1:]
    assert faults(from_oklab(lab), from_oklab(lifted), NO_SKIN, [hard]).figures["seam"] > GUARDS["seam"].limit


def test_each_border_says_what_it_would_say_alone():
    y, x = np.mgrid[:H, :W]
    left, right = ((np.hypot(x - at, y - 120) < 60).astype(np.float32) for at in (70, 285))
    picture = ground() * np.float32(1.0) + (0.02 * np.sin(x / 9.0 + y / 17.0)).astype(np.float32)[..., None]
    after = picture * (1 + 0.15 * left + 0.7 * right)[..., None]
    both = faults(picture, after, NO_SKIN, [left, right, 1 - right])
    assert len(both.along["seam"]) == 2, "the opposite of a region has the same border"
    for guard in ("glow", "seam"):
        alone = [faults(picture, after, NO_SKIN, [region]).figures[guard] for region in (left, right)]
        said = [both.of_region(guard, region) for region in (left, right, 1 - right)]
        assert said == pytest.approx([*alone, alone[1]], abs=0.006)
        assert said[1] > said[0]
    assert both.figures["glow"] == pytest.approx(max(both.of_region("glow", r) for r in (left, right)), abs=0.006)


@settings(max_examples=examples(20))
@given(st.integers(0, W), st.integers(0, H), st.integers(8, 90), st.integers(0, 99))
def test_a_border_is_looked_at_the_same_wherever_it_lies(across, down, radius, seed):
    """Only what is around a border is looked at; the rest of the frame may hold anything."""
    y, x = np.mgrid[:H, :W]
    region = np.clip(radius - np.hypot(x - across, y - down) + 0.5, 0, 1).astype(np.float32)
    grain = np.random.default_rng(seed).normal(0, 0.01, (H, W, 1)).astype(np.float32)
    picture = ground() + grain
    after = picture * (1 + 0.6 * region)[..., None]
    found = faults(picture, after, NO_SKIN, [region], ("glow",))
    turned = [np.ascontiguousarray(a[::-1, ::-1]) for a in (picture, after, region)]
    again = faults(turned[0], turned[1], NO_SKIN, [turned[2]], ("glow",))
    assert again.figures["glow"] == pytest.approx(found.figures["glow"], abs=0.02)
    assert np.allclose(again.maps["glow"][::-1, ::-1], found.maps["glow"], atol=2e-3)


def test_a_subject_that_is_brighter_warmer_and_rougher_pulls_in_all_three():
    rng, subject = np.random.default_rng(3), disc() > 0.5
    picture = np.full((*subject.shape, 3), 0.1, np.float32)
    rough = 0.3 * np.array((1.1, 1.0, 0.7), np.float32) * rng.uniform(0.8, 1.2, (*subject.shape, 1)).astype(np.float32)
    picture[subject] = rough[subject]
    found = pull(picture, subject.astype(np.float32))
    assert found.brightness > 10 and found.warmth > 1 and found.detail > 1
    turned = pull(picture, 1.0 - subject.astype(np.float32))
    for name in ("brightness", "warmth", "detail"):
        assert getattr(turned, name) == pytest.approx(-getattr(found, name), abs=1e-3)
    assert pull(picture, np.zeros_like(picture[..., 0])) is None


def test_histograms_add_up_and_follow_their_region():
    pixels = np.full((40, 60, 3), 20, np.uint8)
    pixels[:, 30:] = (250, 120, 10)
    whole = histograms(pixels)
    assert all(sum(bins) == pytest.approx(1, abs=1e-3) for bins in whole.values())
    region = np.zeros((40, 60), np.float32)
    region[:, 30:] = 1
    assert histograms(pixels, region)["red"][250 // 4] == 1
    assert sum(histograms(pixels, np.zeros((40, 60), np.float32))["light"]) == 0

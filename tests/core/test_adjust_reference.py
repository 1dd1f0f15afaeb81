"""Adjustments against published values and formulas, and against themselves at another size."""

from itertools import pairwise

import cv2
import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from lenskeep.core.adjust import KINDS, adjustment_class
from lenskeep.core.adjust.colour.colour_bands import BANDS
from lenskeep.core.adjust.detail.haze import airlight, dark_channel
from lenskeep.core.adjust.light.curve import monotone_cubic
from lenskeep.core.colour.adapt import CAT16
from lenskeep.core.colour.named import lab_of, linear_of
from lenskeep.core.colour.oklab import delta_e, from_oklab, to_oklab
from lenskeep.core.colour.spaces import REC2020_TO_SRGB, SRGB_TO_REC2020
from lenskeep.core.plan import make_plan
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.render import compile_plan, render_rows
from lenskeep.files.reading.photo import read_photo
from tests.core.adjustments import STRONG, strong, table_fields, warm_table
from tests.core.pictures import adjusted, linear_scene, luminance
from tests.effort import examples
from tools.made_up import DEMO, frame_of


def grey_ramp(low: float = 0.002, high: float = 1.0) -> np.ndarray:
    return np.geomspace(low, high, 180, dtype=np.float32)[None, :, None].repeat(60, 0).repeat(3, 2)


def test_oklab_of_the_primaries_as_css_color_4_gives_them():
    # CSS Color 4: red is oklab(0.62796 0.22486 0.12585), blue oklab(0.45201 -0.03246 -0.31153)
    assert lab_of("#ff0000") == pytest.approx((0.62796, 0.22486, 0.12585), abs=2e-4)
    assert lab_of("#0000ff") == pytest.approx((0.45201, -0.03246, -0.31153), abs=2e-4)
    assert lab_of("#ffffff") == pytest.approx((1.0, 0.0, 0.0), abs=2e-4)


def test_cat16_rows_as_published_leave_equal_energy_white_near_one():
    assert CAT16.sum(1) == pytest.approx((1.0, 1.0, 1.0), abs=2e-3)  # Li et al. 2017: Illuminant E is (1, 1, 1)


def test_the_dark_channel_of_a_haze_free_field_is_dark_and_the_airlight_is_the_haze():
    picture = np.zeros((100, 100, 3), np.float32)
    picture[..., 1] = 0.6
    assert dark_channel(picture).max() == 0.0  # He, Sun & Tang 2009: a haze-free patch has a channel near 0
    picture[:20] = (0.7, 0.8, 0.9)
    assert airlight(picture, dark_channel(picture)) == pytest.approx((0.7, 0.8, 0.9), abs=1e-4)


@settings(max_examples=examples(40))
@given(st.lists(st.tuples(st.floats(0, 1), st.floats(0, 1)), min_size=2, max_size=8))
def test_a_curve_passes_through_its_points_and_is_monotone_where_they_are(points):
    points = sorted(points)
    assume(all(b[0] - a[0] > 0.02 for a, b in pairwise(points)))
    for x, y in points:
        assert float(monotone_cubic(points, np.float32(x))) == pytest.approx(y, abs=2e-4)
    rising = sorted(y for _, y in points)
    curve = monotone_cubic(list(zip([x for x, _ in points], rising, strict=True)), np.linspace(0, 1, 500))
    assert (np.diff(curve) > -1e-5).all()


def test_a_curve_does_to_lightness_what_is_drawn_and_one_channel_leaves_the_others():
    ramp = grey_ramp()
    points = [[0, 0.1], [0.5, 0.4], [1, 0.9]]
    out = to_oklab(adjusted(ramp, {"kind": "curve", "points": points}))[30, :, 0]
    expected = monotone_cubic([tuple(p) for p in points], to_oklab(ramp)[30, :, 0])
    np.testing.assert_allclose(out, expected, atol=3e-3)
    red = adjusted(ramp, {"kind": "curve", "channel": "red", "points": [[0, 0], [0.5, 0.6], [1, 1]]})
    np.testing.assert_allclose(red[..., 1:], ramp[..., 1:], rtol=2e-3)
    assert (red[30, 20:160, 0] > ramp[30, 20:160, 0]).all()


@pytest.mark.parametrize("points", [[[0, 0]], [[0, 0], [0, 1]], [[0.5, 0], [0.2, 1]], [[0, 0], [1, 1.5]]])
def test_a_curve_that_goes_back_is_refused(points):
    with pytest.raises(ValueError):
        adjustment_class("curve").model_validate({"kind": "curve", "points": points})


GREY_KEEPERS = sorted(
    KINDS.keys()
    - {
        "balance",
        "warmth",
        "tint",
        "split_toning",
        "colour_wash",
        "colour_table",
        "glow",
        "fill",
        "overlay",
        "text_mark",
        "grain",
        "haze",
    }
)


@pytest.mark.parametrize("kind", GREY_KEEPERS)
def test_a_grey_ramp_stays_grey(kind):
    out = adjusted(grey_ramp(), strong(kind))
    assert np.abs(to_oklab(out)[..., 1:]).max() < 1.5e-3, kind


@pytest.mark.parametrize("kind", ["contrast", "white_point", "black_point", "zone_contrast", "highlights", "shadows"])
@pytest.mark.parametrize("end", ["low", "high"])
def test_no_two_tones_swap_places_at_either_end(kind, end):
    values = {c.name: getattr(c, end) for c in KINDS[kind].controls()}
    out = luminance(adjusted(grey_ramp(), {"kind": kind, **values}))[30]
    assert (np.diff(out) > -2e-4).all(), kind


def test_zone_contrast_works_in_its_own_zone_only():
    ramp = grey_ramp()
    light = to_oklab(ramp)[30, :, 0]
    out = to_oklab(adjusted(ramp, {"kind": "zone_contrast", "highlights": 80}))[30, :, 0]
    np.testing.assert_allclose(out[light < 0.45], light[light < 0.45], atol=0.01)
    bright = (light > 0.72) & (light < 0.88)
    assert np.polyfit(light[bright], out[bright], 1)[0] > 1.25


def test_muted_colours_grow_more_than_strong_ones_and_skin_hardly():
    lab = np.zeros((60, 90, 3), np.float32)
    lab[..., 0] = 0.65
    hues = {0: (200.0, 0.03), 30: (200.0, 0.20), 60: (50.0, 0.07)}  # muted blue, strong blue, skin
    for start, (hue, chroma) in hues.items():
        lab[:, start : start + 30, 1:] = chroma * np.array([np.cos(np.deg2rad(hue)), np.sin(np.deg2rad(hue))])
    out = to_oklab(adjusted(from_oklab(lab), {"kind": "muted_colours", "muted": 100}))
    before, after = (np.linalg.norm(x[30, ::30, 1:], axis=-1) for x in (lab, out))
    muted, strong_blue, skin = after / before
    assert muted > 1.8 and strong_blue < 1.1 and skin < 1.4


def test_colour_bands_turn_their_own_hue_by_what_they_say_and_leave_the_opposite():
    hues = np.array(list(BANDS.values()), np.float64)
    lab = np.zeros((60, 8 * 20, 3), np.float32)
    lab[..., 0] = 0.6
    angle = np.deg2rad(np.repeat(hues, 20))
    lab[..., 1], lab[..., 2] = 0.09 * np.cos(angle), 0.09 * np.sin(angle)
    out = to_oklab(adjusted(from_oklab(lab), {"kind": "colour_bands", "green_turn": 100, "blue_chroma": -100}))
    turned = np.rad2deg(np.arctan2(out[30, 10::20, 2], out[30, 10::20, 1])) % 360
    chroma = np.hypot(out[30, 10::20, 1], out[30, 10::20, 2])
    names = list(BANDS)
    assert turned[names.index("green")] == pytest.approx(BANDS["green"] + 30, abs=0.5)
    assert turned[names.index("purple")] == pytest.approx(BANDS["purple"], abs=0.5)
    assert chroma[names.index("blue")] < 0.002 and chroma[names.index("red")] == pytest.approx(0.09, abs=1e-3)


@settings(max_examples=examples(20))
@given(st.floats(-180, 180))
def test_hue_turn_keeps_lightness_and_chroma(degrees):
    picture = linear_scene()
    before, after = to_oklab(picture), to_oklab(adjusted(picture, {"kind": "hue_turn", "degrees": degrees}))
    np.testing.assert_allclose(after[..., 0], before[..., 0], atol=3e-3)
    chroma = [np.hypot(x[..., 1], x[..., 2]) for x in (before, after)]
    np.testing.assert_allclose(chroma[1], chroma[0], atol=4e-3)


def test_split_toning_goes_to_the_hues_it_is_given_and_spares_black_and_white():
    out = to_oklab(adjusted(grey_ramp(1e-5), {"kind": "split_toning", "shadows": 100, "highlights": 100}))[30]
    hue = np.rad2deg(np.arctan2(out[:, 2], out[:, 1])) % 360
    dark, bright = np.argmin(np.abs(out[:, 0] - 0.3)), np.argmin(np.abs(out[:, 0] - 0.75))
    assert hue[dark] == pytest.approx(240, abs=8) and hue[bright] == pytest.approx(70, abs=8)
    assert np.abs(out[[0, -1], 1:]).max() < 0.01


def test_a_wash_goes_to_its_colour_and_keeps_lightness():
    out = to_oklab(adjusted(np.full((60, 90, 3), 0.2, np.float32), {"kind": "colour_wash", "wash": 100}))
    _, a, b = lab_of("#b08d57")
    assert out[30, 45] == pytest.approx((float(to_oklab(np.full(3, 0.2, np.float32))[0]), a, b), abs=4e-3)


@settings(max_examples=examples(20))
@given(st.floats(-50, 150), st.floats(-50, 150), st.floats(-50, 150))
def test_monochrome_is_grey_and_leaves_greys_as_they_are(red, green, blue):
    assume(red + green + blue > 25)
    values = {"kind": "monochrome", "grey": 100, "red": red, "green": green, "blue": blue}
    assert np.ptp(adjusted(linear_scene(), values), axis=-1).max() < 1e-4
    np.testing.assert_allclose(adjusted(grey_ramp(), values), grey_ramp(), rtol=2e-3)


def test_a_colour_table_is_read_as_its_formula_says():
    codes = np.random.default_rng(3).uniform(0, 1, (60, 90, 3)).astype(np.float32)
    srgb = np.where(codes <= 0.04045, codes / 12.92, ((codes + 0.055) / 1.055) ** 2.4)
    picture = (srgb @ SRGB_TO_REC2020.T).astype(np.float32)
    fine = {**STRONG["colour_table"], "share": 100}
    fine |= table_fields(warm_table(33), "warm")
    out = adjusted(picture, {"kind": "colour_table", **fine}) @ REC2020_TO_SRGB.T.astype(np.float32)
    encoded = np.where(out <= 0.0031308, out * 12.92, 1.055 * np.maximum(out, 1e-9) ** (1 / 2.4) - 0.055)
    inside = codes[..., 0] > 0.1  # the power's slope at 0 is beyond any table
    expected = np.stack([codes[..., 0] ** 0.8, codes[..., 1], codes[..., 2] ** 1.3], -1)
    assert np.abs(encoded - expected)[inside].max() < 2e-3


def test_denoise_takes_grain_and_specks_and_leaves_an_edge():
    random = np.random.default_rng(5)
    clean = np.full((240, 360, 3), 0.25, np.float32)
    clean[:, 180:] = (0.5, 0.6, 0.8)
    noisy = clean * np.exp2(random.normal(0, 0.08, clean.shape)).astype(np.float32)
    out = adjusted(noisy, {"kind": "denoise", "lightness": 100, "colour": 100})
    flat = (slice(20, 220), slice(20, 160))
    assert luminance(out)[flat].std() < 0.5 * luminance(noisy)[flat].std()
    assert to_oklab(out)[flat][..., 1].std() < 0.4 * to_oklab(noisy)[flat][..., 1].std()
    assert luminance(out)[120, 188:196].mean() - luminance(out)[120, 164:172].mean() > 0.28


def test_sharpen_steepens_an_edge_without_a_rim_and_leaves_grain_when_told():
    picture = np.full((120, 900, 3), 0.2, np.float32)
    picture[:, 450:] = 0.6
    picture = cv2.GaussianBlur(picture, (0, 0), 2.0)
    out = luminance(adjusted(picture, {"kind": "sharpen", "sharpen": 100, "radius": 20, "edges": 20}))[60]
    plain = luminance(picture)[60]
    assert np.diff(np.log2(out)).max() > 1.15 * np.diff(np.log2(plain)).max()
    assert out.max() < 0.6 * 1.15 and out.min() > 0.2 * 0.85
    grain = picture * np.exp2(np.random.default_rng(2).normal(0, 0.03, picture.shape[:2]))[..., None].astype(np.float32)
    spared = adjusted(grain, {"kind": "sharpen", "sharpen": 200, "radius": 20, "edges": 100})
    assert luminance(spared)[10:100, 20:400].std() < 1.05 * luminance(grain)[10:100, 20:400].std()


def test_soften_in_a_region_takes_nothing_of_its_neighbour():
    picture = np.full((120, 180, 3), 0.05, np.float32)
    picture[:54] = 0.8  # what frame_of calls the sky
    region = {"parts": [{"kind": "sky"}]}
    out = adjusted(picture, {"kind": "soften", "soften": 100, "radius": 4}, **region)
    assert luminance(out)[44] == pytest.approx(0.8, rel=0.05)


def test_glow_spreads_from_light_only_and_in_proportion():
    picture = np.full((120, 180, 3), 0.02, np.float32)
    picture[50:70, 80:100] = 1.0
    one, two = (luminance(adjusted(picture, {"kind": "glow", "glow": g, "radius": 4})) for g in (30, 60))
    assert one[60, 76] > 0.03 and one[5, 5] == pytest.approx(0.02, rel=0.02)
    assert (two - 0.02)[60, 76] == pytest.approx(2 * (one - 0.02)[60, 76], rel=0.03)


def test_a_fill_is_its_colour_and_a_gradient_goes_from_one_to_the_other_along_its_angle():
    picture = linear_scene()
    flat = adjusted(picture, {"kind": "fill", "cover": 100, "colour": "#336699"})
    np.testing.assert_allclose(flat, np.broadcast_to(linear_of("#336699"), flat.shape), atol=2e-3)
    values = {"kind": "fill", "cover": 100, "style": "gradient", "colour": "#000000", "second": "#ffffff", "angle": 90}
    down = luminance(adjusted(picture, values))
    assert down[0].max() < 0.01 and down[-1].min() > 0.95 and np.abs(np.diff(down, axis=1)).max() < 1e-3


def test_posterise_makes_as_many_tones_as_it_says():
    light = to_oklab(adjusted(grey_ramp(1e-5), {"kind": "posterise", "posterise": 100, "steps": 4}))[30, :, 0]
    at = light * 3
    assert (np.abs(at - np.rint(at)) < 0.02).mean() > 0.75
    assert set(np.rint(at).astype(int)) == {0, 1, 2, 3}


def test_text_lies_in_its_corner_and_is_its_colour():
    picture = np.full((400, 600, 3), 0.2, np.float32)
    values = {
        "kind": "text_mark",
        "opacity": 100,
        "text": "Mo & Ada",
        "size": 8,
        "colour": "#ff0000",
        "place": "top left",
    }
    out = adjusted(picture, values)
    changed = np.argwhere(np.abs(out - picture).max(-1) > 0.05)
    assert changed[:, 0].max() < 80 and changed[:, 1].max() < 300
    assert np.abs(out - linear_of("#ff0000")).max(-1).min() < 0.02


@pytest.mark.parametrize("kind", sorted(KINDS))
def test_two_sizes_agree(kind):
    photo = read_photo(DEMO / "LKD_0201.jpg")
    full, small = photo.rows(0, photo.height), photo.reduced(800)
    frame = frame_of(photo.reduced(1024))
    program = compile_plan(
        make_plan(Recipe.model_validate({"steps": [{"id": "a", "adjustments": [strong(kind)]}]})), frame
    )
    large = cv2.resize(render_rows(program, full), small.shape[1::-1], interpolation=cv2.INTER_AREA)
    assert float(delta_e(large, render_rows(program, small)).mean()) < 0.006, kind

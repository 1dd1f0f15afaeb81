import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lenskeep.core.colour.adapt import adaptation, planckian_xy, tint_matrix, warmth_matrix
from lenskeep.core.colour.oklab import LMS_TO_LAB, XYZ_TO_LMS, delta_e, from_oklab, measured_oklab, to_oklab
from lenskeep.core.colour.spaces import REC2020_TO_SRGB, SRGB_TO_REC2020, from_rec2020, rgb_to_xyz, through
from lenskeep.core.colour.transfer import DECODE8, encode_srgb
from lenskeep.core.engine.encode.gamut import SPACES, into_space
from lenskeep.core.engine.encode.srgb8 import decode_rows, encode_rows
from tests.effort import examples

channel = st.floats(0.0, 1.0, width=32)


@pytest.mark.parametrize(
    ("xyz", "lab"),
    [  # Ottosson 2020, table of test values
        ((0.950, 1.000, 1.089), (1.000, 0.000, 0.000)),
        ((1.000, 0.000, 0.000), (0.450, 1.236, -0.019)),
        ((0.000, 1.000, 0.000), (0.922, -0.671, 0.263)),
        ((0.000, 0.000, 1.000), (0.153, -1.415, -0.449)),
    ],
)
def test_oklab_gives_the_published_values(xyz, lab):
    assert np.round(LMS_TO_LAB @ np.cbrt(XYZ_TO_LMS @ np.array(xyz)), 3) == pytest.approx(lab, abs=1.5e-3)


def test_srgb_primaries_give_the_published_xyz():
    # CSS Color 4: lin_sRGB_to_XYZ
    assert rgb_to_xyz("srgb")[:, 0] == pytest.approx([0.4123908, 0.2126390, 0.0193308], abs=1e-6)


@given(channel, channel, channel)
def test_oklab_goes_there_and_back(r, g, b):
    rgb = np.array([[r, g, b]], np.float32)
    np.testing.assert_allclose(from_oklab(to_oklab(rgb)), rgb, atol=2e-5)


@given(st.sampled_from([(0, 3), (3,), (7, 3), (4, 5, 3), (2, 3, 4, 3)]), st.integers(0, 99))
def test_what_is_measured_fast_is_what_is_worked_out_plainly(shape, seed):
    rgb = np.random.default_rng(seed).uniform(-0.05, 1.6, shape).astype(np.float32)
    np.testing.assert_allclose(through(rgb, REC2020_TO_SRGB), rgb @ REC2020_TO_SRGB.T, atol=2e-6)
    np.testing.assert_allclose(measured_oklab(rgb), to_oklab(rgb), atol=1e-4)
    assert through(rgb, REC2020_TO_SRGB).shape == rgb.shape
    apart = np.repeat(rgb, 2, axis=0)[::2]  # not one piece of memory
    np.testing.assert_array_equal(through(apart, REC2020_TO_SRGB), through(rgb, REC2020_TO_SRGB))


def test_delta_e_is_the_distance_in_oklab():
    grey, white = np.full((1, 3), 0.125, np.float32), np.ones((1, 3), np.float32)
    assert delta_e(grey, white)[0] == pytest.approx(0.5, abs=1e-4)  # cube root of 1/8 against 1


def test_planckian_locus_gives_known_chromaticities():
    # Illuminant A is a black body at 2856 K (CIE 15)
    assert planckian_xy(2856) == pytest.approx((0.4476, 0.4074), abs=1e-3)


def test_cat16_takes_one_white_to_the_other():
    source, target = (0.4476, 0.4074), (0.3127, 0.3290)
    matrix = adaptation(source, target)
    to_xyz = rgb_to_xyz("rec2020")
    white = np.linalg.solve(to_xyz, [source[0] / source[1], 1, (1 - sum(source)) / source[1]])
    assert matrix @ white == pytest.approx([1, 1, 1], abs=1e-6)


def test_warmth_and_tint_move_grey_the_right_way_and_keep_its_brightness():
    grey = np.full((1, 3), 0.18)

    def moved(matrix):
        return to_oklab((grey @ matrix.T).astype(np.float32))[0] - to_oklab(grey.astype(np.float32))[0]

    warm, cold = moved(warmth_matrix(30)), moved(warmth_matrix(-30))
    magenta, green = moved(tint_matrix(0.01)), moved(tint_matrix(-0.01))
    assert warm[2] > 0.01 > -0.01 > cold[2]
    assert magenta[1] > 0.005 > -0.005 > green[1]
    assert all(abs(d[0]) < 0.02 for d in (warm, cold, magenta, green))
    assert warmth_matrix(0) == pytest.approx(np.eye(3), abs=1e-9)
    assert tint_matrix(0) == pytest.approx(np.eye(3), abs=1e-9)


def test_every_8_bit_colour_on_a_grid_goes_through_unchanged():
    levels = np.arange(0, 256, 5, dtype=np.uint8)
    grid = np.stack(np.meshgrid(levels, levels, levels, indexing="ij"), -1).reshape(1, -1, 3)
    linear, out = np.empty(grid.shape, np.float32), np.empty_like(grid)
    decode_rows(grid, DECODE8, linear)
    encode_rows(linear, out)
    assert np.array_equal(out, grid)


def brought_into(space, colours):
    """Colours (n, 3) of the working space as linear RGB of an output space, (3, n)."""
    out = np.empty((3, len(colours)), np.float32)
    into_space(colours.astype(np.float32), *SPACES[space], out, np.empty(len(colours) + 1, np.int32))
    return out


@settings(max_examples=examples(200))
@given(st.floats(-0.2, 1.4), st.floats(-0.2, 1.4), st.floats(-0.2, 1.4))
@pytest.mark.parametrize("space", ["srgb", "display-p3", "rec2020"])
def test_colours_outside_an_output_space_keep_lightness_and_hue(space, r, g, b):
    srgb = np.array([r, g, b])
    lab = to_oklab((SRGB_TO_REC2020 @ srgb)[None].astype(np.float32))[0]
    inside = brought_into(space, (SRGB_TO_REC2020 @ srgb)[None])[:, 0]
    assert inside.min() >= -1e-3 and inside.max() <= 1 + 1e-3
    if not 0.02 < lab[0] < 0.98:
        return
    after = to_oklab((np.linalg.inv(from_rec2020(space)) @ inside)[None].astype(np.float32))[0]
    assert after[0] == pytest.approx(lab[0], abs=4e-3)
    chroma = float(np.hypot(*after[1:]))
    if chroma > 0.02:
        turn = np.degrees(np.angle(complex(*after[1:]) / complex(*lab[1:])))
        assert abs(turn) < 2.0
    assert chroma <= float(np.hypot(*lab[1:])) + 4e-3


@pytest.mark.parametrize("space", ["srgb", "display-p3", "rec2020"])
def test_a_colour_is_brought_inside_alike_among_whatever_neighbours(space):
    colours = np.random.default_rng(3).uniform(-0.3, 1.4, (301, 3))
    together = brought_into(space, colours)
    alone = np.hstack([brought_into(space, one[None]) for one in colours])
    assert np.allclose(together, alone, atol=3e-4) and not np.allclose(together[:, 1:], together[:, :-1], atol=0.1)
    black_and_white = brought_into(space, np.array([[-0.1, -0.1, -0.1], [1.3, 1.3, 1.3]]))
    assert pytest.approx(np.array([[0, 0, 0], [1, 1, 1]]), abs=1e-3) == black_and_white.T


def test_the_two_matrices_undo_each_other_and_the_curve_has_its_known_knee():
    assert pytest.approx(np.eye(3), abs=1e-9) == SRGB_TO_REC2020 @ REC2020_TO_SRGB
    assert float(encode_srgb(np.float32(0.0031308))) == pytest.approx(0.04045, abs=1e-5)

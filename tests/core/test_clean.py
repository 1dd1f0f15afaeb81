"""Clean-up: marks healed with the texture around them, covered from elsewhere, freed of colour; all else stays."""

from itertools import pairwise

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lenskeep.core.clean.applied import cleaned, patched
from lenskeep.core.clean.joining import membrane
from lenskeep.core.clean.models import CleanUp, Cloned, Healed, Uncoloured
from lenskeep.core.clean.sources import ring_of, sources
from tests.effort import examples

H, W = 240, 360


def grainy(seed=0, slope=0.3):
    """A sky: a slope of light with grain, uint8."""
    rng = np.random.default_rng(seed)
    light = 120 + slope * np.mgrid[:H, :W][0][..., None] + np.array([0.0, 8.0, 30.0])
    return np.clip(np.rint(light + rng.normal(0, 3, (H, W, 3))), 0, 255).astype(np.uint8)


def planks():
    """Rows of boards with dark gaps and grain."""
    rng = np.random.default_rng(1)
    rows = np.where(np.mgrid[:H, :W][0] % 24 < 3, 30, 150)[..., None].repeat(3, 2)
    return np.clip(rows + rng.normal(0, 4, (H, W, 3)), 0, 255).astype(np.uint8)


def spotted(picture, x, y, radius, value=20):
    out = picture.copy()
    cv2.circle(out, (round(x * W), round(y * H)), radius, (value,) * 3, -1)
    return out


def heal(picture, *points, size=0.07, **more):
    marks = [Healed(points=points, size=size, **more)]
    return patched(picture, cleaned(picture, marks))


def around(x, y, radius):
    yy, xx = np.mgrid[:H, :W]
    return np.hypot(xx - x * W, yy - y * H) < radius


def test_a_speck_in_a_sky_goes_and_the_grain_stays():
    true = grainy()
    out = heal(spotted(true, 0.4, 0.5, 8), (0.4, 0.5))
    there = around(0.4, 0.5, 8)
    assert abs(out[there].mean() - true[there].mean()) < 1.5
    assert 0.7 < out[there].astype(float).std() / true[there].astype(float).std() < 1.4
    assert np.array_equal(out[~around(0.4, 0.5, 16)], true[~around(0.4, 0.5, 16)])


def test_boards_go_on_through_a_mark():
    true = planks()
    out = heal(spotted(true, 0.5, 0.52, 10, 255), (0.5, 0.52))
    there = around(0.5, 0.52, 10)
    assert np.abs(out[there].astype(float) - true[there]).mean() < 12


def test_a_speck_is_not_filled_with_the_next_speck():
    picture = grainy()
    for x in (0.4, 0.46, 0.34, 0.4):
        picture = spotted(picture, x, 0.5, 5)
    picture = spotted(picture, 0.4, 0.41, 5)
    out = heal(picture, (0.4, 0.5), size=0.045)
    assert out[around(0.4, 0.5, 5)].min() > 90


def test_another_source_fills_otherwise_and_well():
    true = grainy(3)
    marked = spotted(true, 0.4, 0.5, 8)
    outs = [heal(marked, (0.4, 0.5), other=k) for k in range(3)]
    assert not np.array_equal(outs[0], outs[1]) and not np.array_equal(outs[1], outs[2])
    there = around(0.4, 0.5, 8)
    assert all(abs(o[there].mean() - true[there].mean()) < 2 for o in outs)


def test_a_wire_is_healed_along_its_length():
    true = grainy(2)
    marked = true.copy()
    cv2.line(marked, (20, 60), (340, 150), (30, 30, 30), 3)
    out = heal(marked, (20 / W, 60 / H), (340 / W, 150 / H), size=0.03)
    assert np.abs(out.astype(float) - true).mean(2)[marked[..., 0] == 30].mean() < 7
    assert out.min() > 100


def test_a_wire_takes_nothing_from_itself_nor_from_what_is_not_healed_yet():
    """On a slope so steep that only what lies beside a piece is like it, along the wire as across."""
    light = 60 + 0.5 * np.mgrid[:H, :W][1][..., None] + np.zeros(3)
    true = np.clip(np.rint(light + np.random.default_rng(6).normal(0, 2, (H, W, 3))), 0, 255).astype(np.uint8)
    marked = true.copy()
    cv2.line(marked, (20, 120), (340, 120), (0, 0, 0), 5)
    out = heal(marked, (20 / W, 0.5), (340 / W, 0.5), size=0.04)
    off = np.abs(cv2.GaussianBlur(out, (0, 0), 2).astype(float) - cv2.GaussianBlur(true, (0, 0), 2)).mean(2)
    assert off[120, 15:345].max() < 6 and out[118:123].min() > 40


def test_rubbing_back_and_forth_over_something_broad_makes_one_hole_of_it():
    true = grainy(5)
    marked = true.copy()
    cv2.rectangle(marked, (120, 90), (200, 140), (10, 10, 10), -1)
    rows = [y / H for y in range(88, 146, 6)]
    points = [(x / W, y) for k, y in enumerate(rows) for x in ((112, 208) if k % 2 else (208, 112))]
    out = heal(marked, *points, size=0.04)
    inside = (slice(90, 141), slice(120, 201))
    assert abs(out[inside].mean() - true[inside].mean()) < 3 and out.min() > 90
    assert 0.6 < out[inside].astype(float).std() / true[inside].astype(float).std() < 1.5


@settings(max_examples=examples(25))
@given(
    st.lists(st.tuples(st.floats(-0.1, 1.1), st.floats(-0.1, 1.1)), min_size=2, max_size=6),
    st.floats(0.005, 0.2),
    st.integers(0, 3),
)
def test_any_stroke_heals_only_what_it_covers(points, size, other):
    picture = planks()
    mark = Healed(points=tuple(points), size=size, other=other)
    out = patched(picture, cleaned(picture, [mark]))
    near = np.full((H, W), np.inf)
    y, x = np.mgrid[:H, :W] + 0.5
    for (x0, y0), (x1, y1) in pairwise(points):
        a, d = np.array([x0 * W, y0 * H]), np.array([(x1 - x0) * W, (y1 - y0) * H])
        t = np.clip(((x - a[0]) * d[0] + (y - a[1]) * d[1]) / max(float(d @ d), 1e-9), 0, 1)
        near = np.minimum(near, np.hypot(x - a[0] - t * d[0], y - a[1] - t * d[1]))
    far = near > size * W / 2 + 3
    assert np.array_equal(out[far], picture[far])


@settings(max_examples=examples(25))
@given(
    st.floats(-0.1, 1.1),
    st.floats(-0.1, 1.1),
    st.floats(0.005, 0.5),
    st.floats(0, 1),
    st.floats(0.1, 1),
    st.integers(0, 12),
)
def test_any_mark_anywhere_leaves_what_it_does_not_touch_bit_for_bit(x, y, size, soft, strength, other):
    picture = planks()
    patches = cleaned(picture, [Healed(points=((x, y),), size=size, soft=soft, strength=strength, other=other)])
    out = patched(picture, patches)
    assert out.shape == picture.shape and out.dtype == picture.dtype
    far = np.hypot(*(np.mgrid[:H, :W][::-1] + 0.5 - np.array([x * W, y * H])[:, None, None])) > size * W / 2 + 3
    assert np.array_equal(out[far], picture[far])
    for one in patches:
        assert np.array_equal(one.pixels, out[one.box.part])


def test_marks_made_one_by_one_are_those_made_together():
    picture = spotted(spotted(grainy(4), 0.3, 0.4, 6), 0.33, 0.45, 6)
    marks = [Healed(points=((x, y),), size=0.06) for x, y in ((0.3, 0.4), (0.33, 0.45), (0.8, 0.8))]
    together = patched(picture, cleaned(picture, marks))
    held = []
    for one in marks:
        held = cleaned(picture, [one], before=held)
    assert np.array_equal(patched(picture, held), together)
    assert len(held) == 2, "patches that overlap are one"


def test_sixteen_bits_and_linear_files_are_healed_in_their_own_numbers():
    true = grainy()
    deep = (spotted(true, 0.4, 0.5, 8).astype(np.uint16) * 257).astype(np.uint16)
    for linear in (False, True):
        out = patched(deep, cleaned(deep, [Healed(points=((0.4, 0.5),), size=0.07)], linear))
        there = around(0.4, 0.5, 8)
        assert out.dtype == np.uint16 and abs(out[there].mean() / 257 - true[there].mean()) < 2
        assert len(np.unique(out[there] % 257)) > 20, "as deep as the file"


def test_a_clone_takes_what_lies_where_it_says():
    picture = planks()
    picture[100:140, 200:240] = (200, 40, 40)
    mark = Cloned(points=((0.2, 0.5),), size=0.08, across=(220 / W) - 0.2, down=0.0, joined=False, soft=0.0)
    out = patched(picture, cleaned(picture, [mark]))
    assert (out[around(0.2, 0.5, 8)] == (200, 40, 40)).all()
    joined = patched(picture, cleaned(picture, [mark.model_copy(update={"joined": True})]))
    there = around(0.2, 0.5, 8)
    assert (
        abs(float(joined[there].mean()) - float(picture[there].mean())) < 45 < abs(float(out[there].mean()) - 150) + 60
    )
    turned = Cloned(points=((0.2, 0.5),), size=0.1, across=0.3, turn=90, joined=False, soft=0.0)
    upright = patched(planks(), cleaned(planks(), [turned]))[around(0.2, 0.5, 14)]
    assert upright.reshape(-1, 3).std() > 20


def test_another_frame_of_the_burst_is_laid_over_and_brings_back_what_is_behind():
    rng = np.random.default_rng(5)
    true = cv2.GaussianBlur(rng.uniform(0, 255, (H + 40, W + 40, 3)).astype(np.float32), (0, 0), 2.5)
    true = np.clip((true - 127) * 4 + 127, 0, 255).astype(np.uint8)
    here, there = true[20 : 20 + H, 20 : 20 + W].copy(), true[13 : 13 + H, 29 : 29 + W].copy()
    covered = spotted(here, 0.5, 0.5, 14, 0)
    mark = Cloned(points=((0.5, 0.5),), size=0.1, frame="other")
    out = patched(covered, cleaned(covered, [mark], others={"other": there}.get))
    part = around(0.5, 0.5, 13)
    assert np.abs(out[part].astype(float) - here[part]).mean() < 4
    assert cleaned(covered, [mark]) == [], "a frame that is gone changes nothing"


def test_a_stray_colour_takes_the_colour_around_it_and_keeps_its_light():
    picture = np.full((H, W, 3), (120, 125, 130), np.uint8)
    cv2.circle(picture, (180, 120), 9, (190, 60, 200), -1)
    light = lambda p: p @ np.array([0.2126, 0.7152, 0.0722])  # noqa: E731
    out = patched(picture, cleaned(picture, [Uncoloured(points=((0.5, 0.5),), size=0.07)]))
    there = around(0.5, 0.5, 8)
    assert np.ptp(out[there].astype(float), axis=1).max() < 14
    assert light(out[there].astype(float)) == pytest.approx(light(picture[there].astype(float)), abs=2)


def test_a_membrane_of_an_even_difference_is_that_difference():
    hole = around(0.5, 0.5, 20)[60:180, 100:260].astype(np.float32)
    away = np.full((*hole.shape, 3), 0.25, np.float32)
    assert membrane(away, hole, ring_of(hole))[hole > 0] == pytest.approx(0.25, abs=0.01)


def test_a_hole_as_large_as_the_picture_has_no_source():
    hole = np.ones((40, 60), np.float32)
    hole[0, 0] = 0
    assert sources(np.zeros((40, 60, 3), np.float32), hole, ring_of(hole), (0, 0)) == []


def test_marks_turn_with_their_frame_and_back():
    clean = CleanUp(
        done=(Healed(points=((0.2, 0.3),), size=0.1), Cloned(points=((0.1, 0.9),), size=0.1, across=0.2, down=-0.1))
    )
    once = clean.turned(1)
    assert once.done[0].points == ((0.7, 0.2),) and (once.done[1].across, once.done[1].down) == (0.1, 0.2)
    back = once.turned(3)
    for a, b in zip(back.done, clean.done, strict=True):
        assert np.allclose(a.points, b.points)
    assert clean.turned(4).key() == clean.key() != once.key() and CleanUp().key() == ""


def test_undo_and_redo_and_what_is_said():
    one, dust = Healed(points=((0.2, 0.3),), size=0.1), Healed(points=((0.5, 0.5),), size=0.01, dust=True)
    clean = CleanUp().with_marks([one, dust])
    assert clean.words() == "1 mark, 1 speck of dust" and clean.without_dust().done == (one,)
    assert clean.undo().redo() == clean and clean.undo().with_marks([one]).undone == ()
    assert CleanUp().undo() == CleanUp().redo() == CleanUp()

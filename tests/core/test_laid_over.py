"""What is laid over a picture: fitted, turned, mirrored, moved; text in lines, where the frame is emptiest; a vignette
elsewhere than in the middle.
"""

import cv2
import numpy as np
import pytest

from lenskeep.core.adjust.finish.overlay import Overlay
from lenskeep.core.adjust.finish.painterly import kuwahara, sector_kernels
from lenskeep.core.adjust.finish.text_mark import TextMark
from lenskeep.core.adjust.finish.vignette import Vignette
from lenskeep.core.plan import make_plan
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.render import compile_plan, render_rows
from lenskeep.files.assets import packed_picture
from lenskeep.files.lettering import FACES, letters
from tests.core.adjustments import kept
from tools.made_up import frame_of

H, W = 120, 240


def grey(value=0.2):
    return np.full((H, W, 3), value, np.float32)


def laid(untouched, **adjustment):
    recipe = Recipe.model_validate({"name": "L", "steps": [{"id": "l", "adjustments": [adjustment]}]})
    frame = frame_of(untouched)
    frame.letters = letters
    return render_rows(compile_plan(make_plan(recipe), frame), untouched.copy())


def changed(untouched, **adjustment):
    """Where it was changed, as a box x0, y0, x1, y1 in 0…1."""
    where = np.abs(laid(untouched, **adjustment) - untouched).max(-1) > 0.02
    y, x = np.nonzero(where)
    return x.min() / W, y.min() / H, (x.max() + 1) / W, (y.max() + 1) / H


@pytest.fixture(scope="module")
def square():
    """A white square, its left half brighter than its right, its top red."""
    pixels = np.full((60, 60, 4), 255, np.uint8)
    pixels[:, 30:, :3] = 120
    pixels[:15, :, 1:3] = 0
    return kept(packed_picture(pixels))


def over(square, **more):
    return {"kind": "overlay", "cover": 100, "picture": square, "name": "x.png", **more}


def test_it_is_stretched_or_keeps_its_proportions(square):
    assert changed(grey(), **over(square)) == pytest.approx((0, 0, 1, 1), abs=0.02)
    within = changed(grey(), **over(square, fit="whole, within"))
    assert within == pytest.approx((0.25, 0, 0.75, 1), abs=0.02), "as wide as it is high, in pixels"
    assert changed(grey(), **over(square, fit="over all of it")) == pytest.approx((0, 0, 1, 1), abs=0.02)


def test_it_is_made_smaller_and_moved(square):
    half = changed(grey(), **over(square, fit="whole, within", size=50, across=25, down=-25))
    assert half == pytest.approx((0.625, 0, 0.875, 0.5), abs=0.02)


def test_it_is_turned_and_mirrored(square):
    plain, mirrored = (laid(grey(), **over(square, mirrored=m)) for m in (False, True))
    assert plain[90, 40].mean() > plain[90, 200].mean() and mirrored[90, 40].mean() < mirrored[90, 200].mean()
    right = laid(grey(), **over(square, turned="a quarter right"))
    assert right[60, 232, 0] > 2 * right[60, 232, 2], "what was on top is on the right"
    down = laid(grey(), **over(square, turned="upside down"))
    assert down[115, 120, 0] > 2 * down[115, 120, 2]


def test_new_fields_leave_the_keys_of_older_looks_alone():
    for cls in (Overlay, TextMark, Vignette):
        assert set(cls.later) <= cls().unshown()


def text(**more):
    return {"kind": "text_mark", "opacity": 100, "text": "Lens", "size": 10, **more}


def test_lines_stand_upon_another_at_their_side():
    one, two = changed(grey(), **text()), changed(grey(), **text(text="Lens | Keep it"))
    assert (
        two[1] < one[1] - 0.1
        and two[3] == pytest.approx(one[3], abs=0.06)
        and two[2] == pytest.approx(one[2], abs=0.03)
    )
    far = changed(grey(), **text(text="Lens | Keep it", spacing=100))
    assert far[3] - far[1] > two[3] - two[1] + 0.05
    assert changed(grey(), **text(text=" | Lens | ")) == pytest.approx(one, abs=0.01), "empty lines are none"


def test_it_is_moved_by_hand():
    plain, moved = changed(grey(), **text(place="middle")), changed(grey(), **text(place="middle", across=20, down=-20))
    assert moved[0] - plain[0] == pytest.approx(0.2, abs=0.02) and moved[1] - plain[1] == pytest.approx(-0.2, abs=0.03)


@pytest.mark.parametrize(("calm", "corner"), [((0, 0), (0, 0)), ((1, 1), (1, 1)), ((0, 1), (0, 1))])
def test_it_finds_the_emptiest_corner(calm, corner):
    picture = (np.random.default_rng(3).random((H, W, 1)) * 0.5 + 0.05).astype(np.float32).repeat(3, axis=2)
    rows, columns = (slice(0, H // 3), slice(2 * H // 3, H))[calm[0]], (slice(0, W // 2), slice(W // 2, W))[calm[1]]
    picture[rows, columns] = 0.2
    x0, y0, x1, y1 = changed(picture, **text(place="the emptiest corner", size=6))
    assert ((y0 + y1) / 2 > 0.5, (x0 + x1) / 2 > 0.5) == (corner[0] == 1, corner[1] == 1)


def test_a_vignette_is_moved():
    picture = grey(0.4)
    middle, right = (laid(picture, kind="vignette", ev=-1.5, across=across) for across in (0, 30))
    assert middle[60, 20].mean() == pytest.approx(middle[60, W - 21].mean(), rel=0.02)
    assert right[60, 20].mean() < 0.7 * right[60, W - 21].mean()


def test_a_glow_under_nought_lets_the_dark_into_the_light_and_leaves_the_dark():
    picture = np.full((H, W, 3), 0.1, np.float32)
    picture[:, W // 2 :] = 0.95
    some, all_of_it = (laid(picture, kind="glow", glow=g, radius=3) for g in (-40, -100))
    assert (all_of_it >= 0).all() and np.isfinite(all_of_it).all()
    assert np.abs(some[:, : W // 4] - picture[:, : W // 4]).max() < 0.01, "what is dark stays"
    light = slice(3 * W // 4, W)
    assert all_of_it[:, light].mean() < some[:, light].mean() < picture[:, light].mean() - 0.1
    bloom = laid(picture, kind="glow", glow=40, radius=3)
    assert bloom[60, W // 2 - 4].mean() > picture[60, W // 2 - 4].mean() + 0.02


def test_each_side_of_a_vignette_has_its_own_share_and_a_colour_can_be_mixed_in():
    picture = grey(0.4)
    plain = laid(picture, kind="vignette", ev=-1.5)
    sides = laid(picture, kind="vignette", ev=-1.5, left=0, top=200)
    assert sides[60, 2].mean() == pytest.approx(0.4, rel=0.02), "nothing on the left"
    assert (
        sides[60, W - 3] == pytest.approx(plain[60, W - 3], rel=0.02)
        and sides[2, W // 2].mean() < plain[2, W // 2].mean()
    )
    across = np.abs(np.diff(sides.mean(2), axis=1)).max()
    assert across < 0.03, "no edge between two sides"
    red = laid(picture, kind="vignette", tinted=80, colour="#ff0000")
    assert red[60, W // 2] == pytest.approx(picture[60, W // 2], abs=0.01)
    assert red[1, 1, 0] > 2 * red[1, 1, 2] and (red >= 0).all()


@pytest.mark.parametrize("kind", ["fine_detail", "medium_detail", "broad_detail"])
def test_detail_by_tone_keeps_to_its_tones(kind):
    rng = np.random.default_rng(1)
    noise = np.exp2(0.3 * cv2.GaussianBlur(rng.standard_normal((H, W)).astype(np.float32), (0, 0), 1.0) * 3)
    picture = np.concatenate([0.02 * noise[:, : W // 2], 0.7 * noise[:, W // 2 :]], 1)[..., None].repeat(3, 2)
    picture = np.asarray(picture, np.float32)
    low, high = slice(4, W // 2 - 30), slice(W // 2 + 30, W - 4)
    all_of_it = laid(picture, kind=kind, detail=100)
    dark = laid(picture, kind=kind, detail=100, middle=0, bright=0)
    moved = lambda a, b, part: float(np.abs(np.log2(a[:, part] / b[:, part])).mean())  # noqa: E731
    assert moved(dark, all_of_it, low) < 0.15 * moved(all_of_it, picture, low)
    assert moved(dark, picture, high) < 0.05 * moved(all_of_it, picture, high)
    even = laid(picture, kind=kind, detail=50, dark=200, middle=200, bright=200)
    assert even == pytest.approx(all_of_it, rel=1e-4), "twice the share of half as much"


def test_painted_strokes_are_drawn_out_along_their_direction():
    rng = np.random.default_rng(2)
    picture = np.asarray(rng.uniform(0.1, 0.7, (H, W, 3)), np.float32)
    level = kuwahara(picture, 3, 4.0, 0.0).mean(2)
    upright = kuwahara(picture, 3, 4.0, np.pi / 2).mean(2)
    rough = lambda p, axis: float(np.abs(np.diff(p, axis=axis)).mean())  # noqa: E731
    assert rough(level, 0) > 1.5 * rough(level, 1) and rough(upright, 1) > 1.5 * rough(upright, 0)
    assert np.array_equal(kuwahara(picture, 3), kuwahara(picture, 3, 1.0, 1.0))
    assert all(k.sum() == pytest.approx(1.0, abs=1e-5) for k in sector_kernels(4, 2.5, 0.7))


@pytest.mark.parametrize("face", sorted(FACES))
def test_every_lettering_draws_another_line(face):
    drawn = letters("Anna & Jörg 2026", face, 120)
    assert drawn.max() == 1.0 and drawn[0].max() == 0.0, "nothing is cut at the top"
    others = [letters("Anna & Jörg 2026", other, 120) for other in FACES if other != face]
    assert all(o.shape != drawn.shape or not np.array_equal(o, drawn) for o in others)

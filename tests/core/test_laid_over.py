"""What is laid over a picture: fitted, turned, mirrored, moved; text in lines, where the frame is emptiest; a vignette
elsewhere than in the middle.
"""

import numpy as np
import pytest

from lenskeep.core.adjust.finish.overlay import Overlay
from lenskeep.core.adjust.finish.text_mark import TextMark
from lenskeep.core.adjust.finish.vignette import Vignette
from lenskeep.core.plan import make_plan
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.render import compile_plan, render_rows
from lenskeep.files.assets import packed_picture
from lenskeep.files.lettering import letters
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

"""Balance by measure, and a click on something neutral: casts go, light comes to a middle, what is meant dark stays."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lenskeep.core.adjust.light.balance import Balance
from lenskeep.core.colour.adapt import balance_matrix, tint_matrix, warmth_matrix
from lenskeep.core.colour.oklab import to_oklab
from lenskeep.core.measure.needs import needs, neutralising
from lenskeep.core.plan import make_plan
from lenskeep.core.recipes.edit import EditProblem
from lenskeep.core.recipes.layers import Layer, masks_used
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.render import compile_plan, render_rows
from lenskeep.files.reading.photo import read_photo
from tests.asked import after
from tests.effort import examples
from tools.made_up import DEMO, frame_of

PHOTOS = ("LKD_0101.jpg", "LKD_0212.jpg", "DUN_0320.jpg", "BST_0521.jpg")


@pytest.fixture(scope="module")
def photos():
    """Four of the demo's scenes at 300 px, linear."""
    found = (next(DEMO.parent.glob(f"*/{name}")) for name in PHOTOS)
    return [np.ascontiguousarray(read_photo(path).reduced(300)) for path in found]


def developed(picture, ev=0.0, mired=0.0, duv=0.0):
    """As a camera would have given it: off, and clipped at white."""
    matrix = balance_matrix(ev, mired, duv)
    return np.clip(picture @ matrix.T.astype(np.float32), 0.0, 1.0).astype(np.float32)


@given(grey=st.floats(0.01, 0.9), mired=st.floats(-70, 70), duv=st.floats(-15, 15))
def test_what_is_clicked_becomes_neutral(grey, mired, duv):
    colour = tint_matrix(duv / 1000.0) @ warmth_matrix(mired) @ np.full(3, grey)
    found = neutralising(tuple(float(v) for v in colour))
    turned = tint_matrix(found[1] / 1000.0) @ warmth_matrix(found[0]) @ colour
    assert np.abs(to_oklab(turned.astype(np.float32)[None, None])[0, 0, 1:]).max() < 5e-4


@pytest.mark.parametrize("colour", [(0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (0.0, 0.0, 1e-9), (0.2, 0.9, 0.1)])
def test_a_colour_that_no_light_explains_stays_within_what_can_be_set(colour):
    mired, duv = neutralising(colour)
    assert abs(mired) <= 100 and abs(duv) <= 30


def test_a_cast_is_measured_at_about_its_size(photos):
    """Single scenes of strong colours may be off by as much again."""
    moved = [
        (warm.mired - plain.mired, warm.duv - plain.duv)
        for plain, warm in ((needs(p), needs(developed(p, mired=20, duv=5))) for p in photos)
    ]
    assert max(m for m, _ in moved) < -8 and max(d for _, d in moved) < -2
    assert np.median(np.array(moved), axis=0) == pytest.approx([-20, -5], abs=6)


def test_right_frames_hardly_move_and_wrong_ones_come_nearer(photos):
    balance = Balance(balance=100)
    for picture in photos:
        assert abs(balance.change(needs(picture))[0]) < 0.1
        assert balance.change(needs(developed(picture, ev=1)))[0] <= 0.0
        assert balance.change(needs(developed(picture, ev=-1)))[0] >= 0.0
    burnt, dark = (np.mean([balance.change(needs(developed(p, ev=ev)))[0] for p in photos]) for ev in (1, -1))
    assert burnt < -0.2 and dark > 0.2


def test_night_stays_night_and_a_white_page_stays_white():
    rng = np.random.default_rng(1)
    night = np.full((90, 120, 3), 0.004, np.float32) * rng.uniform(0.5, 1.5, (90, 120, 1)).astype(np.float32)
    night[40:43, 50:53] = 0.9
    balance = Balance(balance=100)
    assert balance.change(needs(night))[0] == pytest.approx(0.0, abs=0.03)
    fog = np.full((90, 120, 3), 0.6, np.float32) * rng.uniform(0.9, 1.1, (90, 120, 1)).astype(np.float32)
    assert balance.change(needs(fog))[0] == pytest.approx(0.0, abs=0.03)


@pytest.mark.parametrize(
    "empty", [np.zeros((20, 30, 3), np.float32), np.ones((20, 30, 3), np.float32), np.full((1, 1, 3), 0.2, np.float32)]
)
def test_a_frame_without_anything_on_it_asks_for_nothing_wild(empty):
    ev, mired, duv = Balance(balance=100).change(needs(empty))
    assert np.isfinite([ev, mired, duv]).all() and abs(ev) <= 1 and abs(mired) <= 20


@settings(max_examples=examples(25))
@given(ev=st.floats(-0.9, 0.6), mired=st.floats(-30, 30))
def test_held_to_a_frame_its_twin_comes_back_to_it(ev, mired):
    picture = np.ascontiguousarray(read_photo(next(DEMO.parent.glob("*/LKD_0212.jpg"))).reduced(200)) * np.float32(0.6)
    here = needs(picture)
    held = Balance(
        balance=100, most_ev=2, most_mired=60, to="a frame it is held to",
        held_ev=here.middle, held_mired=here.mired, held_duv=here.duv,
    )  # fmt: skip
    assert held.change(here) == (0.0, 0.0, 0.0), "the frame itself stays as it is"
    back = held.change(needs(developed(picture, ev, mired)))
    assert back[0] == pytest.approx(-ev, abs=0.25)
    assert back[1] == pytest.approx(-mired, abs=10)


@given(
    amount=st.floats(0, 100),
    most_ev=st.floats(0, 2),
    most_mired=st.floats(0, 60),
    middle=st.floats(-10, 1),
    mired=st.floats(-100, 100),
)
def test_limits_hold_and_one_amount_weakens_all(amount, most_ev, most_mired, middle, mired):
    found = needs(np.full((4, 4, 3), 0.2, np.float32))
    found = type(found)(ev=1.5, mired=mired, duv=9, sure_light=1, sure_cast=1, middle=middle)
    for to in ("its own middle", "a frame it is held to"):
        full = Balance(balance=100, most_ev=most_ev, most_mired=most_mired, to=to).change(found)
        part = Balance(balance=amount, most_ev=most_ev, most_mired=most_mired, to=to).change(found)
        assert abs(full[0]) <= most_ev + 1e-9 and abs(full[1]) <= most_mired + 1e-9
        assert part == pytest.approx(tuple(v * amount / 100 for v in full))


def test_its_light_is_measured_where_it_is_told_to_be(photos):
    picture = photos[1].copy()
    mask = np.zeros(picture.shape[:2], np.float32)
    mask[40:120, 60:160] = 1.0
    picture[40:120, 60:160] *= 0.25
    assert needs(picture, mask).middle < needs(picture).middle - 0.7
    subject = Recipe.model_validate(
        {
            "name": "L",
            "steps": [{"id": "a", "adjustments": [{"kind": "balance", "balance": 50, "source": "the subject"}]}],
        }
    )
    assert masks_used([Layer(subject)]) == {"subject"}


def test_without_what_it_is_measured_in_the_whole_serves_and_it_is_said(photos):
    def finished(source):
        step = {"id": "a", "adjustments": [{"kind": "balance", "balance": 100, "source": source}]}
        frame = frame_of(photos[0] * np.float32(0.3))
        compiled = compile_plan(make_plan(Recipe.model_validate({"name": "L", "steps": [step]})), frame)
        return render_rows(compiled, frame.proxy.copy()), frame.found.missing

    whole, skin = finished("the whole frame"), finished("skin")
    assert np.array_equal(whole[0], skin[0]) and not whole[1] and skin[1]


def test_steps_ready_to_hand_are_made_once_and_stand_first():
    recipe = Recipe.model_validate(
        {"name": "L", "steps": [{"id": "a", "adjustments": [{"kind": "exposure", "ev": 1}]}]}
    )
    once = after(recipe, "neutral-step", id="n", mired=12.0, duv=-3.0)
    assert [s.name for s in once.steps] == ["Neutral", "Step"]
    again = after(once, "neutral-step", id="m", mired=-7.0, duv=2.0)
    assert [s.id for s in again.steps] == ["n", "a"]
    assert (again.steps[0].adjustments[0].mired, again.steps[0].adjustments[1].duv) == (-7.0, 2.0)
    balanced = after(after(again, "balance-step", id="b"), "balance-step", id="c")
    assert [s.id for s in balanced.steps] == ["b", "n", "a"]
    held = after(balanced, "hold-to", step="b", adjustment="a1", ev=-3.2, mired=8.0, duv=1.0).steps[0].adjustments[0]
    assert (held.to, held.held_ev, held.held_mired) == ("a frame it is held to", -3.2, 8.0)
    with pytest.raises(EditProblem, match="Only a balance"):
        after(balanced, "hold-to", step="a", adjustment="a1", ev=0.0, mired=0.0, duv=0.0)

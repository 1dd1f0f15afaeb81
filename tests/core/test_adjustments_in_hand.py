"""Adjustments inside a step: switched off, weakened, moved and copied, without anything else becoming different."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lenskeep.core.adjust import KINDS
from lenskeep.core.plan import make_plan
from lenskeep.core.recipes.edit import EditProblem
from lenskeep.core.recipes.layers import Layer, masks_used
from lenskeep.core.recipes.models import MOST_ADJUSTMENTS, Recipe
from lenskeep.core.render import compile_plan, render_rows
from tests.asked import after, setting
from tools.made_up import frame_of, scene

SHARE = st.floats(0.0, 1.0)
AMOUNTS = sorted(kind for kind, cls in KINDS.items() if cls.controls())


def of(*steps):
    return Recipe.model_validate({"name": "Look", "steps": list(steps)})


def two_steps():
    light = [{"id": "x", "kind": "exposure", "ev": 1}, {"id": "y", "kind": "contrast", "contrast": 30}]
    return of({"id": "a", "adjustments": light}, {"id": "b", "adjustments": [{"id": "x", "kind": "haze", "haze": 20}]})


def kinds(recipe, step):
    return [a.kind for a in recipe.step(step).adjustments]


@given(own=st.floats(0.0, 2.0), step=st.floats(0.05, 2.0), kind=st.sampled_from(AMOUNTS), share=SHARE)
def test_an_adjustments_strength_is_its_amounts_multiplied_and_held(own, step, kind, share):
    plain = KINDS[kind].model_validate({"id": "x", "kind": kind})
    amounts = {
        c.name: c.neutral + share * ((c.high if c.high > c.neutral else c.low) - c.neutral) for c in plain.controls()
    }
    full = plain.model_copy(update=amounts)
    recipe = of({"id": "a", "strength": step, "adjustments": [full.model_dump() | {"strength": own}]})
    by_hand = full.scaled(own * max(step, 1.0))
    planned = make_plan(recipe).steps
    if by_hand.is_neutral():
        assert planned == ()
    else:
        [done] = planned[0].adjustments
        for c in plain.controls():
            assert getattr(done, c.name) == pytest.approx(getattr(by_hand, c.name))
        assert done.strength == 1.0, "it is not applied a second time"


def test_weakened_and_written_out_are_one_picture_and_one_key():
    weak = of(
        {"id": "a", "adjustments": [{"kind": "exposure", "ev": 1, "strength": 0.5}, {"kind": "warmth", "mired": 20}]}
    )
    plain = of({"id": "a", "adjustments": [{"kind": "exposure", "ev": 0.5}, {"kind": "warmth", "mired": 20}]})
    off = of(
        {
            "id": "a",
            "adjustments": [
                *plain.model_dump()["steps"][0]["adjustments"],
                {"kind": "haze", "haze": 50, "enabled": False},
            ],
        }
    )
    assert make_plan(weak).key() == make_plan(plain).key() == make_plan(off).key()
    linear = np.ascontiguousarray((scene(40, 60).astype(np.float32) / 255.0) ** np.float32(2.2))
    frame = frame_of(linear)
    pictures = [render_rows(compile_plan(make_plan(r), frame), frame.proxy.copy()) for r in (weak, plain, off)]
    assert np.array_equal(pictures[0], pictures[1]) and np.array_equal(pictures[0], pictures[2])


def test_what_is_off_is_not_spoken_of_and_needs_no_mask():
    taking = {"kind": "fill", "cover": 40, "source": "the subject"}
    on, off = (
        of({"id": "a", "adjustments": [taking | {"enabled": e}, {"kind": "haze", "haze": 9}]}) for e in (True, False)
    )
    assert masks_used([Layer(on)]) == {"subject"} and masks_used([Layer(off)]) == frozenset()
    assert "fill" in on.step("a").does() and off.step("a").does() == "haze +9 %"
    all_off = setting({"steps/a/adjustments/a2/enabled": False}).on(off)
    assert all_off.step("a").does() == "nothing: all is off"
    assert make_plan(all_off).steps == ()


def test_a_step_with_all_off_does_not_blend_the_picture_with_itself():
    off = {"kind": "exposure", "ev": 1, "enabled": False}
    assert make_plan(of({"id": "a", "blend": "multiply", "adjustments": [off]})).steps == ()
    assert len(make_plan(of({"id": "a", "blend": "multiply"})).steps) == 1


def test_an_adjustment_goes_to_another_step_or_place_and_keeps_its_settings():
    recipe = setting({"steps/a/adjustments/x/strength": 0.4}).on(two_steps())
    moved = after(recipe, "move-adjustment", step="a", adjustment="x", to="b", place=0, id="new")
    assert kinds(moved, "a") == ["contrast"] and kinds(moved, "b") == ["exposure", "haze"]
    gone = moved.step("b").adjustments[0]
    assert (gone.id, gone.ev, gone.strength) == ("new", 1, 0.4)
    copied = after(recipe, "copy-adjustment", step="a", adjustment="x", to="b", id="new")
    assert kinds(copied, "a") == ["exposure", "contrast"] and kinds(copied, "b") == ["haze", "exposure"]
    turned = after(recipe, "move-adjustment", step="a", adjustment="x", to="a", place=1, id="other")
    assert [a.id for a in turned.step("a").adjustments] == ["y", "x"], "in its own step it keeps its name"
    doubled = after(recipe, "copy-adjustment", step="a", adjustment="x", to="a", place=1, id="z")
    assert [a.id for a in doubled.step("a").adjustments] == ["x", "z", "y"]


def test_what_cannot_be_moved_is_said():
    full = of(
        {"id": "a", "adjustments": [{"kind": "haze"}] * MOST_ADJUSTMENTS},
        {"id": "b", "adjustments": [{"kind": "tint"}]},
    )
    with pytest.raises(EditProblem, match="24 adjustments at most"):
        after(full, "move-adjustment", step="b", adjustment="a1", to="a", id="n")
    with pytest.raises(EditProblem, match="24 adjustments at most"):
        after(full, "copy-adjustment", step="a", adjustment="a1", to="a", id="n")
    after(full, "move-adjustment", step="a", adjustment="a1", to="a", place=5, id="n")  # within itself there is room
    for asked in ({"adjustment": "none", "to": "b"}, {"adjustment": "x", "to": "none"}):
        with pytest.raises(EditProblem, match="no longer"):
            after(two_steps(), "move-adjustment", step="a", id="n", **asked)
    with pytest.raises(EditProblem, match="strength"):
        setting({"steps/a/adjustments/x/strength": 3}).on(two_steps())

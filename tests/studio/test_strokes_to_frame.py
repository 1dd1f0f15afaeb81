"""Strokes of a recipe that were meant for one frame become that frame's repairs, and the recipe goes without them."""

import numpy as np
import pytest

from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.edit import EditProblem
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.repairs.models import MOST, NONE, Emptied
from lenskeep.files.recipes import recipe_to_json
from lenskeep.store import frames
from lenskeep.studio import repairing
from lenskeep.studio.bench import draft
from lenskeep.studio.bench.to_frame import move_to_frame
from lenskeep.studio.problems import ChangedMeanwhile
from tools.made_up import ready_shoot

STROKE = {"points": [[0.05, 0.9], [0.2, 0.9]], "size": 0.15, "hardness": 0.9}


@pytest.fixture
def shoot(library, tmp_path):
    return ready_shoot(library, tmp_path / "card", 3)


def on_bench(library, shoot, *parts, **region):
    """The recipe of one step on the Bench; the id of its brush."""
    step = {"id": "a", "name": "A", "region": {"parts": list(parts), **region}, "adjustments": []}
    draft.load(library, shoot, Recipe.model_validate({"name": "Look", "steps": [step]}))
    return next(p.id for p in parts_now(library, shoot) if p.kind == "brush")


def parts_now(library, shoot):
    return draft.recipe_now(library, shoot).steps[0].region.parts


def brush(**values):
    return {"kind": "brush", "strokes": [STROKE], **values}


def rows(library, shoot):
    return frames.frames(library.db, shoot)


def test_the_strokes_are_on_the_frame_and_no_longer_in_the_recipe(library, shoot):
    first, second, _ = rows(library, shoot)
    part = on_bench(library, shoot, {"kind": "subject"}, brush())
    moved = move_to_frame(library, shoot, "a", part, first.id)
    [stroke] = moved.override.repairs.done
    assert (stroke.mask, stroke.away) == ("subject", False) and moved.facts.subject.by_hand
    assert [p.kind for p in parts_now(library, shoot)] == ["subject"]
    assert "strokes" not in recipe_to_json(draft.recipe_now(library, shoot), {})
    assert not frames.frame(library.db, second.id).changed


def test_the_mask_is_what_the_region_was_there(library, shoot):
    first = rows(library, shoot)[0]
    part = on_bench(library, shoot, {"kind": "subject"}, brush())
    region = draft.recipe_now(library, shoot).steps[0].region
    before = region.alpha(repairing.found_on(library, first, NONE))
    moved = move_to_frame(library, shoot, "a", part, first.id)
    now = repairing.found_on(library, moved, moved.override.repairs).subject
    assert np.abs(now - before).mean() < 0.01


@pytest.mark.parametrize(
    ("parts", "region", "mask", "away"),
    [
        (({"kind": "sky"}, brush(combine="take away")), {}, "sky", True),
        (({"kind": "background"}, brush()), {}, "subject", True),
        (({"kind": "background"}, brush(combine="take away")), {}, "subject", False),
        (({"kind": "subject"}, brush()), {"invert": True}, "subject", True),
        (({"kind": "subject", "which": "animals"}, brush()), {}, "animals", False),
    ],
)
def test_the_side_it_works_on_follows_the_region(library, shoot, parts, region, mask, away):
    part = on_bench(library, shoot, *parts, **region)
    moved = move_to_frame(library, shoot, "a", part, rows(library, shoot)[0].id)
    [stroke] = moved.override.repairs.done
    assert (stroke.mask, stroke.away) == (mask, away)


def test_strokes_on_the_subject_keep_their_place_on_the_frame(library, shoot):
    anchored = brush(anchor="subject", strokes=[{**STROKE, "points": [[0.5, 0.5]], "size": 0.4}])
    first = rows(library, shoot)[0]
    part = on_bench(library, shoot, {"kind": "subject"}, anchored)
    [stroke] = move_to_frame(library, shoot, "a", part, first.id).override.repairs.done
    box = first.facts.subject_box
    assert np.allclose(stroke.points[0], box.middle, atol=0.002)
    assert stroke.size == pytest.approx(0.4 * max(box.width * 300, box.height * 200) / 300, rel=0.02)


def test_those_kept_to_a_frame_go_to_that_one(library, shoot):
    first, second, _ = rows(library, shoot)
    part = on_bench(library, shoot, {"kind": "subject"}, brush(only_on=second.content))
    assert move_to_frame(library, shoot, "a", part, first.id).id == second.id
    assert not frames.frame(library.db, first.id).changed


@pytest.mark.parametrize(
    ("parts", "words"),
    [
        ((brush(),), "repair no mask"),
        (({"kind": "subject"}, brush(combine="only within")), "limit the region"),
        (({"kind": "subject"}, brush(strokes=[])), "no stroke"),
        (({"kind": "subject"}, brush(only_on="f" * 64)), "not in this shoot"),
    ],
)
def test_what_cannot_be_moved_says_why_and_stays(library, shoot, parts, words):
    part = on_bench(library, shoot, *parts)
    before = parts_now(library, shoot)
    with pytest.raises((UserProblem, EditProblem), match=words):
        move_to_frame(library, shoot, "a", part, rows(library, shoot)[0].id)
    assert parts_now(library, shoot) == before and not any(f.changed for f in rows(library, shoot))


def test_nothing_is_done_by_halves(library, shoot):
    """A full frame, or a Bench that was changed meanwhile: neither the recipe nor the frame changes."""
    first = rows(library, shoot)[0]
    part = on_bench(library, shoot, {"kind": "subject"}, brush())
    old = draft.state_now(library, shoot)
    draft.go_on_from(library, shoot, draft.recipe_now(library, shoot).model_copy(update={"steps": []}), "emptying")
    with pytest.raises((ChangedMeanwhile, EditProblem)):
        move_to_frame(library, shoot, "a", part, first.id, old)
    assert not frames.frame(library.db, first.id).changed
    part = on_bench(library, shoot, {"kind": "subject"}, brush())
    full = tuple(Emptied(mask="sky") for _ in range(MOST))
    repairing.change(library, first, lambda r: r.with_all(full))
    with pytest.raises(UserProblem, match="as many repairs"):
        move_to_frame(library, shoot, "a", part, first.id)
    assert len(parts_now(library, shoot)) == 2

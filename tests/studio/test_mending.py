"""A guard's warning is mended by weakening the step it comes from, no more than is needed."""

import pytest

from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes import edit
from lenskeep.core.recipes.models import Recipe
from lenskeep.store import frames
from lenskeep.studio.bench import mending
from lenskeep.studio.bench.measures import measures
from lenskeep.studio.bench.stage import Stage
from tools.made_up import ready_shoot


@pytest.fixture
def staged(library, tmp_path):
    shoot = ready_shoot(library, tmp_path / "card", 1)
    return Stage(library), frames.summaries(library.db, shoot)[0].id


def recipe(**more):
    bright = {"id": "bright", "name": "Too bright", "adjustments": [{"kind": "exposure", "ev": 3.0}], **more}
    return Recipe.model_validate(
        {"name": "R", "steps": [{"id": "calm", "adjustments": [{"kind": "warmth", "mired": 4}]}, bright]}
    )


def guard(staged, one, name):
    return next(g for g in measures(*staged, one, None).guards if g.name == name)


def test_the_step_to_blame_is_weakened_until_it_is_quiet_and_no_further(staged):
    one = recipe()
    warned = guard(staged, one, "clipped")
    assert warned.warns and warned.step == "bright"
    mend = mending.mend_for(*staged, one, "clipped")
    assert mend.quiet and mend.step == "bright" and 0.0 < mend.strength < 1.0
    assert not guard(staged, edit.change_step(one, "bright", strength=mend.strength), "clipped").warns
    more = edit.change_step(one, "bright", strength=min(mend.strength + 0.06, 1.0))
    assert guard(staged, more, "clipped").warns, "a little more of it warns again"


def test_what_does_not_warn_has_no_mend(staged):
    with pytest.raises(UserProblem, match="does not warn"):
        mending.mend_for(*staged, recipe(adjustments=[{"kind": "exposure", "ev": 0.05}]), "clipped")


def test_where_two_steps_clip_it_says_that_one_is_not_enough(staged):
    one = recipe()
    both = edit.changed(one, steps=[*one.steps, one.steps[1].model_copy(update={"id": "again", "name": "Again"})])
    mend = mending.mend_for(*staged, both, "clipped")
    assert mend.step in ("bright", "again")
    left = guard(staged, edit.change_step(both, mend.step, strength=mend.strength), "clipped")
    assert left.figure <= guard(staged, both, "clipped").figure and left.warns != mend.quiet

"""The ready starting points: they load, say what they are for, and do it on demo frames found by the real detectors."""

import numpy as np
import pytest

from lenskeep.core.colour.oklab import delta_e, to_oklab
from lenskeep.core.engine.planes import area_mean, smaller
from lenskeep.core.guarding import judge, looked_at
from lenskeep.core.measure.guards import GUARDS, faults
from lenskeep.core.measure.pull import pull
from lenskeep.core.plan import make_plan
from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.group_changes import TakeRecipe
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.render import compile_plan, compile_steps, render_rows
from lenskeep.studio.bench import draft as bench
from lenskeep.studio.book import starters
from lenskeep.studio.tasks.render import GUARD_SIDE
from tests.asked import asked
from tools.made_up import found_on_demo, frame_of, ready_shoot

NAMES = [recipe.name for recipe in starters.starters()]


@pytest.fixture(scope="module", params=["LKD_0114.jpg", "DUN_0310.jpg"])
def frame(request):
    """A frame at dusk, and one under a nearly white sky."""
    return found_on_demo(request.param)


def finished(recipe: Recipe, frame) -> np.ndarray:
    return render_rows(compile_plan(make_plan(recipe), frame), frame.proxy.copy())


@pytest.mark.parametrize("name", NAMES)
def test_each_says_when_to_use_it_and_holds(name, frame):
    recipe = starters.starter(name)
    assert len(recipe.note) > 60 and recipe.steps
    out = finished(recipe, frame)
    moved = delta_e(out, frame.proxy)
    assert np.isfinite(out).all() and float(moved.mean()) < 0.2
    assert float(np.percentile(moved, 99)) > 0.005
    burnt = [float((p.min(-1) > 0.99).mean()) for p in (frame.proxy, out)]
    assert burnt[1] < burnt[0] + 0.03


def test_none_of_them_makes_skin_drift():
    frame = found_on_demo("DUN_0310.jpg")
    skin = frame.found.masks["skin"]
    for recipe in starters.starters():
        out = finished(recipe, frame)
        drift = faults(frame.proxy, out, area_mean(skin, out.shape[:2]), [], {"skin"}).figures["skin"]
        assert drift < GUARDS["skin"].limit, recipe.name


def test_the_three_step_lift_raises_all_three_pulls_and_each_step_its_own(frame):
    lift = starters.starter("Subject lift in three")
    subject = frame.found.subject
    before, after = pull(frame.proxy, subject), pull(finished(lift, frame), subject)
    assert after.brightness > before.brightness + 2
    assert after.warmth > before.warmth + 0.1
    assert after.detail > before.detail + 0.05


def test_pale_sky_rescue_brings_clouds_back_without_grain_or_blue(frame):
    rescue = starters.starter("Pale sky rescue")
    sky = frame.found.sky > 0.98
    before, after = to_oklab(frame.proxy), to_oklab(finished(rescue, frame))
    assert after[..., 0][sky].std() > 1.2 * before[..., 0][sky].std()
    assert after[..., 0][sky].mean() < before[..., 0][sky].mean() - 0.02

    def grain(lab):
        light = lab[..., 0]
        fine = light[1:-1, 1:-1] - (light[:-2, 1:-1] + light[2:, 1:-1] + light[1:-1, :-2] + light[1:-1, 2:]) / 4
        return float(fine[sky[1:-1, 1:-1]].std())

    assert grain(after) < 1.1 * grain(before)
    assert after[..., 2][sky].mean() > -0.012


def test_pale_sky_rescue_tints_the_sky_like_what_lies_below_it():
    rescue, shades = starters.starter("Pale sky rescue"), []
    for ground in ((0.5, 0.3, 0.1), (0.1, 0.3, 0.5)):
        linear = np.full((160, 240, 3), 0.8, np.float32)
        linear[80:] = ground
        sky = to_oklab(finished(rescue, frame_of(linear)))[:60]
        shades.append(float(sky[..., 2].mean()))
    assert shades[0] > shades[1] + 0.01


def test_distance_haze_leaves_the_subject_alone(frame):
    out = finished(starters.starter("Distance haze"), frame)
    moved = delta_e(out, frame.proxy)
    assert float(moved[frame.found.subject > 0.98].mean()) < 0.003
    assert float(moved[frame.found.mask("subject") < 0.02].mean()) > 0.004


def test_distance_haze_ends_where_the_subject_begins_and_leaves_no_clear_rim(frame):
    plan = make_plan(starters.starter("Distance haze"))
    seen = looked_at(frame, smaller(frame.proxy, GUARD_SIDE).copy(), compile_steps(plan, frame), plan)
    assert not {"glow", "seam"} & set(judge(seen).warned)


def test_a_starting_points_steps_come_after_those_on_the_bench_with_ids_of_their_own(library, tmp_path):
    shoot = ready_shoot(library, tmp_path / "card", 1)
    bench.change(library, shoot, asked("add-step", {"where": "subject", "what": "exposure"}))
    lift = TakeRecipe(recipe=starters.starter("Subject lift in three"))
    first = bench.change(library, shoot, lift).added
    bench.change(library, shoot, lift)
    recipe = bench.draft(library, shoot).recipe
    assert len(recipe.steps) == 7 and recipe.steps[1].id == first
    assert len({step.id for step in recipe.steps}) == 7
    bench.undo(library, shoot)
    assert len(bench.draft(library, shoot).recipe.steps) == 4
    with pytest.raises(UserProblem, match="no such starting point"):
        starters.starter("Nothing")

"""Guards on every frame after applying: stored with the step to blame, gone with the picture, as the Bench says."""

import json

import numpy as np
import pytest

from lenskeep.core.recipes.models import Recipe
from lenskeep.files.working import working_bytes
from lenskeep.files.written import write_whole
from lenskeep.store import finished, frames, recipes, scenes, walls
from lenskeep.studio import basing, deeds, looks
from lenskeep.studio.bench import measures
from lenskeep.studio.bench.stage import Stage
from lenskeep.studio.queue import make_runner
from tools.made_up import ready_shoot

COUNT = 4


@pytest.fixture
def shoot(library, tmp_path):
    return ready_shoot(library, tmp_path / "card", COUNT)


def run(library):
    assert make_runner(library, 0).run_until_idle()


def rows(library, shoot):
    return frames.summaries(library.db, shoot)


def give(library, shoot, *steps):
    recipe = Recipe.model_validate({"name": "Look", "steps": list(steps)})
    looks.give_look(library, shoot, recipes.save_recipe(library.db, recipe).id, 1.0)
    run(library)
    return recipe


CALM = {"id": "calm", "name": "Calm", "adjustments": [{"kind": "contrast", "contrast": 5}]}
BURN = {
    "id": "burn",
    "name": "Burn the sky",
    "region": {"parts": [{"kind": "sky"}]},
    "adjustments": [{"kind": "exposure", "ev": 3.5}],
}


def test_a_calm_look_warns_of_nothing_and_every_frame_was_looked_at(library, shoot):
    give(library, shoot, CALM)
    assert [f.guards for f in rows(library, shoot)] == ["[]"] * COUNT
    assert not any(f.warned or f.faults for f in rows(library, shoot))
    assert all(len(f.pull.split()) == 3 for f in rows(library, shoot)), "its subject's pull is known"


def test_the_step_to_blame_is_named(library, shoot):
    give(library, shoot, CALM, BURN)
    for frame in rows(library, shoot):
        faults = {guard: (figure, step, name) for guard, figure, step, name in frame.faults}
        assert faults["clipped"][1:] == ("l1.burn", "Burn the sky") and faults["clipped"][0] > 1.0
    [scene] = scenes.shown(library.db, shoot)
    assert finished.warnings(library.db, scene.id)["clipped"] == COUNT
    assert walls.marked(library.db, shoot, "warned") == COUNT
    assert len(walls.page(library.db, shoot, "warned", "", 0, 9)) == COUNT


def test_a_base_that_burns_is_to_blame_itself(library, shoot):
    first = rows(library, shoot)[0]
    picture = np.full((80, 120, 3), 0.55, np.float32)
    write_whole(library.computed(first.content, first.found_by).working, working_bytes(picture))
    basing.set_values(library, shoot, [first.id], {"ev": 4.0})
    give(library, shoot, {"id": "s", "name": "S", "adjustments": [{"kind": "saturation", "saturation": 5}]})
    faults = {guard: name for guard, _, step, name in frames.summary(library.db, first.id).faults if step == ""}
    assert faults.get("clipped") == "base"


def test_a_warning_goes_with_its_picture_and_comes_back_with_it(library, shoot):
    give(library, shoot, BURN)
    first = rows(library, shoot)[0]
    looks.change_frame(library, first.id, strength=0.0)
    assert not frames.summary(library.db, first.id).warned, "of the picture it wants now nothing is known"
    from lenskeep.studio import applying

    applying.render_frame(library, first.id)
    assert frames.summary(library.db, first.id).guards == "[]"
    deeds.undo(library, shoot)
    run(library)
    assert frames.summary(library.db, first.id).warned


def test_the_bench_says_the_same(library, shoot):
    recipe = give(library, shoot, CALM, BURN)
    stage = Stage(library)
    for frame in rows(library, shoot)[:2]:
        told = measures.measures(stage, frame.id, recipe, None)
        bench = {g.name: g.step for g in told.guards if g.warns}
        applied = {guard: step.split(".")[-1] for guard, _, step, _ in json.loads(frame.guards)}
        assert bench == applied

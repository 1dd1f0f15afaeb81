"""Where a shoot stands is counted from what its frames are now: raw frames of either base, and the look as it is."""

import numpy as np

from lenskeep.core.recipes.models import Recipe
from lenskeep.store import frames, recipes, walls
from lenskeep.studio import bring_in, looks
from lenskeep.studio import find as finding
from lenskeep.studio.bench.stage import WITNESS_SIDE, Stage
from lenskeep.studio.queue import make_runner
from lenskeep.studio.standing import standing_of
from tools.made_up import look_recipe, ready_shoot, write_dng


def standing(library, shoot):
    return standing_of(walls.counts(library.db, shoot), looks.look_of_shoot(library, shoot))


def run(library):
    assert make_runner(library, 0).run_until_idle()


def test_results_of_an_earlier_look_do_not_count_as_applied(library, tmp_path):
    shoot = ready_shoot(library, tmp_path / "card", 3)
    one, two = (recipes.save_recipe(library.db, look_recipe(ev=ev)) for ev in (0.5, 1.0))
    looks.give_look(library, shoot, one.id, 1.0)
    run(library)
    assert standing(library, shoot).finished == 3
    looks.give_look(library, shoot, two.id, 1.0)
    now = standing(library, shoot)
    assert (now.finished, now.stale) == (0, 3)
    looks.give_look(library, shoot, one.id, 1.0)
    assert standing(library, shoot).finished == 3
    looks.change_frame(library, frames.frames(library.db, shoot)[0].id, strength=0.3)
    assert standing(library, shoot).finished == 2


def test_raw_frames_count_with_the_base_that_they_have(library, tmp_path):
    (tmp_path / "card").mkdir()
    write_dng(tmp_path / "card" / "a.dng", np.full((64, 96, 3), 0.18))
    shoot = bring_in.create_shoot(library, "Raw")
    bring_in.receive_folder(library, shoot, tmp_path / "card")
    finding.queue_finding(library, shoot)
    run(library)
    stage = Stage(library)
    [frame] = frames.frames(library.db, shoot)
    soft = stage.picture(frame.id, Recipe(), WITNESS_SIDE)
    finding.set_raw_base(library, shoot, "neutral")
    assert standing(library, shoot).found == 0
    run(library)
    assert standing(library, shoot).found == 1
    neutral = stage.picture(frame.id, Recipe(), WITNESS_SIDE)
    assert neutral != soft, "the Bench shows the new picture, not the one it has kept"
    assert neutral == Stage(library).picture(frame.id, Recipe(), WITNESS_SIDE)


def test_a_frame_that_could_not_be_rendered_counts_as_failed_until_it_is(library, tmp_path):
    shoot = ready_shoot(library, tmp_path / "card", 2)
    version = recipes.save_recipe(library.db, look_recipe())
    second = frames.frames(library.db, shoot)[1]
    base = library.computed(second.content).working
    good = base.read_bytes()
    base.write_bytes(b"spoilt")
    looks.give_look(library, shoot, version.id, 1.0)
    run(library)
    assert standing(library, shoot).failed == 1
    base.write_bytes(good)
    finding.try_again(library, shoot)
    run(library)
    assert (standing(library, shoot).failed, standing(library, shoot).finished) == (0, 2)

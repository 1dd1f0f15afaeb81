"""Facts and files are looked at together: masks deleted from disk are found anew, never taken for empty ones."""

import pytest

from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.models import Recipe
from lenskeep.store import frames, jobs, recipes
from lenskeep.studio import find as finding
from lenskeep.studio import looks
from lenskeep.studio.bench.stage import WITNESS_SIDE, Stage
from lenskeep.studio.hand_over import deliver
from lenskeep.studio.hand_over.deliver import DeliveryOptions
from lenskeep.studio.queue import make_runner
from tools.made_up import look_recipe, ready_shoot


@pytest.fixture
def shoot(library, tmp_path):
    return ready_shoot(library, tmp_path / "card", 3)


def rows(library, shoot):
    return frames.frames(library.db, shoot)


def run(library):
    assert make_runner(library, 0).run_until_idle()


@pytest.mark.parametrize("name", ["subject", "animals", "pieces"])
def test_a_deleted_mask_is_found_anew(library, shoot, name):
    second = rows(library, shoot)[1]
    library.computed(second.content).mask(name).unlink()
    job_id = finding.queue_finding(library, shoot)
    assert [i.frame_id for i, _ in jobs.items(library.db, job_id)] == [second.id]
    run(library)
    again = rows(library, shoot)[1]
    assert again.state == "ready" and library.computed(again.content).holds(again.facts)
    assert finding.queue_finding(library, shoot) is None


def test_no_picture_is_made_without_a_mask_that_the_facts_speak_of(library, shoot):
    version = recipes.save_recipe(library.db, look_recipe())
    second = rows(library, shoot)[1]
    library.computed(second.content).mask("greenery").unlink()
    applied = looks.give_look(library, shoot, version.id, 1.0)
    handed = deliver.queue_delivery(library, shoot, DeliveryOptions())
    run(library)
    for job_id in (applied, handed):
        assert [name for name, _ in jobs.failures(library.db, job_id)] == [second.file_name]
        assert "Find its masks again" in jobs.failures(library.db, job_id)[0][1]
    assert rows(library, shoot)[1].state == "waiting" and "masks" in rows(library, shoot)[1].render_problem
    with pytest.raises(UserProblem, match="gone from the library"):
        Stage(library).picture(second.id, Recipe(), WITNESS_SIDE)
    finding.try_again(library, shoot)
    run(library)
    ready = rows(library, shoot)[1]
    assert ready.state == "ready" and ready.result_key and not ready.render_problem


def test_everything_can_be_found_again_and_what_was_done_by_hand_stays(library, shoot):
    first = rows(library, shoot)[0]
    frames.set_accepted(library.db, first.id, True)
    looks.change_frame(library, first.id, strength=0.4)
    job_id = finding.queue_finding(library, shoot, everything=True)
    assert jobs.job(library.db, job_id).total == 3 and all(f.facts is None for f in rows(library, shoot))
    run(library)
    again = rows(library, shoot)[0]
    assert again.facts is not None and again.accepted and again.override.strength == 0.4

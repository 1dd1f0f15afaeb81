"""Masks that an earlier version found stay until they are found anew: an update changes nothing that was checked."""

import pytest

from lenskeep.core.detect.find import DETECTOR
from lenskeep.core.repairs.models import Painted
from lenskeep.store import frames, recipes, walls
from lenskeep.studio import applying, find, looks, repairing
from lenskeep.studio.hand_over import deliver
from lenskeep.studio.library import Library
from lenskeep.studio.queue import make_runner
from lenskeep.studio.tasks.find import find_on_frame
from tools.made_up import look_recipe, ready_shoot

EARLIER = "find-of-last-year"


def run(library):
    assert make_runner(library, 0).run_until_idle()


@pytest.fixture
def old(tmp_path):
    """A library whose masks were found, and whose look was rendered, by an earlier version; opened by this one."""
    library = Library(tmp_path / "home")
    shoot = ready_shoot(library, tmp_path / "card", 3)
    for path in library.home.glob("computed/*/*/*.png"):
        path.rename(path.with_name(path.name.replace(DETECTOR, EARLIER)))
    with library.db.writing() as write:
        write.execute("UPDATE findings SET detector = ?, facts = replace(facts, ?, ?)", (EARLIER, DETECTOR, EARLIER))
        write.execute("UPDATE frames SET found_by = ?", (EARLIER,))
    version = recipes.save_recipe(library.db, look_recipe())
    looks.give_look(library, shoot, version.id, 1.0)
    run(library)
    return Library(library.home), shoot


def test_nothing_is_found_or_rendered_anew_by_opening_it(old):
    library, shoot = old
    counts = walls.counts(library.db, shoot)
    assert (counts.found, counts.finished, counts.stale) == (3, 3, 0)
    before = [f.result_key for f in frames.frames(library.db, shoot)]
    assert find.queue_finding(library, shoot) is None, "no frame lacks its masks"
    run(library)
    assert [f.result_key for f in frames.frames(library.db, shoot)] == before


def test_it_is_worked_with_and_handed_over_by_its_own_masks(old, tmp_path):
    library, shoot = old
    first = frames.frames(library.db, shoot)[0]
    looks.change_frame(library, first.id, strength=0.5)
    applying.render_frame(library, first.id)
    stroke = Painted(mask="subject", points=[(0.1, 0.9)], size=0.1)
    repaired = repairing.repair(library, first.id, stroke)
    assert repaired.facts.subject.by_hand and repaired.found_by == EARLIER
    job = deliver.queue_delivery(library, shoot, deliver.DeliveryOptions(folder=str(tmp_path / "out")))
    run(library)
    assert "3 of 3 files" in looks.jobs.job(library.db, job).message


def test_found_anew_on_request_it_has_todays_masks_and_wants_new_pictures(old):
    library, shoot = old
    before = {f.id: f.wanted_key for f in frames.frames(library.db, shoot)}
    find.queue_finding(library, shoot, everything=True)
    run(library)
    after = frames.frames(library.db, shoot)
    assert {f.found_by for f in after} == {DETECTOR}
    assert all(f.wanted_key != before[f.id] and f.stale for f in after)
    assert all(library.computed(f.content).holds(f.found_facts) for f in after)
    look = looks.look_of_shoot(library, shoot)
    looks.give_look(library, shoot, look.version.id, look.strength)
    run(library)
    assert all(f.finished for f in frames.frames(library.db, shoot))


def test_the_same_photograph_elsewhere_keeps_what_it_had(old, tmp_path):
    library, shoot = old
    other = ready_shoot(library, tmp_path / "card", 1)  # found by today's detectors
    [new] = frames.frames(library.db, other)
    same = next(f for f in frames.frames(library.db, shoot) if f.content == new.content)
    assert (new.found_by, same.found_by) == (DETECTOR, EARLIER) and same.finished
    assert library.computed(same.content, same.found_by).holds(same.found_facts)
    assert library.computed(new.content, new.found_by).holds(new.found_facts)


def test_frames_found_anew_keep_to_one_core_each_while_others_wait(old, monkeypatch):
    library, shoot = old
    seen = []

    def noted(task):
        seen.append(task.in_turn)
        return find_on_frame(task)

    monkeypatch.setattr(find.Finding, "run", staticmethod(noted))
    monkeypatch.setattr(find.os, "cpu_count", lambda: 2)
    find.queue_finding(library, shoot, everything=True)
    run(library)
    assert seen == [True, True, False], "the last one has both"
    assert walls.counts(library.db, shoot).found == 3

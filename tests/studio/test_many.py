"""Whatever can be done to a frame is done to many, as one deed; what is refused changes nothing."""

import csv

import pytest
from pydantic import ValidationError

from lenskeep.core.base.models import FrameBase
from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.overrides import StepOverride
from lenskeep.core.repairs.models import Emptied
from lenskeep.store import deeds as kept
from lenskeep.store import frames, jobs, looks, recipes, scenes, walls
from lenskeep.studio import balancing, deeds, many, placing, repairing
from lenskeep.studio import looks as giving
from lenskeep.studio.hand_over import deliver
from lenskeep.studio.many import do
from tests.studio.doing import asked, run
from tools.made_up import look_recipe, ready_shoot


@pytest.fixture
def shoot(library, tmp_path):
    made = ready_shoot(library, tmp_path / "card", 6)
    giving.give_look(library, made, recipes.save_recipe(library.db, look_recipe()).id, 1.0)
    placing.place(library, made)
    run(library)
    return made


def rows(library, shoot):
    return frames.summaries(library.db, shoot)


def ids(library, shoot, *numbers):
    return [rows(library, shoot)[n].id for n in numbers or range(6)]


def own(library, frame_id):
    return frames.frame(library.db, frame_id).override


DEEDS = {
    "base": asked(what="base", values={"ev": 0.5}),
    "by measure": asked(what="measure"),
    "strength": asked(what="strength", strength=0.4),
    "rating": asked(what="rate", rating=3),
    "reject": asked(what="reject"),
    "accept": asked(what="accept"),
    "new scene": asked(what="new-scene"),
}


@pytest.mark.parametrize("words", DEEDS)
def test_it_is_done_to_each_and_undone_in_one_step(library, shoot, words):
    chosen = ids(library, shoot, 1, 2, 4)
    before = kept.states(library.db, ids(library, shoot))
    assert do(library, shoot, chosen, DEEDS[words]).startswith("Done")
    after = kept.states(library.db, ids(library, shoot))
    changed = {i for i in before if after[i] != before[i]}
    assert changed == set(chosen) or (words == "by measure" and changed <= set(chosen))
    deeds.undo(library, shoot)
    assert kept.states(library.db, ids(library, shoot)) == before
    assert all(f.finished for f in rows(library, shoot)), "every frame has the picture that it had"


def test_a_base_is_added_to_what_each_has_or_set(library, shoot):
    first, second = ids(library, shoot, 0, 1)
    do(library, shoot, [first], asked(what="base", values={"ev": 3.8, "shadows": 10}))
    do(library, shoot, [first, second], asked(what="base", values={"ev": 0.5}, added=True))
    assert own(library, first).base == FrameBase(ev=4.0, shadows=10), "held to what a base can be"
    assert own(library, second).base == FrameBase(ev=0.5)
    do(library, shoot, [first, second], asked(what="came"))
    assert own(library, first).is_neutral and own(library, second).is_neutral


def test_what_was_copied_is_pasted_as_ticked(library, shoot):
    source, target = ids(library, shoot, 0, 3)
    do(library, shoot, [source], asked(what="base", values={"mired": 12}))
    giving.change_frame(library, source, strength=0.5, step_id="sky", step=StepOverride(enabled=False))
    repairing.repair(library, source, Emptied(mask="sky"))
    do(library, shoot, [target], asked(what="paste", source=source, base=True))
    assert (
        own(library, target).base.mired == 12
        and own(library, target).keeps_look
        and not own(library, target).repairs.done
    )
    do(library, shoot, [target], asked(what="paste", source=source, look=True, repairs=True))
    assert own(library, target) == own(library, source)
    assert frames.frame(library.db, target).facts.sky.area == 0, "what is known of the mask follows its repair"
    deeds.undo(library, shoot)
    assert own(library, target).base.mired == 12 and own(library, target).keeps_look
    assert frames.frame(library.db, target).facts.sky.area > 0
    with pytest.raises(UserProblem, match="Tick what"):
        do(library, shoot, [target], asked(what="paste", source=source))
    with pytest.raises(UserProblem, match="copied is no longer"):
        do(library, shoot, [target], asked(what="paste", source=99, base=True))


def test_back_to_the_scenes_look_leaves_base_and_repairs(library, shoot):
    [one] = ids(library, shoot, 1)
    do(library, shoot, [one], asked(what="base", values={"ev": 1}))
    giving.change_frame(library, one, strength=0.2)
    do(library, shoot, [one], asked(what="look"))
    assert own(library, one).keeps_look and own(library, one).base.ev == 1


def test_another_recipe_goes_to_a_scene_of_their_own(library, shoot):
    other = recipes.save_recipe(library.db, look_recipe("Other", -1.0))
    chosen = ids(library, shoot, 2, 5)
    do(library, shoot, chosen, asked(what="new-scene", version=other.id, strength=0.5))
    home = rows(library, shoot)[2].scene_id
    assert scenes.frame_ids(library.db, [home]) == chosen
    assert looks.look(library.db, home).version.id == other.id and looks.look(library.db, home).strength == 0.5
    run(library)
    assert all(f.finished for f in rows(library, shoot))


def test_many_frames_are_measured_as_a_job_and_change_together(library, shoot, monkeypatch):
    do(library, shoot, ids(library, shoot), asked(what="measure"))
    at_once = [f.own_base for f in rows(library, shoot)]
    assert any(base.ev or base.mired for base in at_once)
    deeds.undo(library, shoot)
    monkeypatch.setattr(many, "MOST_MEASURED", 3)
    said = do(library, shoot, ids(library, shoot), asked(what="measure"))
    assert said.startswith("6 frames are being measured") and not any(f.changed for f in rows(library, shoot))
    run(library)
    assert [f.own_base for f in rows(library, shoot)] == at_once, "the same as at once"
    assert all(f.finished for f in rows(library, shoot)) and not list((library.home / "measured").glob("*"))
    deeds.undo(library, shoot)
    assert not any(f.changed for f in rows(library, shoot)), "one deed"


def test_measuring_goes_on_after_a_kill_and_without_a_frame_that_is_gone(library, shoot, monkeypatch):
    monkeypatch.setattr(many, "MOST_MEASURED", 3)
    do(library, shoot, ids(library, shoot), asked(what="measure"))
    first, gone, *_ = ids(library, shoot)
    [job] = jobs.active_jobs(library.db, shoot, "balance")
    handler = balancing.Balancing(library)
    item = next(i for i, _ in jobs.items(library.db, job.id) if i.frame_id == first)
    handler.record(job, item, {"ev": 0.25, "mired": 0.0, "duv": 0.0})  # of a run that was killed then
    frames.remove_frame(library.db, gone)
    run(library)
    by_id = {f.id: f for f in rows(library, shoot)}
    assert gone not in by_id and len(by_id) == 5
    assert jobs.job(library.db, job.id).state == "done"
    balancing.MEASURED.sweep(library)
    assert not list((library.home / "measured").glob("*"))


def test_what_is_refused_for_one_changes_none(library, shoot, monkeypatch):
    before = kept.states(library.db, ids(library, shoot))
    with pytest.raises(UserProblem, match="Exposure of a base"):
        do(library, shoot, ids(library, shoot), asked(what="base", values={"ev": 9}))
    real = frames.set_override
    seen = []

    def failing(db, frame_id, override, wanted):
        seen.append(frame_id)
        if len(seen) == 3:
            raise UserProblem("The disk is full.")
        real(db, frame_id, override, wanted)

    monkeypatch.setattr(frames, "set_override", failing)
    with pytest.raises(UserProblem, match="disk"):
        do(library, shoot, ids(library, shoot), asked(what="strength", strength=0.1))
    assert kept.states(library.db, ids(library, shoot)) == before and kept.last_done(library.db, shoot) is None


def test_frames_of_another_shoot_and_of_none_are_refused(library, shoot, tmp_path):
    other = ready_shoot(library, tmp_path / "other", 1)
    for wrong in ([*ids(library, shoot, 1), rows(library, other)[0].id], [9999]):
        with pytest.raises(UserProblem, match="not in this shoot"):
            do(library, shoot, wrong, DEEDS["rating"])


@pytest.mark.parametrize(
    "wrong", [{"what": "rate", "rating": 6}, {"what": "base", "values": {}}, {"what": "eat"}, {"what": "strength"}]
)
def test_what_means_nothing_is_refused(wrong):
    with pytest.raises(ValidationError):
        asked(**wrong)


def test_rejected_frames_stay_behind_unless_they_are_asked_for(library, shoot, tmp_path):
    do(library, shoot, ids(library, shoot, 1, 2), DEEDS["reject"])
    do(library, shoot, ids(library, shoot, 3), DEEDS["rating"])
    assert walls.marked(library.db, shoot, "rejected") == 2
    for rejected, count in ((False, 4), (True, 6)):
        out = tmp_path / f"out{count}"
        deliver.queue_delivery(library, shoot, deliver.DeliveryOptions(folder=str(out), rejected=rejected))
        run(library)
        assert len(list(out.glob("*.jpg"))) == count
    with next(out.glob("*.csv")).open(encoding="utf-8-sig") as text:
        assert [line["rating"] for line in csv.DictReader(text)] == ["", "", "", "3", "", ""]
    do(library, shoot, ids(library, shoot), DEEDS["reject"])
    with pytest.raises(UserProblem, match="Every frame"):
        deliver.queue_delivery(library, shoot, deliver.DeliveryOptions())


def test_all_frames_are_known_in_the_walls_order_and_like_ones_together(library, shoot):
    assert many.ordered_ids(library, shoot) == [(rows(library, shoot)[0].scene_id, ids(library, shoot))]
    do(library, shoot, ids(library, shoot, 4), DEEDS["reject"])
    assert many.ordered_ids(library, shoot, "rejected")[0][1] == ids(library, shoot, 4)
    one = ids(library, shoot, 0)[0]
    found = many.like(library, one)
    assert one in found and set(found) <= set(ids(library, shoot))

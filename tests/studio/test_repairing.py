"""Repairs kept on a frame: every step that uses the mask, finding again, hand-overs; and no other frame."""

import csv
import io

import numpy as np
import pytest
from PIL import Image

from lenskeep.core.detect.find import DETECTOR
from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.overrides import FrameOverride
from lenskeep.core.repairs.models import Clicked, Emptied, Painted, Repairs
from lenskeep.store import findings, frames, recipes, walls
from lenskeep.studio import applying, find, looks, repairing
from lenskeep.studio.bench.stage import KEY_SIDE, Stage
from lenskeep.studio.hand_over import deliver
from lenskeep.studio.hand_over.sheet import SHEET
from lenskeep.studio.problems import ChangedMeanwhile
from lenskeep.studio.queue import make_runner
from tools.made_up import look_recipe, ready_shoot

CORNER = Painted(mask="subject", points=[(0.05, 0.9), (0.2, 0.9)], size=0.15, edge_aware=False)
NONE_HERE = Emptied(mask="subject")


def run(library):
    assert make_runner(library, 0).run_until_idle()


@pytest.fixture
def dressed(library, tmp_path):
    """A shoot of three frames under a look that lifts the subject and darkens the rest, rendered."""
    shoot_id = ready_shoot(library, tmp_path / "card", 3)
    version = recipes.save_recipe(library.db, look_recipe(ev=1.5))
    looks.give_look(library, shoot_id, version.id, 1.0)
    run(library)
    return shoot_id


def rows(library, shoot_id):
    return frames.frames(library.db, shoot_id)


def corner_of(path):
    """Mean brightness of the lower left corner, which is background until it is painted."""
    picture = np.asarray(Image.open(path).convert("L"), float)
    h, w = picture.shape
    return float(picture[int(0.86 * h) : int(0.94 * h), int(0.07 * w) : int(0.18 * w)].mean())


def result(library, frame):
    return library.result(frame.result_key)


def test_a_repair_is_in_the_finished_picture_and_on_no_other_frame(library, dressed):
    before = rows(library, dressed)
    was = corner_of(result(library, before[0]))
    now = repairing.repair(library, before[0].id, CORNER)
    assert now.stale and now.changed and now.facts.subject.by_hand
    applying.render_frame(library, now.id)
    after = rows(library, dressed)
    assert corner_of(result(library, after[0])) > was + 25
    assert [f.wanted_key for f in after[1:]] == [f.wanted_key for f in before[1:]]
    assert all(f.finished for f in after)


def test_a_doubtful_frame_is_doubtful_no_more_and_the_tabs_know(library, dressed):
    doubtful = rows(library, dressed)[2]
    assert doubtful.doubtful and walls.counts(library.db, dressed).doubtful == 1
    repairing.repair(library, doubtful.id, CORNER)
    assert not frames.summary(library.db, doubtful.id).doubtful
    counts = walls.counts(library.db, dressed)
    assert counts.doubtful == 0 and counts.changed == 1
    repairing.undo(library, doubtful.id)
    again = frames.frame(library.db, doubtful.id)
    assert again.doubtful and not again.changed and again.facts == doubtful.facts
    assert again.wanted_key == doubtful.wanted_key, "nothing changed, so its picture is the one it was"


def test_redo_makes_it_again_and_as_found_takes_all_of_a_mask_back(library, dressed):
    frame_id = rows(library, dressed)[0].id
    repairing.repair(library, frame_id, CORNER)
    key = repairing.repair(library, frame_id, Emptied(mask="sky")).wanted_key
    repairing.undo(library, frame_id)
    assert repairing.redo(library, frame_id).wanted_key == key
    left = repairing.as_found(library, frame_id, "subject")
    assert left.override.repairs.masks == ("sky",) and not left.facts.subject.by_hand and left.facts.sky.by_hand


def test_finding_again_keeps_repairs(library, dressed):
    first = rows(library, dressed)[0]
    repaired = repairing.repair(library, first.id, CORNER)
    find.queue_finding(library, dressed, everything=True)
    run(library)
    again = frames.frame(library.db, first.id)
    assert again.found and again.override.repairs == repaired.override.repairs
    assert again.facts.subject.by_hand and again.facts.subject_box.x0 < 0.1
    assert not again.found_facts.subject.by_hand, "what was found is kept beside what was made of it"
    others = rows(library, dressed)[1:]
    assert not any(f.facts.subject.by_hand for f in others)


def test_the_same_photograph_in_another_shoot_keeps_its_own_masks(library, dressed, tmp_path):
    first = rows(library, dressed)[0]
    repairing.repair(library, first.id, CORNER)
    other = ready_shoot(library, tmp_path / "card", 1)
    [same] = rows(library, other)
    assert same.sha256 == first.sha256 and not same.facts.subject.by_hand
    findings.keep_facts(library.db, same.content, same.facts)
    assert frames.frame(library.db, first.id).facts.subject.by_hand


def test_another_version_of_the_look_keeps_repairs(library, dressed):
    first = repairing.repair(library, rows(library, dressed)[0].id, CORNER)
    version = recipes.save_recipe(library.db, look_recipe(ev=-1.5))
    looks.give_look(library, dressed, version.id, 1.0)
    run(library)
    after = frames.frame(library.db, first.id)
    assert after.finished and after.override.repairs == first.override.repairs
    untouched = rows(library, dressed)[1]
    assert corner_of(result(library, after)) < corner_of(result(library, untouched)) - 25


def test_the_shoots_look_again_takes_no_repair_back(library, dressed):
    first = repairing.repair(library, rows(library, dressed)[0].id, CORNER)
    looks.change_frame(library, first.id, strength=0.4)
    reset = looks.change_frame(library, first.id, reset=True)
    assert reset.override.strength == 1.0 and reset.override.repairs == first.override.repairs


def test_a_hand_over_has_the_repair_of_the_moment_it_was_queued(library, dressed, tmp_path):
    first = repairing.repair(library, rows(library, dressed)[0].id, CORNER)
    target = tmp_path / "out"
    deliver.queue_delivery(library, dressed, deliver.DeliveryOptions(folder=str(target)))
    repairing.undo(library, first.id)  # too late for this hand-over
    run(library)
    named = {row["original"]: row for row in csv.DictReader(io.StringIO((target / SHEET).read_text("utf-8-sig")))}
    row = named[first.file_name]
    assert row["masks repaired"] == "subject" and row["subject trust"] == "by hand"
    others = [r for name, r in named.items() if name != first.file_name]
    assert all(r["masks repaired"] == "" for r in others)
    applying.render_frame(library, first.id)
    unrepaired = frames.frame(library.db, first.id)
    assert corner_of(target / row["file"]) > corner_of(result(library, unrepaired)) + 25


def test_the_bench_works_with_the_repaired_mask(library, dressed):
    first = rows(library, dressed)[0]
    stage = Stage(library)
    with stage.at_work(first.id, KEY_SIDE) as staged:
        assert staged.frame.found.subject[-20, 30] < 0.1
    repairing.repair(library, first.id, CORNER)
    with stage.at_work(first.id, KEY_SIDE) as staged:
        found = staged.frame.found
        assert found.subject[int(0.9 * found.shape[0]), int(0.12 * found.shape[1])] > 0.9
        assert found.facts.subject_box.x0 < 0.1


def test_a_look_left_out_where_the_subject_was_taken_away(library, dressed):
    first = repairing.repair(library, rows(library, dressed)[0].id, NONE_HERE)
    applying.render_frame(library, first.id)
    after = frames.frame(library.db, first.id)
    assert any("No subject was found here" in words for words in after.missing)


def test_two_who_repair_at_once_lose_nothing(library, dressed, monkeypatch):
    frame_id = rows(library, dressed)[0].id
    slow = repairing.found_on

    def overtaken(*given):
        monkeypatch.setattr(repairing, "found_on", slow)
        repairing.repair(library, frame_id, NONE_HERE)
        return slow(*given)

    monkeypatch.setattr(repairing, "found_on", overtaken)
    with pytest.raises(ChangedMeanwhile):
        repairing.repair(library, frame_id, CORNER)
    assert frames.frame(library.db, frame_id).override.repairs.done == (NONE_HERE,)


def test_words_where_it_can_not_be_done(library, dressed):
    frame = rows(library, dressed)[0]
    with pytest.raises(UserProblem, match="no mask called “grass”"):
        repairing.repair(library, frame.id, Emptied(mask="grass"))
    with pytest.raises(UserProblem, match="no longer in the library"):
        repairing.repair(library, 10_000, CORNER)
    full = FrameOverride(repairs=Repairs(done=(NONE_HERE,) * 400))
    frames.set_override(library.db, frame.id, full, frame.wanted_key)
    with pytest.raises(UserProblem, match="as many repairs as it can hold"):
        repairing.repair(library, frame.id, CORNER)
    library.computed(frame.content).mask("subject").unlink()
    with pytest.raises(UserProblem, match="Find its masks again"):
        repairing.undo(library, frame.id)


def test_a_click_into_a_hole_means_the_hole_and_away_on_an_island_the_island(library, dressed):
    frame = rows(library, dressed)[0]
    hole = Painted(mask="subject", away=True, points=[(0.5, 0.62)], size=0.05, hardness=0.9, edge_aware=False)
    island = Painted(mask="subject", points=[(0.1, 0.9)], size=0.05, hardness=0.9, edge_aware=False)
    for one in (hole, island):
        frame = repairing.repair(library, frame.id, one)
    spoilt = frame.facts.subject.area
    assert repairing.gap_outline(library, frame, Clicked(mask="subject", x=0.5, y=0.62)).startswith("M")
    assert repairing.gap_outline(library, frame, Clicked(mask="subject", x=0.3, y=0.1)) == ""
    frame = repairing.repair(library, frame.id, Clicked(mask="subject", x=0.5, y=0.62))
    assert frame.facts.subject.area > spoilt
    frame = repairing.repair(library, frame.id, Clicked(mask="subject", away=True, x=0.1, y=0.9))
    assert [one.kind for one in frame.override.repairs.done] == ["painted", "painted", "gap", "gap"]
    assert frame.facts.subject.area == pytest.approx(frame.found_facts.subject.area, abs=2e-3)
    alone = repairing.repair(library, frame.id, Clicked(mask="subject", x=0.5, y=0.1, alone=True))
    assert alone.override.repairs.done[-1].kind == "clicked"


def test_a_repair_at_places_survives_another_finders_pieces(library, dressed):
    """A click is kept as a place, so it takes whatever lies there after finding again."""
    frame = rows(library, dressed)[0]
    repairing.repair(library, frame.id, Clicked(mask="subject", x=0.5, y=0.1))
    assert frames.frame(library.db, frame.id).facts.subject.area > 0.3
    bare = frame.found_facts.model_copy(update={"pieces": [], "detector": DETECTOR})
    findings.keep_facts(library.db, frame.content, bare)
    repairing.follow(library, frame.id)
    assert frames.frame(library.db, frame.id).facts.subject.area < 0.3

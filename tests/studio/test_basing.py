"""Bases of frames in the library: set, measured, clicked, undone; their pictures, hand-overs and marks follow."""

import csv
import io

import numpy as np
import pytest
from typer.testing import CliRunner

from lenskeep.cli import app
from lenskeep.core.base.models import AS_IT_CAME, FrameBase
from lenskeep.core.colour.oklab import to_oklab
from lenskeep.core.colour.spaces import SRGB_TO_REC2020
from lenskeep.core.plan import Plan
from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.render import Cut
from lenskeep.core.repairs.models import Emptied
from lenskeep.files.reading.photo import linear_of, read_photo, to_srgb8
from lenskeep.files.working import working_bytes
from lenskeep.files.written import write_whole
from lenskeep.store import deeds as kept
from lenskeep.store import frames, jobs, recipes, walls
from lenskeep.studio import applying, basing, deeds, looks, repairing
from lenskeep.studio.bench import trying
from lenskeep.studio.bench.stage import KEY_SIDE, Stage
from lenskeep.studio.close.view import CloseView
from lenskeep.studio.hand_over import deliver
from lenskeep.studio.queue import make_runner
from lenskeep.studio.tasks.balance import MOST_EV
from tools.made_up import look_recipe, ready_shoot


@pytest.fixture
def shoot(library, tmp_path):
    return ready_shoot(library, tmp_path / "card", 4)


def rows(library, shoot):
    return frames.summaries(library.db, shoot)


def run(library):
    assert make_runner(library, 0).run_until_idle()


def light(path):
    photo = read_photo(path)
    return float(np.median(photo.rows(0, photo.height)))


def finished(library, frame_id):
    return library.result(frames.frame(library.db, frame_id).result_key)


def test_a_base_is_seen_without_a_look_and_with_one(library, shoot):
    first, second, *_ = rows(library, shoot)
    basing.set_values(library, shoot, [first.id], {"ev": 1.0})
    applying.render_frame(library, first.id)
    assert light(finished(library, first.id)) > 1.5 * light(library.computed(first.content).base)
    assert frames.summary(library.db, second.id).wanted_key == "", "the others want nothing without a look"

    version = recipes.save_recipe(library.db, look_recipe())
    looks.give_look(library, shoot, version.id, 1.0)
    run(library)
    with_base = light(finished(library, first.id))
    basing.set_bases(library, shoot, {first.id: AS_IT_CAME}, "back")
    applying.render_frame(library, first.id)
    assert with_base > 1.35 * light(finished(library, first.id))
    assert not frames.summary(library.db, first.id).changed


def test_values_that_are_not_given_stay_and_wrong_ones_change_nothing(library, shoot):
    first, second, *_ = rows(library, shoot)
    basing.set_values(library, shoot, [first.id], {"ev": 0.5, "mired": 8})
    basing.set_values(library, shoot, [first.id, second.id], {"mired": -3})
    assert rows(library, shoot)[0].own_base == FrameBase(ev=0.5, mired=-3)
    assert rows(library, shoot)[1].own_base == FrameBase(mired=-3)
    for wrong in ({"ev": 5.0}, {"duv": float("nan")}, {"gamma": 1.0}):
        with pytest.raises(UserProblem):
            basing.set_values(library, shoot, [first.id], wrong)
    assert rows(library, shoot)[0].own_base == FrameBase(ev=0.5, mired=-3)


def test_what_was_done_to_many_is_undone_in_one_step(library, shoot):
    ids = [f.id for f in rows(library, shoot)]
    basing.set_values(library, shoot, ids[:1], {"ev": 0.25})
    basing.set_values(library, shoot, ids, {"ev": -1.0})
    assert kept.last_done(library.db, shoot).words == "the base of 4 frames"
    assert "the base of 4 frames" in deeds.undo(library, shoot)
    assert [f.own_base.ev for f in rows(library, shoot)] == [0.25, 0, 0, 0]
    deeds.redo(library, shoot)
    assert [f.own_base.ev for f in rows(library, shoot)] == [-1] * 4
    deeds.undo(library, shoot)
    deeds.undo(library, shoot)
    assert not any(f.changed for f in rows(library, shoot))
    with pytest.raises(UserProblem, match="nothing to undo"):
        deeds.undo(library, shoot)
    deeds.redo(library, shoot)
    basing.set_values(library, shoot, ids[1:2], {"ev": 2.0})
    with pytest.raises(UserProblem, match="nothing to do again"):
        deeds.redo(library, shoot)


def test_what_was_changed_since_stays_when_it_is_undone(library, shoot):
    first, second, *_ = rows(library, shoot)
    basing.set_values(library, shoot, [first.id, second.id], {"ev": 1.0})
    with library.db.writing():  # another program, which writes no deed
        frame = frames.frame(library.db, second.id)
        frames.set_override(library.db, second.id, frame.override.with_base(FrameBase(ev=3.0)), "")
    assert "1 frame was changed since" in deeds.undo(library, shoot)
    assert [f.own_base.ev for f in rows(library, shoot)[:2]] == [0.0, 3.0]


def test_a_deed_that_changes_nothing_is_not_kept(library, shoot):
    ids = [f.id for f in rows(library, shoot)]
    assert basing.set_values(library, shoot, ids, {"ev": 0.0}) == []
    assert kept.last_done(library.db, shoot) is None


def test_undoing_wants_the_picture_there_was_and_needs_no_new_one(library, shoot):
    looks.give_look(library, shoot, recipes.save_recipe(library.db, look_recipe()).id, 1.0)
    run(library)
    first = rows(library, shoot)[0]
    basing.set_values(library, shoot, [first.id], {"ev": 1.0})
    assert rows(library, shoot)[0].stale
    deeds.undo(library, shoot)
    again = rows(library, shoot)[0]
    assert again.finished and again.result_key == first.result_key and jobs.active_job(library.db, shoot) is None


def grey_wall(library, frame, cast):
    """Make a frame's working copy a wall of one colour."""
    picture = np.empty((80, 120, 3), np.float32)
    picture[:] = np.asarray(cast, np.float32) @ SRGB_TO_REC2020.T.astype(np.float32)
    write_whole(library.computed(frame.content, frame.found_by).working, working_bytes(picture))


def test_a_click_makes_what_is_there_neutral(library, shoot):
    first = rows(library, shoot)[0]
    grey_wall(library, first, (0.34, 0.25, 0.16))
    base = basing.neutral_at(library, first, 0.5, 0.5)
    assert base.mired < -10 and base.ev == 0
    basing.set_bases(library, shoot, {first.id: base}, "click")
    applying.render_frame(library, first.id)
    pixels = linear_of(to_srgb8(read_photo(finished(library, first.id)).rows(0, 40)))
    assert np.abs(np.median(to_oklab(pixels)[..., 1:], axis=(0, 1))).max() < 0.006


@pytest.mark.parametrize("colour", [(1.0, 1.0, 0.98), (0.0005, 0.0004, 0.0004)])
def test_a_click_on_white_or_black_says_what_to_click_on(library, shoot, colour):
    first = rows(library, shoot)[0]
    grey_wall(library, first, colour)
    with pytest.raises(UserProblem, match="something grey"):
        basing.neutral_at(library, first, 0.5, 0.5)


def test_by_measure_a_dark_frame_is_lifted_and_keeps_what_else_it_has(library, shoot):
    first = rows(library, shoot)[0]
    basing.set_values(library, shoot, [first.id], {"shadows": 20})
    grey_wall(library, first, (0.07, 0.07, 0.07))
    base = basing.measured(library, rows(library, shoot)[0])
    assert 0.3 < base.ev <= MOST_EV and base.shadows == 20


def test_as_the_frame_before_and_not_before_the_first(library, shoot):
    first, second, *_ = rows(library, shoot)
    basing.set_values(library, shoot, [first.id], {"ev": 0.4, "duv": 2})
    assert basing.before(library, second) == FrameBase(ev=0.4, duv=2)
    with pytest.raises(UserProblem, match="first frame"):
        basing.before(library, first)


def test_a_frame_without_masks_says_so(library, shoot):
    with library.db.writing() as write:
        write.execute("UPDATE frames SET state = 'waiting', found_by = ''")
    with pytest.raises(UserProblem, match="not found yet"):
        basing.measured(library, rows(library, shoot)[0])


def test_bench_close_view_trial_and_delivery_agree_on_the_base(library, shoot, tmp_path):
    first = rows(library, shoot)[0]
    base = FrameBase(ev=0.8, mired=10, highlights=-30)
    basing.set_bases(library, shoot, {first.id: base}, "base")
    look = look_recipe()
    looks.give_look(library, shoot, recipes.save_recipe(library.db, look).id, 1.0)
    run(library)
    row = frames.frame(library.db, first.id)
    stage = Stage(library)
    bench = to_lab(stage.picture(first.id, look, KEY_SIDE), tmp_path)
    kept_picture = to_lab(finished(library, first.id).read_bytes(), tmp_path)
    tried = to_lab(trying.picture(library, stage, row, base, False), tmp_path)
    assert np.abs(bench - kept_picture).mean() < 0.006 and np.abs(tried - bench).mean() < 0.002
    other = to_lab(trying.picture(library, stage, row, FrameBase(ev=-1), False), tmp_path)
    assert (bench - other)[..., 0].mean() > 0.1, "what is tried is not what is kept"

    close = CloseView(library, stage.room)
    whole = Cut(0, 0, row.width, row.height)
    near = close.cut(first.id, applying.plan_of_frame(library, row), whole)
    job = deliver.queue_delivery(library, shoot, deliver.DeliveryOptions(form="png", folder=str(tmp_path / "out")))
    run(library)
    [made] = [p for p in (tmp_path / "out").glob("*.png") if p.stem in row.file_name]
    delivered = read_photo(made)
    assert np.array_equal(to_srgb8(delivered.rows(0, delivered.height)), near)
    original = close.cut(first.id, Plan(()), whole, "original")
    plain = read_photo(library.original(row.sha256, row.suffix))
    assert np.abs(original.astype(int) - to_srgb8(plain.rows(0, plain.height)).astype(int)).max() <= 1
    with next((tmp_path / "out").glob("*.csv")).open(encoding="utf-8-sig") as text:
        lines = {line["original"]: line for line in csv.DictReader(io.StringIO(text.read()))}
    assert lines[row.file_name]["base"] == base.words()
    assert {line["base"] for name, line in lines.items() if name != row.file_name} == {"as it came"}
    assert jobs.job(library.db, job).state == "done"


def to_lab(data, folder):
    path = folder / "seen.jpg"
    path.write_bytes(data)
    photo = read_photo(path)
    return to_oklab(photo.rows(0, photo.height))


def test_the_bench_renders_anew_when_a_base_changes(library, shoot):
    first, stage = rows(library, shoot)[0], Stage(library)
    before = stage.picture(first.id, Recipe(name="Nothing"), 460)
    basing.set_values(library, shoot, [first.id], {"ev": 1})
    assert stage.picture(first.id, Recipe(name="Nothing"), 460) != before


def test_repairs_and_base_go_side_by_side_and_a_reset_leaves_both(library, shoot):
    first = rows(library, shoot)[0]
    basing.set_values(library, shoot, [first.id], {"ev": 1})
    repairing.repair(library, first.id, Emptied(mask="sky"))
    looks.change_frame(library, first.id, strength=0.5)
    looks.change_frame(library, first.id, reset=True)
    own = frames.frame(library.db, first.id).override
    assert own.base.ev == 1 and own.repairs.masks == ("sky",) and own.keeps_look


def test_what_changed_is_sent_to_the_wall(library, shoot):
    first, second, *_ = rows(library, shoot)
    before = walls.counts(library.db, shoot).touched
    basing.set_values(library, shoot, [second.id], {"ev": 1})
    assert [f.id for f in walls.touched_since(library.db, shoot, before, 10)] == [second.id]
    assert first.base_text == "" and walls.counts(library.db, shoot).changed == 1


def test_the_command_line_sets_tells_and_undoes(library, shoot, monkeypatch):
    monkeypatch.setenv("LENSKEEP_HOME", str(library.home))
    monkeypatch.setenv("LENSKEEP_WORKERS", "0")
    name, file = "Ready", rows(library, shoot)[1].file_name
    call = CliRunner().invoke
    assert call(app, ["base", name, "--ev", "1"]).exit_code == 1, "not on every frame without saying so"
    done = call(app, ["base", name, file, "--ev", "0.5", "--warmth", "-4"])
    assert done.exit_code == 0 and "exposure +0.50 EV, warmth −4 mired" in done.output
    assert rows(library, shoot)[1].finished, "its picture is made at once"
    assert call(app, ["base", name, "nobody.jpg", "--ev", "1"]).exit_code == 1
    assert call(app, ["base", name, file, "--ev", "9"]).exit_code == 1
    told = call(app, ["base", name]).output
    assert told.count("as it came") == 3
    assert "Undone" in call(app, ["base", name, "--undo"]).output
    assert not rows(library, shoot)[1].changed

"""Scenes in the library: found, later frames put where they belong, cut, joined, moved, named, and all of it undone."""

import numpy as np
import pytest

from lenskeep.core.problems import UserProblem
from lenskeep.core.scenes.signature import apart, packed, signature, unpacked
from lenskeep.store import findings, frames, jobs, looks, recipes, scenes
from lenskeep.studio import applying, basing, deeds, placing
from lenskeep.studio import looks as giving
from lenskeep.studio.queue import make_runner
from tools.made_up import look_recipe, ready_shoot

HOUR = 3600


@pytest.fixture
def shoot(library, tmp_path):
    """Six frames: three at noon, the first two a burst, and three at four."""
    made = ready_shoot(library, tmp_path / "card", 6)
    taken(library, made, [0, 1, 60, 4 * HOUR, 4 * HOUR + 90, 4 * HOUR + 180])
    return made


def taken(library, shoot, seconds):
    rows = frames.summaries(library.db, shoot)
    with library.db.writing() as write:
        for row, s in zip(rows, seconds, strict=True):
            stamp = f"2026-09-12T{12 + s // 3600:02d}:{s % 3600 // 60:02d}:{s % 60:02d}"
            write.execute("UPDATE frames SET taken_at = ?, place = ? WHERE id = ?", (stamp, stamp, row.id))


def rows(library, shoot):
    return frames.summaries(library.db, shoot)


def layout(library, shoot):
    """Numbers of frames by the names of their scenes, in order."""
    ids = [f.id for f in rows(library, shoot)]
    return {
        s.name: [ids.index(i) + 1 for i in scenes.frame_ids(library.db, [s.id])]
        for s in scenes.shown(library.db, shoot)
    }


def ids_of(library, shoot, *numbers):
    return [rows(library, shoot)[n - 1].id for n in numbers]


def test_a_shoot_is_cut_and_each_scene_has_its_key_frame(library, shoot):
    placing.place(library, shoot)
    assert layout(library, shoot) == {"scene 1, 12:00": [1, 2, 3], "scene 2, 16:00": [4, 5, 6]}
    assert [s.key_frame_id for s in scenes.shown(library.db, shoot)] == ids_of(library, shoot, 1, 4)
    placing.place(library, shoot)
    placing.place(library, shoot, again=True)
    assert layout(library, shoot) == {"scene 1, 12:00": [1, 2, 3], "scene 2, 16:00": [4, 5, 6]}, "nothing is done twice"


def test_a_burst_is_told_and_its_sharpest_stands_for_it(library, shoot):
    first, second, *_ = rows(library, shoot)
    for frame, sharp in ((first, -3.0), (second, -2.0)):
        [found] = [packed(signature(np.full((40, 60, 3), 0.2, np.float32), np.zeros((40, 60), np.float32)))]
        findings.keep_sight(library.db, frame.content, frame.found_by, found, sharp)
    placing.place(library, shoot)
    told = [(f.burst, f.burst_best) for f in rows(library, shoot)]
    assert told[0][0] == told[1][0] > 0 and [best for _, best in told[:2]] == [False, True]
    assert told[2:] == [(0, False)] * 4


def test_later_frames_find_their_scene_or_make_one_with_the_look_before(library, shoot, tmp_path):
    version = recipes.save_recipe(library.db, look_recipe())
    with library.db.writing() as write:  # the last four come later
        for frame_id in ids_of(library, shoot, 3, 4, 5, 6):
            write.execute("UPDATE frames SET state = 'waiting' WHERE id = ?", (frame_id,))
    placing.place(library, shoot)
    giving.give_look(library, shoot, version.id, 0.8)
    with library.db.writing() as write:
        write.execute("UPDATE frames SET state = 'ready'")
    placing.place(library, shoot)
    assert layout(library, shoot) == {"scene 1, 12:00": [1, 2, 3], "scene 2, 16:00": [4, 5, 6]}
    first, second = scenes.shown(library.db, shoot)
    look = looks.look(library.db, second.id)
    assert look.version.id == version.id and look.strength == 0.8 and looks.look(library.db, first.id).strength == 0.8
    assert all(f.wanted_key not in ("", "?") for f in rows(library, shoot))


def test_what_was_cut_by_hand_is_not_undone_by_finding_again(library, shoot):
    placing.place(library, shoot)
    placing.cut(library, ids_of(library, shoot, 6)[0])
    assert list(layout(library, shoot).values()) == [[1, 2, 3], [4, 5], [6]]
    placing.place(library, shoot, again=True)
    assert list(layout(library, shoot).values()) == [[1, 2, 3], [4, 5], [6]]
    with pytest.raises(UserProblem, match="begins with this frame"):
        placing.cut(library, ids_of(library, shoot, 6)[0])


def test_a_cut_is_undone_in_one_step_and_done_again_with_its_look(library, shoot):
    placing.place(library, shoot)
    placing.cut(library, ids_of(library, shoot, 5)[0])
    third = scenes.shown(library.db, shoot)[2]
    other = recipes.save_recipe(library.db, look_recipe("Other"))
    giving.give_look(library, shoot, other.id, 0.5, scene_ids=[third.id])
    assert "cutting a scene" in deeds.undo(library, shoot)
    assert list(layout(library, shoot).values()) == [[1, 2, 3], [4, 5, 6]]
    assert all(f.wanted_key == "" for f in rows(library, shoot)), "the scene it went back to has no look"
    deeds.redo(library, shoot)
    assert list(layout(library, shoot).values()) == [[1, 2, 3], [4], [5, 6]]
    again = scenes.shown(library.db, shoot)[2]
    assert again.id == third.id and looks.look(library.db, again.id).strength == 0.5
    assert [bool(f.wanted_key) for f in rows(library, shoot)] == [False] * 4 + [True] * 2


def test_scenes_are_joined_and_the_first_one_not(library, shoot):
    placing.place(library, shoot)
    first, second = scenes.shown(library.db, shoot)
    with pytest.raises(UserProblem, match="first scene"):
        placing.join(library, first.id)
    placing.join(library, second.id)
    assert layout(library, shoot) == {"scene 1, 12:00": [1, 2, 3, 4, 5, 6]}
    placing.place(library, shoot, again=True)
    assert len(layout(library, shoot)) == 1, "joined by hand, it stays one"
    deeds.undo(library, shoot)
    assert layout(library, shoot) == {"scene 1, 12:00": [1, 2, 3], "scene 2, 16:00": [4, 5, 6]}


def test_frames_are_moved_with_their_look_and_doubts_and_a_lost_key_frame_is_replaced(library, shoot):
    placing.place(library, shoot)
    first, second = scenes.shown(library.db, shoot)
    version = recipes.save_recipe(library.db, look_recipe())
    giving.give_look(library, shoot, version.id, 1.0, scene_ids=[second.id])
    assert make_runner(library, 0).run_until_idle()
    placing.move(library, ids_of(library, shoot, 1, 3), second.id)
    assert list(layout(library, shoot).values()) == [[1, 3, 4, 5, 6], [2]], "in order of time"
    moved = frames.summary(library.db, ids_of(library, shoot, 3)[0])
    assert moved.stale and moved.doubtful, "its subject is doubted, and this look uses it"
    assert scenes.scene(library.db, first.id).key_frame_id == ids_of(library, shoot, 2)[0]
    assert make_runner(library, 0).run_until_idle()
    assert frames.summary(library.db, moved.id).finished


def test_a_name_of_ones_own_stays(library, shoot):
    placing.place(library, shoot)
    _, second = scenes.shown(library.db, shoot)
    placing.rename(library, second.id, "  The   boats ")
    placing.cut(library, ids_of(library, shoot, 2)[0])
    assert list(layout(library, shoot)) == ["scene 1, 12:00", "scene 2, 12:00", "The boats"]
    for wrong in ("", "   ", "x" * 81):
        with pytest.raises(UserProblem, match="1 to 80"):
            placing.rename(library, second.id, wrong)


def test_a_frame_of_another_shoot_is_refused(library, shoot, tmp_path):
    other = ready_shoot(library, tmp_path / "other", 1)
    [home] = scenes.shown(library.db, other)
    with pytest.raises(UserProblem, match="another shoot"):
        placing.move(library, ids_of(library, shoot, 1), home.id)
    with pytest.raises(UserProblem, match="no longer"):
        placing.move(library, ids_of(library, shoot, 1), 999)


def test_each_scene_is_rendered_with_its_own_look_in_one_job_and_one_hand_over(library, shoot, tmp_path):
    placing.place(library, shoot)
    first, second = scenes.shown(library.db, shoot)
    light, dark = (
        recipes.save_recipe(library.db, look_recipe(name, ev)) for name, ev in (("Light", 1.0), ("Dark", -1.0))
    )
    giving.give_look(library, shoot, light.id, 1.0, scene_ids=[first.id])
    giving.give_look(library, shoot, dark.id, 1.0, scene_ids=[second.id])
    job = applying.queue_frames(library, shoot, None)
    assert make_runner(library, 0).run_until_idle()
    assert jobs.job(library.db, job).state == "done" and all(f.finished for f in rows(library, shoot))
    from lenskeep.studio.hand_over import deliver

    out = tmp_path / "out"
    deliver.queue_delivery(library, shoot, deliver.DeliveryOptions(folder=str(out)))
    assert make_runner(library, 0).run_until_idle()
    lines = next(out.glob("*.csv")).read_text(encoding="utf-8-sig").splitlines()[1:]
    assert ["Light" in line for line in lines] == [True] * 3 + [False] * 3
    assert ["Dark" in line for line in lines] == [False] * 3 + [True] * 3


def test_a_base_stays_with_a_frame_that_is_moved(library, shoot):
    placing.place(library, shoot)
    _, second = scenes.shown(library.db, shoot)
    [one] = ids_of(library, shoot, 1)
    basing.set_values(library, shoot, [one], {"ev": 0.5})
    placing.move(library, [one], second.id)
    assert frames.summary(library.db, one).own_base.ev == 0.5
    deeds.undo(library, shoot)
    assert frames.summary(library.db, one).own_base.ev == 0.5, "one step takes back one thing"


def test_signatures_are_kept_in_a_byte_a_value():
    picture = np.random.default_rng(1).uniform(0, 1, (60, 90, 3)).astype(np.float32)
    found = signature(picture, np.zeros((60, 90), np.float32))
    assert apart(unpacked(packed(found)), found) < 0.06
    for wrong in (b"", b"\0" * 800, b"x" * 10):
        with pytest.raises(ValueError, match="not a signature"):
            unpacked(wrong)

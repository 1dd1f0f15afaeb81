"""Evenness measured by jobs, proposals and what is ticked, accepted as one deed, killed and resumed."""

import numpy as np
import pytest

from lenskeep.core.base.models import FrameBase
from lenskeep.core.problems import UserProblem
from lenskeep.files.working import read_working, working_bytes
from lenskeep.files.written import write_whole
from lenskeep.store import evenness, frames, jobs, scenes
from lenskeep.store.evenness import Need
from lenskeep.studio import basing, deeds, evening, placing, proposing
from lenskeep.studio.evening import parts_of
from lenskeep.studio.queue import make_runner
from tools.made_up import ready_shoot

COUNT = 6


@pytest.fixture
def shoot(library, tmp_path):
    made = ready_shoot(library, tmp_path / "card", COUNT, 400, 600)
    placing.place(library, made)
    return made


def scene_of(library, shoot):
    [scene] = scenes.shown(library.db, shoot)
    return scene


def rows(library, shoot):
    return frames.summaries(library.db, shoot)


def run(library):
    assert make_runner(library, 0).run_until_idle()


def darker(library, row, stops):
    working = library.computed(row.content, row.found_by).working
    write_whole(working, working_bytes((read_working(working) * np.float32(2.0**-stops)).astype(np.float32)))


def told(library, shoot, **needs):
    """Write needs down as if they had been measured; the first frame is the key frame."""
    ids = [f.id for f in rows(library, shoot)]
    kept = [Need(i, *needs.get(f"n{n}", (0.0, 0.0, 0.0, True))) for n, i in enumerate(ids)]
    evenness.keep(library.db, scene_of(library, shoot).id, ids[0], kept)


def standing(library, shoot, number):
    return proposing.standings(library, scene_of(library, shoot))[number]


def test_a_dark_frame_is_measured_by_jobs_and_what_was_described_is_swept(library, shoot):
    scene = scene_of(library, shoot)
    evening.measure(library, shoot, [scene.id])
    run(library)
    before = evenness.needs(library.db, scene.id)
    darker(library, rows(library, shoot)[2], 1.0)
    evening.measure(library, shoot, [scene.id])
    run(library)
    after = evenness.needs(library.db, scene.id)
    assert len(after) == COUNT and all(after[rows(library, shoot)[0].id].values[i] == 0.0 for i in range(3))
    moved = {i: after[i].ev - before[i].ev for i in after}
    third = rows(library, shoot)[2].id
    assert moved[third] > 0.5 and all(abs(m) < 0.15 for i, m in moved.items() if i != third)
    assert not (library.home / "described").exists()
    assert {j.kind: j.state for j in jobs.jobs(library.db, shoot)} == {"describe": "done", "even": "done"}


def test_what_was_measured_before_a_kill_is_not_measured_again(library, shoot, monkeypatch):
    scene = scene_of(library, shoot)
    evening.measure(library, shoot, [scene.id])
    seen = []
    real = evening.describe_frame

    def counted(task):
        seen.append(task.name)
        if len(seen) == 4:
            raise KeyboardInterrupt
        return real(task)

    monkeypatch.setattr(evening.Describing, "run", staticmethod(counted))
    with pytest.raises(KeyboardInterrupt):
        make_runner(library, 0).run_until_idle()
    monkeypatch.setattr(evening.Describing, "run", staticmethod(real))
    there = sorted(p.name for p in (library.home / "described").iterdir())
    assert len(there) == 3
    times = {p.name: p.stat().st_mtime_ns for p in (library.home / "described").iterdir()}
    with library.db.writing() as write:
        jobs.recover(library.db)
        _ = write
    handler = evening.Describing(library)
    job = jobs.jobs(library.db, shoot)[0]
    again = [handler.prepare(job, item) for item, _ in jobs.items(library.db, job.id)]
    assert sum(task is not None for task in again) == COUNT - 3
    assert {p.name: p.stat().st_mtime_ns for p in (library.home / "described").iterdir()} == times
    run(library)
    assert len(evenness.needs(library.db, scene.id)) == COUNT


def test_a_frame_without_its_masks_stays_out_and_the_others_are_measured(library, shoot):
    scene, gone = scene_of(library, shoot), rows(library, shoot)[3]
    library.computed(gone.content, gone.found_by).mask("sky").unlink()
    evening.measure(library, shoot, [scene.id])
    run(library)
    assert (
        gone.id not in evenness.needs(library.db, scene.id) and len(evenness.needs(library.db, scene.id)) == COUNT - 1
    )
    assert standing(library, shoot, 3).words == "not measured yet"


def test_another_key_frame_needs_another_measurement(library, shoot):
    told(library, shoot, n1=(0.5, 0.0, 0.0, True))
    assert standing(library, shoot, 1).proposed
    scenes.set_key_frame(library.db, scene_of(library, shoot).id, rows(library, shoot)[4].id)
    assert all(s.off is None for s in proposing.standings(library, scene_of(library, shoot)))


def test_what_is_sure_is_ticked_and_what_is_in_doubt_says_why(library, shoot):
    told(
        library,
        shoot,
        n1=(0.9, -3.0, 0.0, True),
        n2=(0.9, 0.0, 0.0, True),  # every third frame is doubtful
        n3=(-0.6, 20.0, 0.0, False),
        n4=(2.4, 0.0, 0.0, True),
    )
    key, sure, doubted, unsure, beyond, even = proposing.standings(library, scene_of(library, shoot))
    assert key.is_key and not key.proposed and even.words == "even" and not even.proposed
    assert sure.ticked and sure.then == FrameBase(ev=0.9, mired=-3) and sure.words == "a stop under"
    assert doubted.ticked and any("masks are in doubt" in r for r in doubted.reservations), "it is said"
    assert not unsure.ticked and unsure.proposed and any("not sure" in r for r in unsure.reservations)
    assert not beyond.ticked and beyond.then.ev == 1.5 and any("more than 1.5 EV" in r for r in beyond.reservations)
    assert unsure.words == "two thirds of a stop over, bluer"


def test_accepting_is_one_deed_and_the_scene_is_even_afterwards(library, shoot):
    told(library, shoot, n1=(0.9, 0.0, 0.0, True), n3=(-0.4, 12.0, 2.0, True))
    scene = scene_of(library, shoot)
    bases = {s.frame.id: s.then for s in proposing.standings(library, scene) if s.proposed}
    assert len(bases) == 2
    assert proposing.accept(library, scene, bases) is not None, "without a look a base has a picture, too"
    assert not any(proposing.is_off(s) or s.proposed for s in proposing.standings(library, scene))
    run(library)
    assert all(f.finished for f in frames.some(library.db, bases))
    assert "evening out 2 frames" in deeds.undo(library, shoot)
    assert not any(f.changed for f in rows(library, shoot))
    assert sum(s.proposed for s in proposing.standings(library, scene)) == 2


def test_the_others_follow_the_key_frame_when_its_base_changes(library, shoot):
    told(library, shoot, n1=(0.5, 0.0, 0.0, True))
    basing.set_values(library, shoot, [rows(library, shoot)[0].id], {"ev": 0.3})
    found = proposing.standings(library, scene_of(library, shoot))
    assert found[1].then.ev == pytest.approx(0.8) and found[5].then.ev == pytest.approx(0.3)
    assert found[5].off[0] == pytest.approx(-0.3) and found[0].off == (0, 0, 0)


def test_highlights_and_shadows_of_a_frame_stay(library, shoot):
    told(library, shoot, n1=(0.5, 0.0, 0.0, True))
    basing.set_values(library, shoot, [rows(library, shoot)[1].id], {"shadows": 40})
    assert standing(library, shoot, 1).then == FrameBase(ev=0.5, shadows=40)


def test_nothing_ticked_and_frames_of_another_scene_are_refused(library, shoot):
    scene = scene_of(library, shoot)
    with pytest.raises(UserProblem, match="Tick"):
        proposing.accept(library, scene, {})
    placing.cut(library, rows(library, shoot)[3].id)
    with pytest.raises(UserProblem, match="another scene"):
        proposing.accept(library, scene, {rows(library, shoot)[4].id: FrameBase(ev=1)})
    assert not any(f.changed for f in rows(library, shoot))


def test_an_empty_scene_says_what_to_do(library, shoot):
    with library.db.writing() as write:
        write.execute("UPDATE frames SET state = 'waiting', found_by = ''")
    with pytest.raises(UserProblem, match="Let the finding end"):
        evening.measure(library, shoot, [scene_of(library, shoot).id])


def test_a_long_scene_is_held_together_in_parts_that_share_the_key_frame():
    parts = parts_of(1, 7, list(range(1, 401)))
    assert len(parts) == 3 and all(7 in p.frames for p in parts)
    assert all(len(p.frames) <= evening.AT_ONCE + 1 for p in parts)
    assert set().union(*(p.frames for p in parts)) == set(range(1, 401))
    assert parts_of(1, 7, []) == [] and parts_of(1, 3, [3]) == [evening.Part(scene=1, key=3, frames=(3,))]

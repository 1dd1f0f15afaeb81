"""Tidying: what can be made again goes when it is over its budget, and nothing that somebody needs."""

import os

import pytest
from typer.testing import CliRunner

from lenskeep.cli import app
from lenskeep.store import frames, jobs, recipes, shoots, walls
from lenskeep.studio import find as finding
from lenskeep.studio import looks
from lenskeep.studio.queue import make_runner
from lenskeep.studio.tidy import OPEN_DAYS, budget_bytes, room, tidy
from tools.made_up import look_recipe, ready_shoot

LATER = (OPEN_DAYS + 1) * 86400.0


def run(library):
    assert make_runner(library, 0).run_until_idle()


@pytest.fixture
def shoot(library, tmp_path):
    """Three finished frames, and the finished pictures of two looks before."""
    shoot_id = ready_shoot(library, tmp_path / "card", 3)
    for ev in (0.1, 0.2, 0.3):
        version = recipes.save_recipe(library.db, look_recipe(ev=ev))
        looks.give_look(library, shoot_id, version.id, 1.0)
        run(library)
    return shoot_id


def results(library):
    return {p.name.split(".")[0] for p in (library.home / "results").glob("*/*.jpg")}


def age(library, seconds=3600):
    for path in (library.home / "results").glob("*/*.jpg"):
        os.utime(path, (path.stat().st_atime - seconds, path.stat().st_mtime - seconds))


def test_earlier_looks_stay_at_hand_while_there_is_room(library, shoot):
    age(library)
    tidy(library)
    assert len(results(library)) == 9


def test_over_the_budget_what_no_frame_shows_goes_the_longest_unused_first(library, shoot):
    age(library)
    shown = {f.result_key for f in frames.summaries(library.db, shoot)}
    old = sorted(results(library) - shown)
    for i, key in enumerate(old):  # in order of use
        for path in (library.result(key), library.tile(key)):
            os.utime(path, (1_000_000 + i, 1_000_000 + i))
    first_two = sum(p.stat().st_size for key in old[:2] for p in (library.result(key), library.tile(key)))
    done = tidy(library, room(library).again - first_two)
    assert results(library) == shown | set(old[2:]) and done.bytes == first_two
    tidy(library, 0)
    assert results(library) == shown, "the wanted ones of an open shoot stay, whatever the budget"
    assert all(library.computed(f.content).holds(f.facts) for f in frames.frames(library.db, shoot))


def test_a_shoot_that_nobody_opened_is_put_to_rest_and_wakes_whole(library, shoot):
    import time

    before = {f.file_name: library.result(f.result_key).read_bytes() for f in frames.summaries(library.db, shoot)}
    frames.set_accepted(library.db, frames.summaries(library.db, shoot)[2].id, True)
    done = tidy(library, 0, time.time() + LATER)
    assert done.shoots == 1 and results(library) == set()
    rows = frames.frames(library.db, shoot)
    assert all(f.state == "waiting" and library.computed(f.content).thumb.is_file() for f in rows)
    assert all(library.original(f.sha256, f.suffix).is_file() for f in rows), "originals never go"
    finding.try_again(library, shoot)
    run(library)
    look = looks.look_of_shoot(library, shoot)
    looks.give_look(library, shoot, look.version.id, look.strength)
    run(library)
    counts = walls.counts(library.db, shoot)
    assert (counts.found, counts.finished) == (3, 3) and frames.summaries(library.db, shoot)[2].accepted
    assert set(before) == {f.file_name for f in frames.summaries(library.db, shoot)}


def test_a_shoot_with_work_to_do_or_opened_lately_is_not_put_to_rest(library, shoot, tmp_path):
    import time

    other = ready_shoot(library, tmp_path / "more", 1)
    jobs.add_job(library.db, "find", shoot, [])
    with library.db.writing() as write:
        write.execute("UPDATE shoots SET created_at = '2020-01-01T00:00:00.000+00:00'")
    shoots.note_opened(library.db, other)
    assert shoots.shoot(library.db, other) is not None
    assert tidy(library, 0, time.time() + 3600).shoots == 0


def test_the_budget_is_what_is_said_or_a_fifth_of_the_disk(library, monkeypatch):
    library.home.mkdir()
    monkeypatch.setenv("LENSKEEP_CACHE_GB", "1.5")
    assert budget_bytes(library) == 1_500_000_000
    monkeypatch.setenv("LENSKEEP_CACHE_GB", "plenty")
    disk = os.statvfs(library.home)
    assert budget_bytes(library) == pytest.approx(0.2 * disk.f_blocks * disk.f_frsize, rel=0.01)


def test_the_command_says_what_takes_how_much(library, shoot, monkeypatch):
    monkeypatch.setenv("LENSKEEP_HOME", str(library.home))
    age(library)
    told = CliRunner().invoke(app, ["tidy", "--gigabytes", "0"])
    assert told.exit_code == 0, told.output
    assert "were removed" in told.output and "Originals" in told.output and "Database" in told.output
    assert len(results(library)) == 3


def test_tidying_is_queued_after_a_look_was_applied_and_once_an_hour(library, shoot):
    kinds = [j.kind for j in jobs.jobs(library.db)]
    assert kinds.count("sweep") == 1 and next(j for j in jobs.jobs(library.db) if j.kind == "sweep").state == "done"

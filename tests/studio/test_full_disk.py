"""A disk that is really full, for every kind of job: words, nothing lost, and it goes on when room is made.

The disk is a small tmpfs; only root can make one, and a machine that does not allow it passes these over.
"""

import shutil
import subprocess
import threading
import time
from pathlib import Path

import pytest
from starlette.testclient import TestClient

from lenskeep.core.problems import UserProblem
from lenskeep.files.archive import free_space
from lenskeep.store import frames, health, jobs, recipes, shoots
from lenskeep.store.database import full_words
from lenskeep.studio import applying, bring_in, looks
from lenskeep.studio import find as finding
from lenskeep.studio.hand_over import deliver
from lenskeep.studio.hand_over.deliver import DeliveryOptions
from lenskeep.studio.library import Library
from lenskeep.studio.queue import make_runner
from lenskeep.studio.space import check_room, size_estimate
from lenskeep.web.app import create_app
from lenskeep.work import runner as running
from tests.web.conftest import BASE, Visitor
from tools.made_up import look_recipe, ready_shoot, write_photo

SIZE_MB = 40


@pytest.fixture
def disk(tmp_path, monkeypatch):
    """A disk of 40 MB that the library is on, without anything held back, so that it can run full in the middle."""
    place = tmp_path / "disk"
    place.mkdir()
    mounted = subprocess.run(["mount", "-t", "tmpfs", "-o", f"size={SIZE_MB}m", "tmpfs", place], capture_output=True)
    if mounted.returncode:
        pytest.skip("a disk of its own can be made by root only")
    monkeypatch.setenv("LENSKEEP_SPARE_MB", "0")
    monkeypatch.setattr(running, "PAUSES", (0.05,))
    yield place
    subprocess.run(["umount", "-l", place], check=True)


@pytest.fixture
def library(disk):
    return Library(disk / "home")


def fill(disk: Path, leave: int) -> Path:
    """Fill the disk up to so many bytes."""
    stuffing = disk / "stuffing"
    with stuffing.open("wb") as sink:
        while (left := free_space(disk) - leave) > 0:
            try:
                sink.write(b"\0" * min(left, 1 << 20))
                sink.flush()
            except OSError:
                break
    return stuffing


def runs_full_then_ends(library, disk, job_id, leave=150_000):
    """The queue says that the disk is full, gives up nothing, and finishes by itself when room is made."""
    stuffing = fill(disk, leave)
    runner = make_runner(library, 0)
    runner.start()
    try:
        wait(lambda: runner.trouble == full_words(library.home))
        job = jobs.job(library.db, job_id)
        assert job.active and job.failed == 0, jobs.failures(library.db, job_id)
        stuffing.unlink()
        runner.wake()
        wait(lambda: not jobs.job(library.db, job_id).active)
        assert runner.trouble == ""
    finally:
        runner.stop()
    job = jobs.job(library.db, job_id)
    assert (job.state, job.done, job.failed) == ("done", job.total, 0), jobs.failures(library.db, job_id)
    assert health.faults(library.db) == []


def wait(condition, seconds=60):
    end = time.monotonic() + seconds
    while not condition():
        assert time.monotonic() < end, "it did not come to that"
        time.sleep(0.02)


@pytest.fixture
def roomy(monkeypatch):
    """Work is begun although there is no room, as when another program fills the disk meanwhile."""
    for module in (finding, applying, deliver):
        monkeypatch.setattr(module, "check_room", lambda *_: None)


def test_finding(library, disk, tmp_path, roomy):
    shoot = bring_in.create_shoot(library, "A")
    for i in range(3):
        photo = write_photo(tmp_path / f"{i}.jpg", i, height=600, width=900)
        bring_in.receive(library, shoot, photo, photo.name)
    runs_full_then_ends(library, disk, finding.queue_finding(library, shoot))
    assert all(f.state == "ready" for f in frames.frames(library.db, shoot))


def test_applying(library, disk, tmp_path, roomy):
    shoot = ready_shoot(library, tmp_path / "card", 6, 600, 900)
    version = recipes.save_recipe(library.db, look_recipe())
    runs_full_then_ends(library, disk, looks.give_look(library, shoot, version.id, 1.0))
    assert all(f.result_key and not f.render_problem for f in frames.frames(library.db, shoot))


def test_handing_over_as_zip_and_into_a_folder(library, disk, tmp_path, roomy):
    shoot = ready_shoot(library, tmp_path / "card", 6, 600, 900)
    for folder in (None, str(disk / "out")):
        job_id = deliver.queue_delivery(library, shoot, DeliveryOptions(quality=100, folder=folder))
        runs_full_then_ends(library, disk, job_id)
    assert len(deliver.packed(library, jobs.jobs(library.db)[1])) == 8


def test_bringing_in_lists_what_did_not_fit_and_takes_it_the_next_time(library, disk, tmp_path):
    shoot = bring_in.create_shoot(library, "A")
    photos = [write_photo(tmp_path / f"{i}.jpg", i, height=1500, width=2200) for i in range(4)]
    stuffing = fill(disk, photos[0].stat().st_size + photos[1].stat().st_size)
    received = [bring_in.receive(library, shoot, p, p.name) for p in photos]
    refused = [reason for r in received for _, reason in r.refused]
    assert refused and all("disk is" in reason for reason in refused)
    stuffing.unlink()
    again = [bring_in.receive(library, shoot, p, p.name) for p in photos]
    assert sum(len(r.frame_ids) for r in received + again) == 4 and not any(r.refused for r in again)
    assert health.faults(library.db) == []


def test_a_zip_that_does_not_fit_leaves_nothing_half(library, disk, tmp_path):
    photos = [write_photo(tmp_path / "card" / f"{i}.jpg", i, height=1500, width=2200) for i in range(3)]
    archive = shutil.make_archive(str(tmp_path / "all"), "zip", tmp_path / "card")
    shoot = bring_in.create_shoot(library, "A")
    stuffing = fill(disk, photos[0].stat().st_size // 2)
    received = bring_in.receive(library, shoot, Path(archive), "all.zip")
    assert received.refused and "disk is" in received.refused[-1][1]
    assert not list((library.home / "incoming").iterdir())
    stuffing.unlink()


def test_work_that_will_not_fit_is_refused_before_it_begins(library, disk, tmp_path):
    shoot = ready_shoot(library, tmp_path / "card", 4, 600, 900)
    version = recipes.save_recipe(library.db, look_recipe())
    stuffing = fill(disk, 300_000)
    for begin in (
        lambda: finding.queue_finding(library, shoot, everything=True),
        lambda: looks.give_look(library, shoot, version.id, 1.0),
        lambda: deliver.queue_delivery(library, shoot, DeliveryOptions(quality=100)),
    ):
        with pytest.raises(UserProblem, match=r"disk is nearly full.*Make room"):
            begin()
    stuffing.unlink()
    assert jobs.jobs(library.db) == [] and looks.look_of_shoot(library, shoot) is None
    assert all(f.facts is not None for f in frames.frames(library.db, shoot)), "nothing was forgotten"


def test_pages_say_that_the_disk_is_full_instead_of_failing(library, disk, tmp_path):
    with Visitor(library) as visitor:
        stuffing = fill(disk, 0)
        said = set()
        for n in range(200):  # the database still has some room of its own
            answer = visitor.post("/shoots", data={"name": f"{n} {'x' * 100}"})
            said.add(answer.status_code)
            if answer.status_code != 201:
                break
        assert said <= {201, 507}
        assert answer.status_code == 507 and answer.text == full_words(library.home)
        assert visitor.get("/").status_code == 200
        stuffing.unlink()
        assert visitor.post("/shoots", data={"name": "There is room"}).status_code == 201
    assert health.faults(library.db) == []


def test_a_server_on_a_full_disk_opens_and_tells(library, disk):
    shoots.add_shoot(library.db, "A")
    fill(disk, 0)
    client = TestClient(create_app(Library(library.home), workers=0, run_jobs=False), base_url=BASE)
    assert client.get("/").status_code == 200
    assert threading.active_count() < 60


def test_estimates_err_on_the_safe_side(tmp_path):
    photo = write_photo(tmp_path / "a.jpg", height=1500, width=2200)
    assert photo.stat().st_size < size_estimate([(2200, 1500)], 0.8, 92, None)
    assert size_estimate([(2200, 1500)], 0.8, 92, 1100) < size_estimate([(2200, 1500)], 0.8, 92, None) / 2
    with pytest.raises(UserProblem, match=r"[TG]B"):
        check_room(tmp_path, 10**15, "this")


def test_a_full_stick_holds_its_own_hand_over_alone(disk, tmp_path, roomy, monkeypatch):
    monkeypatch.setattr("lenskeep.work.waits.PAUSES", (0.1,))
    library = Library(tmp_path / "elsewhere")
    shoot = ready_shoot(library, tmp_path / "card", 6, 600, 900)
    version = recipes.save_recipe(library.db, look_recipe())
    stuffing = fill(disk, 150_000)
    (disk / "out").mkdir()
    held = deliver.queue_delivery(library, shoot, DeliveryOptions(quality=100, folder=str(disk / "out")))
    runner = make_runner(library, 0)
    runner.start()
    try:
        wait(lambda: str(disk / "out") in jobs.job(library.db, held).message)
        other = looks.give_look(library, shoot, version.id, 1.0)
        free = deliver.queue_delivery(library, shoot, DeliveryOptions(folder=str(tmp_path / "out")))
        runner.wake()
        wait(lambda: {jobs.job(library.db, each).state for each in (other, free)} == {"done"})
        assert runner.trouble == ""
        assert jobs.job(library.db, held).active and jobs.job(library.db, held).failed == 0
        stuffing.unlink()
        wait(lambda: jobs.job(library.db, held).state == "done")
    finally:
        runner.stop()
    assert jobs.job(library.db, held).done == 6 and len(list((disk / "out").glob("*.jpg"))) == 6

"""Killing the server in the middle of a job: the next start finishes it, each frame once, no half-written file."""

import time

from PIL import Image

from lenskeep.core.detect.find import DETECTOR
from lenskeep.store import frames, jobs, recipes
from lenskeep.studio import looks
from tests.conftest import look_recipe, ready_shoot
from tests.server import Server

FRAMES = 30


def wait_for(library, job_id, enough, seconds=90):
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        job = jobs.job(library.db, job_id)
        if enough(job):
            return job
        time.sleep(0.02)
    raise AssertionError(f"after {seconds} s: {jobs.job(library.db, job_id)}")


def test_a_kill_in_the_middle_of_applying(library, tmp_path):
    shoot_id = ready_shoot(library, tmp_path / "card", FRAMES, 600, 900)
    version = recipes.save_recipe(library.db, look_recipe())
    with Server(library.home) as server:
        job_id = looks.give_look(library, shoot_id, version.id, 1.0)
        wait_for(library, job_id, lambda job: job.done >= 4)
        server.kill()
    killed = jobs.job(library.db, job_id)
    assert killed.state == "running" and 4 <= killed.done < FRAMES, "it was killed too early or too late"
    finished = {f.id: f.result_key for f in frames.frames(library.db, shoot_id, DETECTOR) if f.result_key}
    half = library.result("ab" * 32).with_name(".x.jpg.0badf00d.part")
    half.parent.mkdir(parents=True, exist_ok=True)
    half.write_bytes(b"half a picture")
    before = {key: library.result(key).stat().st_mtime_ns for key in finished.values()}
    with Server(library.home):
        job = wait_for(library, job_id, lambda job: not job.active)
    assert (job.state, job.done, job.failed) == ("done", FRAMES, 0)
    assert {key: library.result(key).stat().st_mtime_ns for key in before} == before, "a finished frame was done again"
    attempts = library.db.reader.execute("SELECT frame_id, attempts, state FROM job_items").fetchall()
    assert len(attempts) == FRAMES and all(row["state"] == "done" for row in attempts)
    assert all(row["attempts"] == 1 for row in attempts if row["frame_id"] in finished)
    results = [library.result(f.result_key) for f in frames.frames(library.db, shoot_id, DETECTOR)]
    assert len({*results}) == FRAMES
    for path in results:
        Image.open(path).load()
    assert not list(library.home.rglob("*.part")), "drafts that the kill left behind were not swept"

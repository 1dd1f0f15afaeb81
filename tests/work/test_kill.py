"""The real server killed or stopped in the middle: nothing is lost, nothing done twice, nothing left behind.

The full measure is ``python -m benchmarks kills``; here each kind of end is held once, at a moment that is sure.
"""

import http.client
import json
import os
import signal
import time
import zipfile

import pytest
from PIL import Image

from lenskeep.files.written import DRAFTS
from lenskeep.store import frames, jobs, recipes
from lenskeep.studio import bring_in, looks
from lenskeep.studio import find as finding
from tests.work.stopped import frozen, wait_for
from tools.made_up import look_recipe, ready_shoot, write_photo
from tools.running.server import Server
from tools.running.visitor import Visitor

FRAMES = 12


def applied(library, tmp_path, height=500, width=750):
    shoot_id = ready_shoot(library, tmp_path / "card", FRAMES, height, width)
    version = recipes.save_recipe(library.db, look_recipe())
    return shoot_id, looks.give_look(library, shoot_id, version.id, 1.0)


def test_a_kill_in_the_middle_of_applying(library, tmp_path):
    shoot_id, job_id = applied(library, tmp_path)
    with Server(library.home) as server:
        frozen(server, library, job_id, lambda job: job.done >= 4)
        server.kill()
    killed = jobs.job(library.db, job_id)
    assert killed.state == "running" and 4 <= killed.done < FRAMES
    finished = {f.id: f.result_key for f in frames.frames(library.db, shoot_id) if f.result_key}
    half = library.result("ab" * 32).with_name(".x.jpg.0badf00d.part")
    half.parent.mkdir(parents=True, exist_ok=True)
    half.write_bytes(b"half a picture")
    before = {key: library.result(key).stat().st_mtime_ns for key in finished.values()}
    with Server(library.home):
        job = wait_for(library, job_id, lambda job: not job.active)
    assert (job.state, job.done, job.failed) == ("done", FRAMES, 0)
    assert {key: library.result(key).stat().st_mtime_ns for key in before} == before, "a finished frame was done again"
    items = jobs.items(library.db, job_id)
    assert len(items) == FRAMES and all(state == "done" and item.attempts == 0 for item, state in items)
    results = [library.result(f.result_key) for f in frames.frames(library.db, shoot_id)]
    assert len({*results}) == FRAMES
    for path in results:
        Image.open(path).load()
    assert not list(library.home.rglob(DRAFTS)), "drafts that the kill left behind were not swept"


def test_a_stop_takes_moments_whatever_is_under_way(library, tmp_path):
    """It took 9 to 18 s while finding, and had no end while somebody held an upload open."""
    shoot_id = bring_in.create_shoot(library, "A")
    for i in range(6):
        photo = write_photo(tmp_path / f"{i}.jpg", i, height=900, width=1300)
        bring_in.receive(library, shoot_id, photo, photo.name)
    job_id = finding.queue_finding(library, shoot_id)
    with Server(library.home) as server:
        visitor = Visitor(server.address)
        held = http.client.HTTPConnection("127.0.0.1", server.port)
        held.putrequest("POST", f"/shoots/{shoot_id}/files")
        held.putheader("content-type", "multipart/form-data; boundary=x")
        held.putheader("content-length", "99999999")
        held.putheader("cookie", "; ".join(f"{c.name}={c.value}" for c in visitor.http.cookies.jar))
        held.putheader("x-csrf-token", visitor.http.headers["x-csrf-token"])
        held.endheaders()
        held.send(b"--x\r\n")
        wait_for(library, job_id, lambda job: job.done >= 1 and job.running)
        began = time.monotonic()
        server.process.send_signal(signal.SIGTERM)
        server.process.wait(20)
        assert time.monotonic() - began < 4.0, "3 s, and a little for a busy machine"
        held.close()
    job = jobs.job(library.db, job_id)
    assert job.done >= 1 and (job.running, job.failed) == (0, 0), "what was under way is put back"
    assert not any(f.state == "failed" for f in frames.frames(library.db, shoot_id))
    assert not [p for p in (library.home / "incoming").glob("*/*") if p.name != ".lock"]


@pytest.mark.slow
def test_many_stops_give_up_no_frame(library, tmp_path):
    shoot_id, job_id = applied(library, tmp_path)
    for _ in range(3):
        with Server(library.home) as server:
            wait_for(library, job_id, lambda job: job.running or not job.active)
            server.process.send_signal(signal.SIGTERM)
            server.process.wait(20)
    with Server(library.home):
        job = wait_for(library, job_id, lambda job: not job.active)
    assert (job.state, job.done, job.failed) == ("done", FRAMES, 0)
    assert not any(f.render_problem for f in frames.frames(library.db, shoot_id))


def test_a_worker_killed_from_outside_costs_nothing(library, tmp_path):
    shoot_id, job_id = applied(library, tmp_path)
    with Server(library.home) as server:
        wait_for(library, job_id, lambda job: job.done >= 2)
        for pid in _workers(server.process.pid):
            os.kill(pid, signal.SIGKILL)
        job = wait_for(library, job_id, lambda job: not job.active)
    assert (job.state, job.done, job.failed) == ("done", FRAMES, 0)
    assert all(f.result_key for f in frames.frames(library.db, shoot_id))


def _workers(pid):
    import psutil

    return [
        p.pid for p in psutil.Process(pid).children(recursive=True) if "resource_tracker" not in " ".join(p.cmdline())
    ]


def test_a_download_that_is_cut_short_can_be_told_from_a_whole_one(library, tmp_path):
    """The length is said before, so that a browser does not take half a ZIP for a whole one."""
    shoot_id = ready_shoot(library, tmp_path / "card", 3)
    with Server(library.home) as server:
        visitor = Visitor(server.address)
        visitor.post(f"/shoots/{shoot_id}/hand-over", quality=80)
        job = wait_for(library, jobs.jobs(library.db, shoot_id)[0].id, lambda job: not job.active)
        answer = visitor.http.get(f"/deliveries/{job.id}.zip")
        assert int(answer.headers["content-length"]) == len(answer.content)
        (tmp_path / "a.zip").write_bytes(answer.content)
        assert json.loads(visitor.http.get("/shoots.json").text)[0]["delivered"] is True
    with zipfile.ZipFile(tmp_path / "a.zip") as bundle:
        assert len(bundle.namelist()) == 5 and bundle.testzip() is None

"""A job over a cluster whose workers do not see the library: the same bytes, also when one of them is killed."""

import hashlib
import time

import pytest

from lenskeep.store import frames, jobs, recipes
from lenskeep.studio import looks
from lenskeep.studio.hand_over import deliver
from lenskeep.studio.library import Library
from lenskeep.studio.queue import make_runner
from lenskeep.work.engines import EngineProblem, dask
from tools.made_up import look_recipe, ready_shoot
from tools.running.cluster import Cluster, may_hide
from tools.running.server import free_port

FRAMES = 24


pytestmark = pytest.mark.slow  # a scheduler and its workers, hidden from each other's disks
needs_namespaces = pytest.mark.skipif(not may_hide(), reason="this system does not let a test hide a folder")


def shoot_in(home, tmp_path):
    library = Library(home)
    shoot_id = ready_shoot(library, tmp_path / f"card-{home.name}", FRAMES, 240, 360)
    version = recipes.save_recipe(library.db, look_recipe())
    looks.give_look(library, shoot_id, version.id, 1.0)
    deliver.queue_delivery(library, shoot_id, deliver.DeliveryOptions(quality=85))
    return library, shoot_id


def outcome(library, shoot_id):
    """The sums of every finished picture and of every file that leaves, by frame."""
    rows = frames.frames(library.db, shoot_id)
    shown = {f.file_name: hashlib.sha256(library.result(f.result_key).read_bytes()).hexdigest() for f in rows}
    job = next(j for j in jobs.jobs(library.db, shoot_id) if j.kind == deliver.KIND)
    left = {p.name: p.crc32 for p in deliver.packed(library, job) if p.name.endswith(".jpg")}
    return shown, left


@needs_namespaces
def test_a_job_on_workers_that_do_not_see_the_library_gives_the_same_bytes_though_one_is_killed(tmp_path):
    here, shoot = shoot_in(tmp_path / "here", tmp_path)
    assert make_runner(here, 2).run_until_idle()
    there, other = shoot_in(tmp_path / "there", tmp_path)
    with Cluster(tmp_path, there.home) as cluster:
        runner = make_runner(there, cluster=cluster.address)
        runner.start()
        try:
            batch = jobs.jobs(there.db, other)[-1]
            wait(lambda: jobs.job(there.db, batch.id).done >= 3)
            cluster.kill_a_worker()
            wait(lambda: not any(j.active for j in jobs.jobs(there.db, other)))
        finally:
            runner.stop()
    assert all((j.state, j.failed) == ("done", 0) for j in jobs.jobs(there.db, other))
    assert outcome(there, other) == outcome(here, shoot)


def test_a_cluster_that_is_not_there_is_said_in_words_and_waited_for(tmp_path):
    library, shoot_id = shoot_in(tmp_path / "home", tmp_path)
    runner = make_runner(library, cluster=f"tcp://127.0.0.1:{free_port()}")
    runner.start()
    try:
        wait(lambda: "does not answer" in runner.trouble)
        assert all(j.active and j.failed == 0 for j in jobs.jobs(library.db, shoot_id))
    finally:
        runner.stop()


def test_workers_of_another_version_get_no_work(tmp_path, monkeypatch):
    (tmp_path / "nothing").mkdir()
    with Cluster(tmp_path, tmp_path / "nothing") as cluster:
        real = dask.versions
        monkeypatch.setattr(dask, "versions", lambda: real() | {"engine": "engine-of-tomorrow"})
        engine = dask.Dask(cluster.address, tmp_path)
        with pytest.raises(EngineProblem, match="engine engine-"):
            wait(lambda: _ready(engine))
        engine.end()


def _ready(engine):
    try:
        return engine.slots() > 0
    except EngineProblem as problem:
        if "No worker" in str(problem) or "does not answer" in str(problem):
            return False
        raise


def wait(condition, seconds=90):
    end = time.monotonic() + seconds
    while not condition():
        assert time.monotonic() < end, "it did not come to that"
        time.sleep(0.02)

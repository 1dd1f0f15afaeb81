"""What is left behind goes, by counting who refers to it; what any shoot needs stays."""

import fcntl
import time

import pytest

from lenskeep.store import deliveries, frames, jobs, recipes, shoots
from lenskeep.studio import bring_in, looks, removing, sweep
from lenskeep.studio.hand_over import deliver
from lenskeep.studio.hand_over.deliver import DeliveryOptions
from lenskeep.studio.queue import make_runner
from tools.made_up import look_recipe, ready_shoot, write_photo

LATER = time.time() + 10_000


def run(library):
    assert make_runner(library, 0).run_until_idle()


def files(library):
    wanted = ("originals", "computed", "results", "deliveries", "incoming")
    return {p for folder in wanted for p in (library.home / folder).rglob("*") if p.is_file()}


@pytest.fixture
def shoot(library, tmp_path):
    shoot = ready_shoot(library, tmp_path / "card", 3)
    version = recipes.save_recipe(library.db, look_recipe())
    looks.give_look(library, shoot, version.id, 1.0)
    deliver.queue_delivery(library, shoot, DeliveryOptions())
    run(library)
    return shoot


def test_nothing_that_a_shoot_needs_is_swept(library, shoot):
    before = files(library)
    assert sweep.sweep_unused(library, LATER).files == sweep.sweep_results(library, LATER).files == 0
    assert files(library) == before


def test_removing_a_shoot_takes_all_that_only_it_needs(library, shoot, tmp_path):
    other = bring_in.create_shoot(library, "Other")
    shared = write_photo(tmp_path / "again.jpg", 0, "2026:09:12 18:00:00", 200, 300)
    assert bring_in.receive(library, other, shared, "again.jpg").frame_ids, "the same file as the first of the shoot"
    goes = removing.what_goes(library, shoot)
    sizes = [f.bytes for f in frames.frames(library.db, shoot)]
    assert (goes.frames, goes.bytes, goes.deliveries) == (3, sum(sizes[1:]), 1)
    removing.remove_shoot(library, shoot)
    assert {j.kind for j in jobs.jobs(library.db, shoot)} == set() and jobs.queued(library.db, sweep.KIND)
    run(library)
    sweep.sweep_unused(library, LATER)
    sweep.sweep_results(library, LATER)
    [left] = frames.frames(library.db, other)
    assert library.original(left.sha256, left.suffix).read_bytes() == shared.read_bytes()
    assert left.facts is not None and library.computed(left.content).holds(left.facts)
    kept = {p for p in files(library) if left.sha256 not in str(p)}
    assert kept == set(), "originals, masks, results and hand-overs of the removed shoot are gone"


def test_a_frame_taken_out_leaves_nothing(library, shoot):
    first = frames.frames(library.db, shoot)[0]
    removing.remove_frame(library, first.id)
    run(library)
    assert not library.original(first.sha256, first.suffix).exists()
    assert len(frames.frames(library.db, shoot)) == 2


def test_young_files_are_spared_since_somebody_may_be_about_to_write_them_down(library, shoot):
    young = library.computed("ab" * 32).folder
    young.mkdir(parents=True)
    (young / "base.jpg").write_bytes(b"just made")
    sweep.sweep_unused(library)
    assert young.exists()
    sweep.sweep_unused(library, LATER)
    assert not young.exists()


def test_what_a_kill_left_on_its_way_in_is_swept_and_what_is_in_use_is_not(library):
    left = library.home / "incoming" / "dead"
    left.mkdir(parents=True)
    (left / "13 MB.zip").write_bytes(b"x" * 1000)
    (library.home / "incoming" / "tmp-of-an-older-version.zip").write_bytes(b"x")
    with library.scratch() as mine:
        (mine / "coming in.jpg").write_bytes(b"x")
        sweep.sweep_incoming(library)
        assert (mine / "coming in.jpg").exists() and not left.exists()
        with (mine / ".lock").open() as probe, pytest.raises(BlockingIOError):
            fcntl.flock(probe, fcntl.LOCK_EX | fcntl.LOCK_NB)
    assert list((library.home / "incoming").iterdir()) == []


def test_a_start_sweeps(library, shoot):
    folder = library.delivery(999) / "files"
    folder.mkdir(parents=True)
    (folder / "a.jpg").write_bytes(b"of a job that is gone")
    half = library.home / "results" / "ab" / f".{'0' * 32}.part"
    half.parent.mkdir(parents=True, exist_ok=True)
    half.write_bytes(b"half")
    run(library)
    assert not folder.parent.exists() and not half.exists()
    [job] = [j for j in jobs.jobs(library.db) if j.kind == deliver.KIND]
    assert len(deliveries.delivered(library.db, job.id)) == 3 and len(deliver.packed(library, job)) == 5


def test_a_shoot_removed_while_its_jobs_wait_ends_them(library, shoot):
    deliver.queue_delivery(library, shoot, DeliveryOptions())
    removing.remove_shoot(library, shoot)
    run(library)
    assert shoots.shoots(library.db) == [] and not any(j.active for j in jobs.jobs(library.db))

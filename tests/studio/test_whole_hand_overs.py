"""A hand-over is whole or says what is missing; nothing of the photographer's is ever replaced; nothing changes on the
way: what was queued is what leaves.
"""

import csv
import io
import os
import zipfile

import numpy as np
import pytest
from PIL import Image

from lenskeep.core.names import MOST_STEM_BYTES
from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.overrides import StepOverride
from lenskeep.files import written
from lenskeep.store import deliveries, frames, jobs, recipes, scenes, shoots
from lenskeep.store import looks as kept
from lenskeep.studio import looks
from lenskeep.studio.hand_over import deliver
from lenskeep.studio.hand_over.deliver import DeliveryOptions
from lenskeep.studio.hand_over.proof import LIST
from lenskeep.studio.hand_over.sheet import SHEET
from lenskeep.studio.queue import make_runner
from lenskeep.studio.wanting import settle_scene
from tools.made_up import look_recipe, ready_shoot


@pytest.fixture
def shoot(library, tmp_path):
    return ready_shoot(library, tmp_path / "card", 6, 80, 120)


def give_only(library, shoot, version_id):
    """Give a look without rendering it."""
    kept.give_look(library.db, scenes.first_scene(library.db, shoot).id, [(version_id, 1.0)])
    settle_scene(library.db, scenes.first_scene(library.db, shoot).id)


def rows(library, shoot):
    return frames.frames(library.db, shoot)


def run(library):
    assert make_runner(library, 0).run_until_idle()


def zipped(library, job_id, tmp_path):
    target = tmp_path / f"out-{job_id}-{len(list(tmp_path.iterdir()))}.zip"
    deliver.write_zip(library, jobs.job(library.db, job_id), target)
    with zipfile.ZipFile(target) as bundle:
        assert bundle.testzip() is None
        return {name: bundle.read(name) for name in bundle.namelist()}


def sheet_of(files):
    return list(csv.DictReader(io.StringIO(files[SHEET].decode("utf-8-sig"))))


def test_a_resumed_hand_over_is_complete(library, shoot, tmp_path):
    """Seen before: five good frames thrown away by resuming for the sixth, and "done, 6 of 6"."""
    broken = rows(library, shoot)[3]
    original = library.original(broken.sha256, broken.suffix)
    good = original.read_bytes()
    original.chmod(0o644)
    original.write_bytes(b"spoilt")
    job_id = deliver.queue_delivery(library, shoot, DeliveryOptions())
    run(library)
    job = jobs.job(library.db, job_id)
    assert (job.state, job.done, job.failed) == ("done", 5, 1) and job.message.startswith("5 of 6")
    first = zipped(library, job_id, tmp_path)
    assert len(first) == 7 and broken.file_name not in first
    original.write_bytes(good)
    assert jobs.resume(library.db, job_id)
    run(library)
    second = zipped(library, job_id, tmp_path)
    assert {f.file_name for f in rows(library, shoot)} | {SHEET, LIST} == set(second)
    assert all(second[name] == first[name] for name in first if name not in (SHEET, LIST))
    assert len(sheet_of(second)) == 6


def test_a_zip_that_lacks_a_file_is_refused_and_resuming_mends_it(library, shoot, tmp_path):
    job_id = deliver.queue_delivery(library, shoot, DeliveryOptions())
    run(library)
    before = zipped(library, job_id, tmp_path)
    folder = deliver.folder_of(library, jobs.job(library.db, job_id))
    (folder / "IMG_002.jpg").unlink()
    (folder / "IMG_004.jpg").write_bytes(b"cut")
    with pytest.raises(UserProblem, match="not whole"):
        deliver.packed(library, jobs.job(library.db, job_id))
    # a restart that closes the job anew finds it out, too
    with library.db.writing() as write:
        write.execute("UPDATE jobs SET state = 'queued' WHERE id = ?", (job_id,))
    run(library)
    job = jobs.job(library.db, job_id)
    assert job.state == "failed" and "2 files" in job.message and job.failed == 2
    jobs.resume(library.db, job_id)
    run(library)
    assert zipped(library, job_id, tmp_path) == before


def test_what_leaves_is_what_was_queued_whatever_is_changed_meanwhile(library, shoot, tmp_path):
    one = recipes.save_recipe(library.db, look_recipe(ev=0.5))
    looks.give_look(library, shoot, one.id, 0.8)
    run(library)
    changed = rows(library, shoot)[1]
    looks.change_frame(library, changed.id, strength=0.5)
    as_it_was = zipped(library, _handed_over(library, shoot), tmp_path)
    job_id = deliver.queue_delivery(library, shoot, DeliveryOptions())
    two = recipes.save_recipe(library.db, look_recipe(ev=-2.0))
    looks.give_look(library, shoot, two.id, 2.0)
    looks.change_frame(library, changed.id, strength=2.0)
    looks.change_frame(library, rows(library, shoot)[2].id, step_id="sky", step=StepOverride(enabled=False))
    shoots.rename_shoot(library.db, shoot, "Another name")
    run(library)
    files = zipped(library, job_id, tmp_path)
    assert {n: d for n, d in files.items() if n not in (SHEET, LIST)} == {
        n: d for n, d in as_it_was.items() if n not in (SHEET, LIST)
    }
    told = sheet_of(files)
    assert {(c["recipe"], c["version"], c["look strength"]) for c in told} == {("Evening", "1", "0.8")}
    assert [c["frame strength"] for c in told] == ["1.0", "0.5", "1.0", "1.0", "1.0", "1.0"]
    assert {c["steps changed"] for c in told} == {""}


def _handed_over(library, shoot):
    job_id = deliver.queue_delivery(library, shoot, DeliveryOptions())
    run(library)
    return job_id


def test_an_apply_renders_what_it_was_queued_with(library, shoot):
    """A new look cancels it; a look that is changed below it does not change what it makes."""
    one = recipes.save_recipe(library.db, look_recipe(ev=0.5))
    job_id = looks.give_look(library, shoot, one.id, 1.0)
    expected = {f.id: f.wanted_key for f in rows(library, shoot)}
    two = recipes.save_recipe(library.db, look_recipe(ev=-2.0))
    give_only(library, shoot, two.id)
    run(library)
    assert jobs.job(library.db, job_id).done == 6
    assert all(library.result(key).is_file() for key in expected.values())
    assert not any(f.result_key for f in rows(library, shoot)), "it is not what these frames should look like now"


def test_a_job_whose_version_was_removed_says_so(library, shoot):
    version = recipes.save_recipe(library.db, look_recipe())
    looks.give_look(library, shoot, version.id, 1.0)
    job_id = deliver.queue_delivery(library, shoot, DeliveryOptions())
    other = recipes.save_recipe(library.db, look_recipe("Other"))
    give_only(library, shoot, other.id)
    recipes.remove_version(library.db, version.id)
    run(library)
    assert "removed from the book" in jobs.job(library.db, job_id).message


# --- nothing that is not ours is replaced


def test_files_of_the_same_name_in_the_folder_stay_and_the_sheet_tells(library, shoot, tmp_path):
    out = tmp_path / "out"
    out.mkdir()
    for name in ("IMG_001.jpg", "IMG_002.JPG", SHEET):
        (out / name).write_text(f"{name} of somebody else")
    (out / "IMG_003.jpg").symlink_to(tmp_path / "nowhere")
    job_id = deliver.queue_delivery(library, shoot, DeliveryOptions(folder=str(out)))
    (out / "IMG_004.jpg").write_text("put there while the hand-over ran")
    run(library)
    job = jobs.job(library.db, job_id)
    assert job.state == "done" and "got another name" in job.message and "what-was-applied-2.csv" in job.message
    for name in ("IMG_001.jpg", "IMG_002.JPG", SHEET):
        assert (out / name).read_text() == f"{name} of somebody else"
    assert (out / "IMG_003.jpg").is_symlink() and "while" in (out / "IMG_004.jpg").read_text()
    told = list(csv.DictReader(io.StringIO((out / "what-was-applied-2.csv").read_text("utf-8-sig"))))
    names = {c["original"]: c["file"] for c in told}
    assert names["IMG_001.jpg"] == "IMG_001-2.jpg" and names["IMG_003.jpg"] == "IMG_003-2.jpg"
    assert names["IMG_004.jpg"] == "IMG_004-2.jpg" and names["IMG_000.jpg"] == "IMG_000.jpg"
    assert "was there already" in next(c["note"] for c in told if c["original"] == "IMG_004.jpg")
    for name in names.values():
        Image.open(out / name).load()


def test_our_own_earlier_files_are_renewed_unless_somebody_changed_them(library, shoot, tmp_path):
    out = tmp_path / "out"
    deliver.queue_delivery(library, shoot, DeliveryOptions(folder=str(out)))
    run(library)
    before = {p.name: p.read_bytes() for p in out.iterdir()}
    (out / "IMG_005.jpg").write_bytes(b"touched up by hand")
    deliver.queue_delivery(library, shoot, DeliveryOptions(folder=str(out), quality=60))
    run(library)
    after = {p.name: p.read_bytes() for p in out.iterdir()}
    assert set(after) == set(before) | {"IMG_005-2.jpg"}
    assert after["IMG_005.jpg"] == b"touched up by hand"
    assert all(len(after[f"IMG_00{n}.jpg"]) < len(before[f"IMG_00{n}.jpg"]) for n in range(5))


def test_what_a_kill_left_in_the_folder_is_not_doubled(library, shoot, tmp_path):
    """The file was written, and then the program died before it could write that down."""
    out = tmp_path / "out"
    job_id = deliver.queue_delivery(library, shoot, DeliveryOptions(folder=str(out)))
    run(library)
    before = {p.name: p.read_bytes() for p in out.iterdir()}
    with library.db.writing() as write:
        write.execute("DELETE FROM delivered")
        write.execute("DELETE FROM written")
        write.execute("UPDATE job_items SET state = 'running' WHERE job_id = ?", (job_id,))
        write.execute("UPDATE jobs SET state = 'running' WHERE id = ?", (job_id,))
    (out / f".{'0' * 32}.part").write_bytes(b"half")
    run(library)
    assert {p.name: p.read_bytes() for p in out.iterdir()} == before
    assert len(deliveries.delivered(library.db, job_id)) == 6


@pytest.mark.parametrize("where", ["", "originals", "deliveries/00001", "link"])
def test_the_library_itself_is_never_a_target(library, shoot, tmp_path, where):
    if where == "link":
        (tmp_path / "link").symlink_to(library.home / "originals")
        target = tmp_path / "link"
    else:
        target = library.home / where
    with pytest.raises(UserProblem, match="inside Lens Keep's own library"):
        deliver.queue_delivery(library, shoot, DeliveryOptions(folder=str(target)))
    assert jobs.jobs(library.db) == []


@pytest.mark.parametrize("folder", ["/tmp/a\0b", "/" + "x" * 300, "/proc/no/such"])
def test_a_folder_that_cannot_be_made_is_refused_in_words(library, shoot, folder):
    with pytest.raises(UserProblem, match=r"folder|written to"):
        deliver.queue_delivery(library, shoot, DeliveryOptions(folder=folder))


def test_two_writers_of_one_name_get_two_files(tmp_path):
    first = written.write_beside(tmp_path / "a.jpg", b"one")
    second = written.write_beside(tmp_path / "a.jpg", b"two")
    assert (first.name, second.name) == ("a.jpg", "a-2.jpg")
    assert written.write_beside(tmp_path / "a.jpg", b"one") == first, "the same bytes are there already"
    assert written.write_beside(tmp_path / "a.jpg", b"three", written.sum_of(first)) == first
    assert (first.read_bytes(), second.read_bytes()) == (b"three", b"two")


def test_whoever_was_quicker_keeps_a_name(tmp_path, monkeypatch):
    """Somebody makes a file of that name after it was seen to be free, and before ours is there."""

    def quicker(_):
        (tmp_path / "a.jpg").write_bytes(b"theirs")

    monkeypatch.setattr(written, "_to_disk", quicker)
    assert written.write_beside(tmp_path / "a.jpg", b"ours").name == "a-2.jpg"
    assert [(tmp_path / name).read_bytes() for name in ("a.jpg", "a-2.jpg")] == [b"theirs", b"ours"]


def test_a_disk_without_hard_links_is_written_to_as_well(tmp_path, monkeypatch):
    def refuse(*_):
        raise OSError(95, "Operation not supported")

    monkeypatch.setattr(os, "link", refuse)
    assert written.write_beside(tmp_path / "a.jpg", b"one").read_bytes() == b"one"
    assert written.write_beside(tmp_path / "a.jpg", b"two").name == "a-2.jpg"
    assert not list(tmp_path.glob(written.DRAFTS))


# --- names


def test_names_of_any_length_and_kind_leave_and_stay_apart(library, shoot, tmp_path):
    names = ["ä" * 126 + ".jpg", "b" * 300 + ".tif", "c" * 249 + ".jpg", "-rm.jpg", "\u202egpj.jpg", "....jpg"]
    with library.db.writing() as write:
        for frame, name in zip(rows(library, shoot), names, strict=True):
            write.execute("UPDATE frames SET file_name = ? WHERE id = ?", (name, frame.id))
    out = tmp_path / "out"
    job_id = deliver.queue_delivery(library, shoot, DeliveryOptions(folder=str(out)))
    run(library)
    job = jobs.job(library.db, job_id)
    assert (job.done, job.failed) == (6, 0), jobs.failures(library.db, job_id)
    made = [p.name for p in out.iterdir() if p.suffix == ".jpg"]
    assert len(made) == 6 and all(len(n.encode()) <= MOST_STEM_BYTES + 10 for n in made)
    assert not any(n.startswith(("-", ".", "=")) for n in made)


def test_the_zip_keeps_the_name_it_was_queued_with(library, shoot, tmp_path):
    shoots.rename_shoot(library.db, shoot, "Lena & Tom: " + "long " * 20)
    job_id = _handed_over(library, shoot)
    shoots.rename_shoot(library.db, shoot, "Renamed since")
    job = jobs.job(library.db, job_id)
    assert deliver.zip_name(job).startswith("Lena _ Tom_ long") and len(deliver.zip_name(job).encode()) < 200
    assert len(zipped(library, job_id, tmp_path)) == 8
    with pytest.raises(UserProblem, match="exists already"):
        target = next(tmp_path.glob("out-*.zip"))
        deliver.write_zip(library, job, target)


def test_a_frame_without_a_look_leaves_as_it_came(library, shoot, tmp_path):
    files = zipped(library, _handed_over(library, shoot), tmp_path)
    frame = rows(library, shoot)[0]
    plain = np.asarray(Image.open(library.original(frame.sha256, frame.suffix)), float)
    assert np.abs(np.asarray(Image.open(io.BytesIO(files[frame.file_name])), float) - plain).mean() < 3
    assert sheet_of(files)[0]["recipe"] == ""

"""The hand-over: its sheet is safe in a spreadsheet and says what was changed, and what fails, fails alone."""

import csv
import io

import pytest

from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.overrides import StepOverride
from lenskeep.store import frames, jobs, recipes
from lenskeep.studio import bring_in, looks
from lenskeep.studio.hand_over import deliver
from lenskeep.studio.hand_over.sheet import SHEET
from lenskeep.studio.queue import make_runner
from tools.made_up import look_recipe, ready_shoot


@pytest.fixture
def shoot(library, tmp_path):
    return ready_shoot(library, tmp_path / "card", 3)


def rows(library, shoot):
    return frames.frames(library.db, shoot)


def run(library):
    assert make_runner(library, 0).run_until_idle()


def cells_of(library, job_id):
    """The rows of a ZIP's sheet."""
    job = jobs.job(library.db, job_id)
    path = next(f.path for f in deliver.packed(library, job) if f.name == SHEET)
    return list(csv.DictReader(io.StringIO(path.read_text("utf-8-sig"))))


def test_no_cell_is_taken_for_a_formula(library, shoot):
    version = recipes.save_recipe(library.db, look_recipe("=cmd|' /C calc'!A0"))
    looks.give_look(library, shoot, version.id, 1.0)
    with library.db.writing() as write:
        write.execute("UPDATE frames SET file_name = '+-=IMG.jpg' WHERE id = ?", (rows(library, shoot)[0].id,))
        write.execute("UPDATE frames SET file_name = '@SUM(A1).jpg' WHERE id = ?", (rows(library, shoot)[1].id,))
    job_id = deliver.queue_delivery(library, shoot, deliver.DeliveryOptions())
    run(library)
    cells = cells_of(library, job_id)
    assert {c["original"] for c in cells} == {"'+-=IMG.jpg", "'@SUM(A1).jpg", "IMG_002.jpg"}
    assert all(c["recipe"].startswith("'=") for c in cells)
    assert not any(text[:1] in "=+-@" for c in cells for text in c.values() if text)


def test_the_sheet_says_what_one_frame_changed(library, shoot):
    version = recipes.save_recipe(library.db, look_recipe())
    looks.give_look(library, shoot, version.id, 0.75)
    run(library)
    first = rows(library, shoot)[0]
    looks.change_frame(library, first.id, step_id="sky", step=StepOverride(enabled=False))
    looks.change_frame(library, first.id, step_id="subject", step=StepOverride(strength=1.5))
    job_id = deliver.queue_delivery(library, shoot, deliver.DeliveryOptions())
    run(library)
    cells = cells_of(library, job_id)
    assert cells[0]["steps changed"] == "sky off; subject at 1.5" and cells[1]["steps changed"] == ""
    assert cells[0]["look strength"] == "0.75" and cells[0]["taken"].startswith("2026-09-12T18:00")


def test_an_altered_original_fails_alone_and_the_rest_leaves(library, shoot, tmp_path):
    second = rows(library, shoot)[1]
    original = library.original(second.sha256, second.suffix)
    original.chmod(0o644)
    original.write_bytes(original.read_bytes() + b"x")
    options = deliver.DeliveryOptions(folder=str(tmp_path / "out"))
    job_id = deliver.queue_delivery(library, shoot, options)
    run(library)
    job = jobs.job(library.db, job_id)
    assert (job.state, job.done, job.failed) == ("done", 2, 1) and job.message.startswith("2 of 3 files")
    [(name, reason)] = jobs.failures(library.db, job_id)
    assert name == second.file_name and "changed since it came in" in reason
    listed = (tmp_path / "out" / SHEET).read_text("utf-8-sig")
    assert second.file_name not in listed and len(listed.splitlines()) == 3


@pytest.mark.parametrize("folder", ["relative/out", "FILE"])
def test_a_folder_that_cannot_be_one_is_refused_before_anything_runs(library, shoot, tmp_path, folder):
    (tmp_path / "file").write_text("in the way")
    target = str(tmp_path / "file") if folder == "FILE" else folder
    with pytest.raises(UserProblem, match="folder"):
        deliver.queue_delivery(library, shoot, deliver.DeliveryOptions(folder=target))
    assert jobs.jobs(library.db, shoot) == []


def test_a_shoot_without_masks_has_nothing_to_hand_over(library, tmp_path):
    empty = bring_in.create_shoot(library, "Empty")
    with pytest.raises(UserProblem, match="Let the finding end first"):
        deliver.queue_delivery(library, empty, deliver.DeliveryOptions())

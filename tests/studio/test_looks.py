"""A look over a shoot: every frame with its own masks, single frames changed, previews true to deliveries."""

import csv
import io
import zipfile

import cv2
import numpy as np
import pytest
from PIL import Image

from lenskeep.core.colour.oklab import to_oklab
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.recipes.overrides import StepOverride
from lenskeep.files.reading.photo import read_photo
from lenskeep.store import frames, jobs, recipes
from lenskeep.studio import applying, looks
from lenskeep.studio.bench import draft as bench
from lenskeep.studio.bench.witnesses import key_and_witnesses
from lenskeep.studio.hand_over import deliver
from lenskeep.studio.hand_over.names import delivery_names
from lenskeep.studio.hand_over.proof import LIST
from lenskeep.studio.hand_over.sheet import SHEET
from lenskeep.studio.library import Library
from lenskeep.studio.queue import make_runner
from tests.asked import asked
from tools.made_up import look_recipe, ready_shoot


def rows(library, shoot_id):
    return frames.frames(library.db, shoot_id)


def run(library):
    assert make_runner(library, 0).run_until_idle()


@pytest.fixture
def dressed(library, tmp_path):
    """A shoot of four frames under the look, rendered."""
    shoot_id = ready_shoot(library, tmp_path / "card", 4)
    version = recipes.save_recipe(library.db, look_recipe())
    looks.give_look(library, shoot_id, version.id, 1.0)
    run(library)
    return shoot_id


def change(library, frame_id, **what):
    """Change a frame and render it; returns it as it is then."""
    looks.change_frame(library, frame_id, **what)
    applying.render_frame(library, frame_id)
    return frames.frame(library.db, frame_id)


def mean(path):
    return float(np.asarray(Image.open(path), float).mean())


def test_every_frame_gets_its_result_and_a_second_run_renders_nothing(library, dressed):
    keys = [f.result_key for f in rows(library, dressed)]
    assert len(set(keys)) == 4 and all(library.result(k).is_file() and library.tile(k).is_file() for k in keys)
    before = {k: library.result(k).stat().st_mtime_ns for k in keys}
    looks.give_look(library, dressed, looks.look_of_shoot(library, dressed).version.id, 1.0)
    run(library)
    assert {k: library.result(k).stat().st_mtime_ns for k in keys} == before


def test_only_a_frame_that_wants_another_picture_is_queued_for_one(library, dressed):
    first, second, *_ = rows(library, dressed)
    queued = len(jobs.jobs(library.db))
    assert applying.queue_now(library, first.id) is None
    assert applying.queue_stale(library, dressed, [first.id, second.id]) is None
    assert len(jobs.jobs(library.db)) == queued
    looks.change_frame(library, first.id, strength=0.5)
    made = applying.queue_stale(library, dressed, [first.id, second.id])
    assert [item.frame_id for item, _ in jobs.items(library.db, made)] == [first.id]
    assert applying.queue_now(library, first.id) is not None


def test_one_frame_can_be_changed_and_the_others_stay(library, dressed):
    first, second, *_ = rows(library, dressed)
    base = read_photo(library.computed(first.sha256).base).rows(0, 999)
    halved = change(library, first.id, strength=0.0)
    after = read_photo(library.result(halved.result_key)).rows(0, 999)
    assert np.abs(to_oklab(after) - to_oklab(base)).mean() < 0.004
    off = change(library, first.id, strength=1.0, step_id="background", step=StepOverride(enabled=False))
    assert mean(library.result(off.result_key)) > mean(library.result(first.result_key)) + 3
    again = change(library, first.id, reset=True)
    assert again.result_key == first.result_key and again.override.is_neutral
    assert rows(library, dressed)[1].result_key == second.result_key


def test_the_hand_over_is_what_the_wall_shows(library, dressed, tmp_path):
    change(library, rows(library, dressed)[1].id, strength=0.5)
    job_id = deliver.queue_delivery(library, dressed, deliver.DeliveryOptions(quality=95))
    run(library)
    job = jobs.job(library.db, job_id)
    assert job.state == "done", job.message
    deliver.write_zip(library, job, tmp_path / "out.zip")
    with zipfile.ZipFile(tmp_path / "out.zip") as bundle:
        names = bundle.namelist()
        assert names == [*(f"IMG_{i:03d}.jpg" for i in range(4)), SHEET, LIST]
        sheet = list(csv.DictReader(io.StringIO(bundle.read(SHEET).decode("utf-8-sig"))))
        bundle.extractall(tmp_path / "out")
    assert [r["frame strength"] for r in sheet] == ["1.0", "0.5", "1.0", "1.0"]
    assert {(r["recipe"], r["version"]) for r in sheet} == {("Evening", "1")}
    assert sheet[2]["doubts"] == "Subject and sky overlap." and float(sheet[2]["subject trust"]) == 0.4
    for row in rows(library, dressed):
        full = read_photo(tmp_path / "out" / row.file_name)
        preview = read_photo(library.result(row.result_key))
        assert (full.height, full.width) == (200, 300) and full.taken is not None
        small = [cv2.resize(p.rows(0, 999), (150, 100), interpolation=cv2.INTER_AREA) for p in (full, preview)]
        distance = np.linalg.norm(to_oklab(small[0]) - to_oklab(small[1]), axis=-1)
        assert distance.mean() < 0.01


def test_a_smaller_hand_over_into_a_folder(library, dressed, tmp_path):
    options = deliver.DeliveryOptions(long_side=240, folder=str(tmp_path / "out"))
    job_id = deliver.queue_delivery(library, dressed, options)
    run(library)
    assert jobs.job(library.db, job_id).state == "done"
    assert Image.open(tmp_path / "out" / "IMG_000.jpg").size == (240, 160)
    assert not [p for p in (tmp_path / "out").iterdir() if p.name.startswith(".")]
    assert (tmp_path / "out" / SHEET).is_file()


def test_names_for_a_hand_over_are_safe_and_never_collide(library, dressed):
    row = rows(library, dressed)[0]
    names = ["a.jpg", "A.tif", "../b.png", "c*?.jpg", "=evil().jpg"]
    made = [type(row)(**{**row.__dict__, "id": i, "file_name": name}) for i, name in enumerate(names)]
    assert list(delivery_names(made, ".jpg").values()) == ["a.jpg", "A-2.jpg", "b.jpg", "c__.jpg", "_evil().jpg"]


def test_the_bench_keeps_a_draft_saves_the_ticked_steps_and_makes_versions(library, dressed):
    draft = bench.draft(library, dressed)
    assert draft.recipe == look_recipe()
    added = bench.change(library, dressed, asked("add-step", {"where": "whole", "what": "warmth"})).added
    bench.change(library, dressed, asked("set", {"values": {f"steps/{added}/adjustments/a1/mired": 12.0}}))
    saved = bench.save(library, dressed, "Evening", ["subject", added], 0.8)
    assert (saved.version, saved.recipe.strength, [s.id for s in saved.recipe.steps]) == (2, 0.8, ["subject", added])
    assert len(bench.draft(library, dressed).recipe.steps) == 4
    for _ in range(3):
        assert bench.undo(library, dressed)
    assert bench.draft(library, dressed).recipe == look_recipe()


def test_a_new_step_never_takes_over_what_frames_changed_of_a_removed_one(library, dressed):
    seen = set()
    for _ in range(3):
        added = bench.change(library, dressed, asked("add-step", {"where": "sky", "what": "haze"})).added
        assert added not in seen
        seen.add(added)
        bench.change(library, dressed, asked("remove-step", {"step": added}))


def test_witnesses_differ_from_the_key_frame(library, tmp_path):
    shoot_id = ready_shoot(library, tmp_path / "card", 9)
    key, witnesses = key_and_witnesses(library, shoot_id)
    assert key.file_name == "IMG_000.jpg" and len(witnesses) == 6 and key.id not in {w.id for w in witnesses}
    assert {w.trust < 0.8 for w in witnesses} == {True, False}


def test_a_look_that_means_other_steps_by_an_update_is_made_anew_and_no_other(library, tmp_path):
    """A step that blends with a neutral adjustment in it once did nothing; a library from before is opened."""
    first, second = (ready_shoot(library, tmp_path / name, 1) for name in ("one", "two"))
    blended = {"id": "a", "blend": "multiply", "adjustments": [{"kind": "exposure"}]}
    recipe = Recipe.model_validate({"name": "Twice", "steps": [blended]})
    looks.give_look(library, first, recipes.save_recipe(library.db, recipe).id, 1.0)
    looks.give_look(library, second, recipes.save_recipe(library.db, look_recipe()).id, 1.0)
    make_runner(library, 0).run_until_idle()
    right = [frames.frames(library.db, shoot)[0].wanted_key for shoot in (first, second)]
    with library.db.writing() as write:
        write.execute("DELETE FROM settled WHERE name = 'plans'")
        write.execute("UPDATE frames SET wanted_key = 'before', result_key = 'before'")
    again = Library(library.home)
    now = [frames.frames(again.db, shoot)[0].wanted_key for shoot in (first, second)]
    assert now == [right[0], "before"]

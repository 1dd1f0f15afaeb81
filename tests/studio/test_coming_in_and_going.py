"""What is coming in is never swept, what was altered is mended by bringing it in again, and what recipes refer to stays
for as long as anything needs it.
"""

import os
import threading
import time
from pathlib import Path

import numpy as np
import pytest

from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.models import Recipe
from lenskeep.files.assets import asset_key, packed_grey
from lenskeep.files.written import drop_abandoned, sum_of, written_whole
from lenskeep.store import assets, frames, jobs, recipes, shoots
from lenskeep.studio import bring_in, card, deeds, looks, own_steps, placing, sweep
from lenskeep.studio.hand_over import deliver
from lenskeep.studio.queue import make_runner
from tests.core.adjustments import strong
from tools.made_up import ASSETS, ready_shoot, write_photo

LATER = time.time() + 10_000


def run(library):
    assert make_runner(library, 0).run_until_idle()


def card_of(folder, count):
    for number in range(count):
        write_photo(folder / f"IMG_{number}.jpg", number)
    return folder


def test_what_a_card_brings_in_outlives_sweeping_at_every_moment(library, tmp_path, monkeypatch):
    """Swept between a file's way to its place and the row that speaks of it, by a queue that is late with that row."""
    monkeypatch.setenv("LENSKEEP_FOLDERS", str(tmp_path))
    shoot = bring_in.create_shoot(library, "Card")
    card.queue_folder(library, shoot, str(card_of(tmp_path / "card", 4)))
    real = card.BringingIn.record

    def swept_before(self, job, item, result):
        sweep.sweep_unused(library)
        sweep.sweep_drafts(library)
        real(self, job, item, result)

    monkeypatch.setattr(card.BringingIn, "record", swept_before)
    run(library)
    rows = frames.frames(library.db, shoot)
    assert len(rows) == 4 and all(library.original(f.sha256, f.suffix).is_file() for f in rows)


def test_a_file_that_lay_there_unused_is_not_swept_under_the_card_that_brings_it_again(library, tmp_path, monkeypatch):
    monkeypatch.setenv("LENSKEEP_FOLDERS", str(tmp_path))
    folder = card_of(tmp_path / "card", 1)
    left = library.original(sum_of(folder / "IMG_0.jpg"), ".jpg")
    left.parent.mkdir(parents=True)
    left.write_bytes((folder / "IMG_0.jpg").read_bytes())
    os.utime(left, (1, 1))
    test_what_a_card_brings_in_outlives_sweeping_at_every_moment(library, tmp_path, monkeypatch)


def test_drafts_under_way_stay_and_those_that_a_kill_left_go(library, tmp_path):
    shoot = ready_shoot(library, tmp_path / "in", 1)
    folder = library.original(frames.frames(library.db, shoot)[0].sha256, ".jpg").parent
    left = folder / f".{'0' * 32}.part"
    left.write_bytes(b"half")
    with written_whole(folder / "whole") as draft:
        draft.write_bytes(b"under way")
        sweep.sweep_drafts(library)
        assert draft.is_file() and not left.exists()
        assert not drop_abandoned(draft)
    assert (folder / "whole").read_bytes() == b"under way"
    (folder / "whole").unlink()


@pytest.mark.parametrize("way", ["upload", "copy", "card"])
def test_an_altered_original_is_mended_by_bringing_it_in_again(library, tmp_path, monkeypatch, way):
    monkeypatch.setenv("LENSKEEP_FOLDERS", str(tmp_path))
    shoot = ready_shoot(library, tmp_path / "in", 2)
    source = tmp_path / "in" / "IMG_000.jpg"
    original = library.original(sum_of(source), ".jpg")
    original.chmod(0o644)
    original.write_bytes(b"altered")
    if way == "card":
        card.queue_folder(library, shoot, str(tmp_path / "in"))
        run(library)
    else:
        copy = tmp_path / "again.jpg"
        copy.write_bytes(source.read_bytes())
        assert bring_in.receive(library, shoot, copy, "IMG_000.jpg", ours=way == "upload").known == ["IMG_000.jpg"]
    assert sum_of(original) == original.name[:64]
    assert len(frames.frames(library.db, shoot)) == 2


def laid_over(name="Laid over"):
    return Recipe.model_validate({"name": name, "steps": [{"id": "a", "adjustments": [strong("overlay")]}]})


def in_book(library, recipe):
    assets.keep_assets(library.db, {key: ASSETS[key] for key in recipe.assets()})
    return recipes.save_recipe(library.db, recipe)


def paths(library):
    return list((library.home / "assets").glob("??/*"))


def test_a_picture_stays_for_an_undo_that_would_bring_it_back(library, tmp_path):
    shoot = ready_shoot(library, tmp_path / "in", 1)
    version = in_book(library, laid_over())
    [frame] = frames.frames(library.db, shoot)
    own_steps.add(library, frame.id, version.id)
    own_steps.remove(library, frame.id, 0)
    with library.db.writing() as write:
        write.execute("DELETE FROM recipe_versions")
        write.execute("DELETE FROM recipes")
    sweep.sweep_unused(library, LATER)
    assert len(paths(library)) == 1
    deeds.undo(library, shoot)
    run(library)
    [frame] = frames.frames(library.db, shoot)
    assert len(frame.override.own) == 1 and not frame.render_problem


def test_a_picture_that_nothing_needs_goes_row_and_file_at_once(library, tmp_path):
    ready_shoot(library, tmp_path / "in", 1)
    recipe = laid_over()
    assets.keep_assets(library.db, {key: ASSETS[key] for key in recipe.assets()})
    sweep.sweep_unused(library)
    assert len(paths(library)) == 1, "it is young: somebody may be about to use it"
    swept = sweep.sweep_unused(library, LATER)
    assert paths(library) == [] and swept.files == 1
    assert library.db.reader.execute("SELECT count(*) FROM assets").fetchone()[0] == 0


def test_bringing_in_while_it_is_swept_leaves_both_or_neither(library):
    """Row and file are never told apart, however the two meet."""
    key, data = next(iter(laid_over().assets())), ASSETS[next(iter(laid_over().assets()))]
    stop = threading.Event()

    def sweeping():
        while not stop.is_set():
            assets.forget(library.db, key, "9999")

    thread = threading.Thread(target=sweeping)
    _ = library.db
    thread.start()
    for _ in range(60):
        assets.keep_assets(library.db, {key: data})
    stop.set()
    thread.join()
    row = library.db.reader.execute("SELECT 1 FROM assets").fetchone()
    assert not row or assets.asset_path(library.db, key).is_file()


def flip(path: Path) -> None:
    data = bytearray(path.read_bytes())
    data[len(data) // 2] ^= 0xFF
    path.write_bytes(data)


DAMAGES = {"gone": Path.unlink, "altered": flip, "truncated": lambda p: p.write_bytes(p.read_bytes()[:-20])}
HOLDERS = {
    "overlay": {"id": "a", "adjustments": [strong("overlay")]},
    "table": {"id": "a", "adjustments": [strong("colour_table")]},
    "mask": {
        "id": "a",
        "region": {"parts": [{"kind": "image", "name": "m", "picture": ""}]},
        "adjustments": [strong("exposure")],
    },
}


@pytest.mark.parametrize("how", DAMAGES)
@pytest.mark.parametrize("what", HOLDERS)
def test_a_lost_picture_of_a_step_is_said_and_fails_what_would_leave_without_it(library, tmp_path, what, how):

    shoot = ready_shoot(library, tmp_path / "in", 1)
    step = HOLDERS[what]
    if what == "mask":
        data = packed_grey(np.full((40, 60), 200, np.uint8))
        ASSETS[asset_key(data)] = data
        part = step["region"]["parts"][0] | {"picture": asset_key(data)}
        step = step | {"region": {"parts": [part]}}
    version = in_book(library, Recipe.model_validate({"name": "With a picture", "steps": [step]}))
    looks.give_look(library, shoot, version.id, 1.0)
    run(library)
    DAMAGES[how](paths(library)[0])
    job_id = deliver.queue_delivery(library, shoot, deliver.DeliveryOptions())
    run(library)
    job = jobs.job(library.db, job_id)
    assert (job.done, job.failed) == (0, 1)
    assert "picture or table" in jobs.failures(library.db, job_id)[0][1]
    looks.give_look(library, shoot, version.id, 0.5)
    run(library)
    [frame] = frames.frames(library.db, shoot)
    assert "picture or table" in frame.render_problem, "the wall says so as well"


def test_a_frame_placed_by_hand_while_scenes_are_found_stays_where_it_was_put(library, tmp_path, monkeypatch):
    shoot = ready_shoot(library, tmp_path / "in", 6)
    placing.place(library, shoot)
    ids = [f.id for f in frames.summaries(library.db, shoot)]
    real = placing.scenes_of

    def meanwhile(seen):
        made = placing.new_scene(library, shoot, ids[:2])
        meanwhile.scene = made
        return real(seen)

    monkeypatch.setattr(placing, "scenes_of", meanwhile)
    placing.place(library, shoot, again=True)
    now = {f.id: f.scene_id for f in frames.summaries(library.db, shoot)}
    assert [now[i] for i in ids[:2]] == [meanwhile.scene] * 2


def test_a_problem_of_the_folder_leaves_no_empty_shoot(library, tmp_path, monkeypatch):
    monkeypatch.setenv("LENSKEEP_FOLDERS", str(tmp_path))
    with pytest.raises(UserProblem):
        card.shoot_of_folder(library, str(tmp_path / "nowhere"))
    assert shoots.shoots(library.db) == []
    made = card.shoot_of_folder(library, str(card_of(tmp_path / "card", 2)))
    assert shoots.shoot(library.db, made).name == "card" and jobs.jobs(library.db, made)[0].total == 2

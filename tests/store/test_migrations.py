"""Libraries of every earlier version open, with everything in them, and a copy of the database is kept beside."""

import sqlite3
import zipfile
from contextlib import closing
from pathlib import Path

import numpy as np
import pytest

from lenskeep.core.recipes.models import FORMAT
from lenskeep.core.recipes.overrides import StepOverride
from lenskeep.files.reading.photo import read_photo
from lenskeep.store import assets, database, drafts, frames, health, jobs, looks, moves, scenes, shoots, walls
from lenskeep.store.database import Database, LibraryProblem
from lenskeep.studio import looks as giving
from lenskeep.studio.hand_over import deliver
from lenskeep.studio.library import Library
from lenskeep.studio.queue import make_runner
from tools.made_up import look_recipe

KEPT = Path(__file__).parent / "libraries"
KEYS = {
    "IMG_000.jpg": "26981ac90c96b85f7df481661390eb30",
    "IMG_001.jpg": "67f65a0c0e2066f8ada20664a0d092bb",
    "IMG_002.jpg": "6b632897ad67d3fc5fb74b1913217350",
}
"""Of the results of version 2's library; the same inputs must keep their keys, or every shoot is rendered anew."""


KEYS_3 = {
    "IMG_000.jpg": "510c87273497688366b6c0ad4966e84d",
    "IMG_001.jpg": "4d189724097e14601ea10173d2c99a05",
    "IMG_002.jpg": "78d58a924fd6a48e0b58274c1952e110",
    "IMG_003.jpg": "6d5eb286cbf513c0d31710cf6f356aa1",
}


@pytest.fixture
def version_2(tmp_path):
    with zipfile.ZipFile(KEPT / "version-2.zip") as bundle:
        bundle.extractall(tmp_path / "home")
    return Library(tmp_path / "home")


def version_1(path):
    with closing(sqlite3.connect(path)) as connection:
        connection.executescript((KEPT / "version-1.sql").read_text())
    return path


def test_a_library_of_version_1_opens_and_its_undo_goes_on(tmp_path):
    db = Database(version_1(tmp_path / "library.sqlite"))
    assert health.faults(db) == []
    assert shoots.shoots(db)[0].raw_base == "soft" and looks.look(db, 1).version.recipe == look_recipe()
    found = drafts.draft(db, 1)
    assert (found.undo, found.redo) == ("did 1", "did 2") and found.recipe == look_recipe(ev=0.1)
    drafts.push(db, 1, look_recipe(ev=0.9), "after the move")
    assert drafts.move(db, 1, -1) and drafts.move(db, 1, -1)
    assert drafts.draft(db, 1).recipe == look_recipe(ev=0.0)
    jobs.recover(db)
    assert [(i.attempts, s) for i, s in jobs.items(db, 1)] == [(0, "waiting")], "old stops cost nothing any more"


def test_before_a_migration_the_database_is_copied_beside_itself(tmp_path):
    path = version_1(tmp_path / "library.sqlite")
    Database(path)
    [copy] = [p for p in tmp_path.iterdir() if "as-of" in p.name]
    with closing(sqlite3.connect(copy)) as connection:
        assert connection.execute("SELECT count(*) FROM drafts").fetchone()[0] == 3, "as it was before"
        assert [r[0] for r in connection.execute("SELECT name FROM migrations")] == ["0001_library.sql"]
    Database(path)
    assert len([p for p in tmp_path.iterdir() if "as-of" in p.name]) == 1


def test_a_library_of_version_2_opens_with_the_same_results(version_2):
    db = version_2.db
    assert health.faults(db) == []
    rows = frames.frames(db, 1)
    assert {f.file_name: f.result_key for f in rows} == KEYS
    assert rows[1].override.steps["sky"] == StepOverride(strength=0.4)
    counts = walls.counts(db, 1)
    assert (counts.found, counts.finished, counts.stale) == (3, 3, 0), "nothing is rendered anew"
    draft = drafts.draft(db, 1)
    assert len(draft.recipe.steps) == 4 and draft.undo == "adding a step" and draft.redo == "a change"


def test_hand_overs_of_version_2_can_be_downloaded_and_finished(version_2):
    waiting, done = (j for j in jobs.jobs(version_2.db) if j.kind == deliver.KIND)
    old = deliver.old_zip(version_2, done)
    assert old is not None and len(zipfile.ZipFile(old).namelist()) == 4
    assert waiting.state == "queued"
    make_runner(version_2, 0).run_until_idle()
    ended = jobs.job(version_2.db, waiting.id)
    assert (ended.state, ended.done, len(deliver.packed(version_2, ended))) == ("done", 3, 5)


def test_a_library_of_a_newer_version_is_refused_and_left_alone(tmp_path):
    path = tmp_path / "library.sqlite"
    Database(path).reader.execute("INSERT INTO migrations VALUES ('0099_tomorrow.sql')")
    before = path.read_bytes()
    with pytest.raises(LibraryProblem, match="newer Lens Keep"):
        Database(path)
    assert path.read_bytes() == before


def test_a_migration_that_fails_leaves_the_library_as_it_was(tmp_path, monkeypatch):
    path = version_1(tmp_path / "library.sqlite")
    known = database.migrations()
    bad = [*known, ("0098_bad.sql", "CREATE TABLE fine (a);\nCREATE TABLE shoots (a);\n")]
    monkeypatch.setattr(database, "migrations", lambda: bad)
    with pytest.raises(LibraryProblem):
        Database(path)
    monkeypatch.setattr(database, "migrations", lambda: known)
    db = Database(path)
    assert shoots.shoots(db) and not db.reader.execute("SELECT 1 FROM sqlite_master WHERE name = 'fine'").fetchone()


def test_a_damaged_database_says_what_to_do(tmp_path):
    path = tmp_path / "library.sqlite"
    path.write_bytes(b"this is no database at all" * 400)
    with pytest.raises(LibraryProblem, match=r"damaged.*restore"):
        Database(path)
    (tmp_path / "file").write_text("in the way")
    with pytest.raises(LibraryProblem, match="can't be used"):
        Database(tmp_path / "file" / "library.sqlite")


@pytest.fixture
def version_3(tmp_path):
    with zipfile.ZipFile(KEPT / "version-3.zip") as bundle:
        bundle.extractall(tmp_path / "home")
    return Library(tmp_path / "home")


def test_a_library_of_version_3_opens_with_scenes_layers_and_the_same_results(version_3):
    db = version_3.db
    assert health.faults(db) == []
    [scene] = scenes.scenes(db, 1)
    rows = frames.frames(db, 1)
    assert {f.scene_id for f in rows} == {scene.id} and scene.key_frame_id == rows[0].id
    assert {f.file_name: f.result_key for f in rows} == KEYS_3
    assert all(f.finished for f in rows) and walls.counts(db, 1).stale == 0, "nothing is rendered anew"
    assert [f.doubtful for f in rows] == [False, False, False, False] and rows[2].accepted and rows[2].doubt
    assert rows[1].changed and rows[1].override.steps["sky"] == StepOverride(strength=0.4)
    look = looks.look(db, scene.id)
    assert [(e.version.name, e.strength) for e in look.layers] == [("Pier", 1.2)]


def test_recipes_of_version_3_are_brought_to_format_2_with_their_pictures_beside_them(version_3):
    db = version_3.db
    look = looks.look(db, scenes.first_scene(db, 1).id)
    recipe = look.version.recipe
    assert recipe.format == FORMAT and len(recipe.assets()) == 3
    assert set(assets.assets_of(db, recipe)) == recipe.assets()
    assert all(a.id for s in recipe.steps for a in s.adjustments) and recipe.steps[3].region.parts[0].id == "p1"
    told = [row["body"] for row in db.reader.execute("SELECT body FROM recipe_versions")]
    assert sum('"steps": 7' in body for body in told) == 1, "what can't be read stays as it was"
    draft = drafts.draft(db, scenes.first_scene(db, 1).id)
    assert draft.undo == "a change" and draft.redo == "a change" and draft.recipe.step("subject").strength == 0.6
    scene = scenes.first_scene(db, 1).id
    while drafts.move(db, scene, -1):
        assert drafts.draft(db, scene).recipe.assets() == recipe.assets()
    assert drafts.draft(db, scene).recipe == recipe
    held = {row[0] for row in db.reader.execute("SELECT DISTINCT sha256 FROM state_assets")}
    assert held == recipe.assets() and assets.unused(db, "9999") == []


def test_a_frame_of_version_3_that_is_rendered_again_looks_the_same(version_3):
    before = {f.id: read_photo(version_3.result(f.result_key)).pixels for f in frames.frames(version_3.db, 1)}
    look = looks.look(version_3.db, scenes.first_scene(version_3.db, 1).id)
    giving.give_look(version_3, 1, look.version.id, look.strength)
    assert walls.counts(version_3.db, 1).stale == 4, "keys are those of the plan from now on"
    assert make_runner(version_3, 0).run_until_idle()
    for frame in frames.frames(version_3.db, 1):
        assert frame.finished
        difference = np.abs(read_photo(version_3.result(frame.result_key)).pixels.astype(int) - before[frame.id])
        assert difference.max() <= 1, "the same, but for how another processor may round"


def test_the_queue_of_version_3_goes_on_with_what_it_was_queued_with(version_3):
    waiting = next(j for j in jobs.jobs(version_3.db) if j.state == "queued")
    assert (waiting.total, waiting.done) == (4, 0)
    make_runner(version_3, 0).run_until_idle()
    ended = jobs.job(version_3.db, waiting.id)
    assert (ended.state, ended.done, len(deliver.packed(version_3, ended))) == ("done", 4, 6)


def test_a_migration_that_is_killed_begins_anew(tmp_path, monkeypatch):
    with zipfile.ZipFile(KEPT / "version-3.zip") as bundle:
        bundle.extractall(tmp_path)

    def killed(*_):
        raise KeyboardInterrupt

    path = tmp_path / "library.sqlite"
    monkeypatch.setitem(moves.AFTER, "0004_scenes.sql", killed)
    with pytest.raises(KeyboardInterrupt):
        Database(path)
    monkeypatch.undo()
    db = Database(path)
    assert health.faults(db) == [] and len(frames.frames(db, 1)) == 4

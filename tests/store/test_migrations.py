"""Libraries of every earlier version open, with everything in them, and a copy of the database is kept beside."""

import sqlite3
import zipfile
from contextlib import closing
from pathlib import Path

import pytest

from lenskeep.core.recipes.overrides import StepOverride
from lenskeep.store import database, drafts, frames, health, jobs, recipes, shoots
from lenskeep.store.database import Database, LibraryProblem
from lenskeep.studio.hand_over import deliver
from lenskeep.studio.library import Library
from lenskeep.studio.queue import make_runner
from lenskeep.studio.standing import standing_of
from tools.made_up import look_recipe

KEPT = Path(__file__).parent / "libraries"
KEYS = {
    "IMG_000.jpg": "26981ac90c96b85f7df481661390eb30",
    "IMG_001.jpg": "67f65a0c0e2066f8ada20664a0d092bb",
    "IMG_002.jpg": "6b632897ad67d3fc5fb74b1913217350",
}
"""Of the results of version 2's library; the same inputs must keep their keys, or every shoot is rendered anew."""


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
    assert shoots.shoots(db)[0].raw_base == "soft" and recipes.look(db, 1).version.recipe == look_recipe()
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
    standing = standing_of(rows, recipes.look(db, 1))
    assert (standing.found, standing.finished, len(standing.stale)) == (3, 3, 0), "nothing is rendered anew"
    draft = drafts.draft(db, 1)
    assert len(draft.recipe.steps) == 4 and draft.undo == "adding a step" and draft.redo == "a change"


def test_hand_overs_of_version_2_can_be_downloaded_and_finished(version_2):
    waiting, done = (j for j in jobs.jobs(version_2.db) if j.kind == deliver.KIND)
    old = deliver.old_zip(version_2, done)
    assert old is not None and len(zipfile.ZipFile(old).namelist()) == 4
    assert waiting.state == "queued"
    make_runner(version_2, 0).run_until_idle()
    ended = jobs.job(version_2.db, waiting.id)
    assert (ended.state, ended.done, len(deliver.packed(version_2, ended))) == ("done", 3, 4)


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

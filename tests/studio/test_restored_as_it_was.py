"""A library that comes back from its backup is the library as it was, table by table and picture by picture; and
whatever was damaged meanwhile costs itself alone.
"""

import os
import shutil
import sqlite3
from contextlib import closing
from pathlib import Path

import pytest

from lenskeep.core.clean.models import Healed
from lenskeep.core.recipes.changes import AddStep
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.repairs.models import Emptied
from lenskeep.files.written import sum_of
from lenskeep.store import assets, frames, recipes, scenes
from lenskeep.studio import applying, cleaning, keeping, looks, many, own_steps, placing, repairing
from lenskeep.studio.bench import draft as bench
from lenskeep.studio.bench import history
from lenskeep.studio.book import shelves
from lenskeep.studio.hand_over import deliver
from lenskeep.studio.keeping.looking import to_look_at
from lenskeep.studio.library import Library
from lenskeep.studio.queue import make_runner
from tests.core.adjustments import strong
from tests.studio.doing import asked
from tools.made_up import ASSETS, look_recipe, ready_shoot

AGAIN = {"counters", "job_items", "jobs", "standings"}
"""What queueing the pictures again changes: what was in these is there still, and more."""
OF_PICTURES = {
    "result_key",
    "missing",
    "touched",
    "found_at",
    "guards",
    "pull",
    "finished",
    "stale",
    "warned",
    "in_question",
    "doubtful",
}


def run(library):
    assert make_runner(library, 0).run_until_idle()


def lived_in(library, folder):
    """Six frames in three scenes with two layers, one and none, and something of all that can be done to them."""
    shoot = ready_shoot(library, folder, 6)
    own = [f.id for f in frames.summaries(library.db, shoot)]
    first = scenes.first_scene(library.db, shoot)
    second, third = (placing.new_scene(library, shoot, ids) for ids in (own[2:4], own[4:]))
    laid = Recipe.model_validate({"name": "Laid over", "steps": [{"id": "a", "adjustments": [strong("overlay")]}]})
    assets.keep_assets(library.db, {key: ASSETS[key] for key in laid.assets()})
    low = recipes.save_recipe(library.db, look_recipe("Low", 0.9))
    high, over = recipes.save_recipe(library.db, look_recipe("High", -0.4)), recipes.save_recipe(library.db, laid)
    looks.give_layers(library, shoot, [(low.id, 0.7), (over.id, 1.0)], scene_ids=[first.id])
    looks.give_layers(library, shoot, [(high.id, 1.0), (low.id, 0.5, False)], scene_ids=[second])
    placing.rename(library, third, "Without a look")
    own_steps.add(library, own[0], high.id, 0.6)
    repairing.repair(library, own[1], Emptied(mask="subject"))
    cleaning.mark(library, own[4], [Healed(points=((0.3, 0.3),), size=0.05)])
    many.do(library, shoot, own[2:5], asked(what="rate", rating=4))
    many.do(library, shoot, own[:1], asked(what="base", values={"ev": 0.5}))
    many.do(library, shoot, own[5:], asked(what="reject"))
    bench.change(library, first.id, AddStep(where="sky", what="exposure"))
    history.name(library, first.id, "With a sky")
    bench.change(library, first.id, AddStep(where="subject", what="exposure"))
    bench.undo(library, first.id)
    shelves.file_under(library, low.recipe_id, "Evenings", "warm soft")
    applying.queue_stale(library, shoot, own)
    run(library)
    deliver.queue_delivery(library, shoot, deliver.DeliveryOptions())
    run(library)
    return shoot


def tables(library):
    """Every row of every table, by table."""
    with closing(sqlite3.connect(library.db.path)) as connection:
        connection.row_factory = sqlite3.Row
        names = [r[0] for r in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table' ORDER BY name")]
        return {
            name: sorted((dict(row) for row in connection.execute(f"SELECT * FROM {name}")), key=repr) for name in names
        }


def pictures(library, shoot):
    rows = frames.frames(library.db, shoot)
    return {f.file_name: sum_of(library.result(f.result_key)) for f in rows if f.result_key}


def without(rows, names):
    return [{k: v for k, v in row.items() if k not in names} for row in rows]


@pytest.fixture
def shoot(library, tmp_path):
    return lived_in(library, tmp_path / "card")


def test_every_table_is_the_same_and_so_is_every_picture(library, shoot, tmp_path):
    before, seen = tables(library), pictures(library, shoot)
    assert len(seen) >= 5, "frames with a look, and one with a base alone"
    assert keeping.backup(library, tmp_path / "copy").wrong == []
    again = Library(tmp_path / "again")
    assert keeping.restore(tmp_path / "copy", again).wrong == []
    at_once = tables(again)
    assert at_once.keys() == before.keys()
    for name in before.keys() - AGAIN - {"frames"}:
        assert at_once[name] == before[name], name
    for now, then in zip(at_once["frames"], before["frames"], strict=True):
        assert {k for k in now if now[k] != then[k]} <= OF_PICTURES
    for name in ("jobs", "job_items"):
        assert all(row in at_once[name] for row in before[name]), name
    run(again)
    after = tables(again)
    assert without(after["frames"], {"touched"}) == without(before["frames"], {"touched"})
    assert pictures(again, shoot) == seen
    # what a hand-over had left in the library to be fetched is made again by handing over once more, which is said
    assert [w for w in keeping.verify(again).wrong if "hand-over" not in w] == []


def test_it_finds_no_mask_anew_that_the_copy_holds_and_every_one_that_it_lacks(library, shoot, tmp_path):
    keeping.backup(library, tmp_path / "copy")
    whole, bare = Library(tmp_path / "whole"), Library(tmp_path / "bare")
    keeping.restore(tmp_path / "copy", whole)
    shutil.rmtree(tmp_path / "copy" / "computed")
    keeping.restore(tmp_path / "copy", bare)
    for library_, wanted in ((whole, 0), (bare, 6)):
        asked_for = [r for r in tables(library_)["jobs"] if r["kind"] == "find" and r["state"] == "queued"]
        assert sum(row["total"] for row in asked_for) == wanted


def flip(path):
    """One byte in the middle of a file becomes another."""
    path.chmod(0o644)
    data = bytearray(path.read_bytes())
    data[len(data) // 2] ^= 0xFF
    path.write_bytes(data)


def truncate(path):
    path.chmod(0o644)
    path.write_bytes(path.read_bytes()[: path.stat().st_size // 2])


DAMAGES = {"byte": flip, "gone": lambda path: path.unlink(), "truncated": truncate}


def one_of(home, what):
    return next(iter(sorted((home / what).glob("??/*"))))


@pytest.mark.parametrize("where", ["library", "backup"])
@pytest.mark.parametrize("what", ["originals", "assets"])
@pytest.mark.parametrize("how", DAMAGES)
def test_a_damaged_file_costs_itself_alone_and_is_listed(library, shoot, tmp_path, where, what, how):
    before, names = tables(library), {p.name for p in (library.home / what).glob("??/*")}
    copy, again = tmp_path / "copy", Library(tmp_path / "again")
    if where == "backup":
        assert keeping.backup(library, copy).wrong == []
    bad = one_of(library.home if where == "library" else copy, what)
    DAMAGES[how](bad)
    told = keeping.backup(library, copy).wrong if where == "library" else keeping.restore(copy, again).wrong
    assert len(told) == 1 and str(bad) in told[0]
    if where == "library":
        keeping.restore(copy, again)
    assert {p.name for p in (again.home / what).glob("??/*")} == names - {bad.name}
    after = tables(again)
    for name in before.keys() - AGAIN - {"frames"}:
        assert after[name] == before[name], name


@pytest.mark.parametrize("how", DAMAGES)
def test_a_backup_mends_what_is_damaged_in_the_copy(library, shoot, tmp_path, how):
    copy = tmp_path / "copy"
    keeping.backup(library, copy)
    for what in ("originals", "assets"):
        DAMAGES[how](one_of(copy, what))
    assert keeping.backup(library, copy).wrong == []
    for what in ("originals", "assets"):
        assert {p.name for p in (copy / what).glob("??/*")} == {p.name for p in (library.home / what).glob("??/*")}
        assert all(sum_of(p) == p.name[:64] for p in (copy / what).glob("??/*"))


def spoil_pages(path, table):
    """Overwrite a leaf page of a table's rows with what is no page."""
    with closing(sqlite3.connect(path)) as connection:
        connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        size = connection.execute("PRAGMA page_size").fetchone()[0]
        [(page,)] = connection.execute("SELECT rootpage FROM sqlite_master WHERE name = ?", (table,)).fetchall()
    with path.open("r+b") as handle:
        handle.seek((page - 1) * size)
        handle.write(b"\xaa" * size)


@pytest.mark.parametrize("table", ["refusals", "deeds", "recipe_versions", "frames_in_order"])
def test_a_damaged_page_of_the_backups_database_costs_its_rows_alone(library, shoot, tmp_path, table):
    before = tables(library)
    keeping.backup(library, tmp_path / "copy")
    spoil_pages(tmp_path / "copy" / "library.sqlite", table)
    again = Library(tmp_path / "again")
    told = " ".join(keeping.restore(tmp_path / "copy", again).wrong)
    assert "damaged" in told
    after = tables(again)
    leaning = {"deeds": {"deed_frames"}, "recipe_versions": {"layers", "version_assets", "recipes", "draft_cursors"}}
    lost = {table, *leaning.get(table, ())}
    for name in before.keys() - AGAIN - {"frames"} - lost:
        assert after[name] == before[name], name
    assert len(after["frames"]) == len(before["frames"]) and keeping.verify(again).wrong is not None
    assert not [w for w in keeping.verify(again).wrong if w.startswith("Database")]
    for name in lost & before.keys():
        if len(after[name]) < len(before[name]):
            assert f"“{name}”" in told


def test_a_database_that_cannot_be_read_at_all_gives_way_to_the_one_before(library, shoot, tmp_path):
    keeping.backup(library, tmp_path / "copy")
    many.do(library, shoot, [frames.summaries(library.db, shoot)[0].id], asked(what="rate", rating=1))
    keeping.backup(library, tmp_path / "copy")
    (tmp_path / "copy" / "library.sqlite").write_bytes(b"nothing" * 500)
    again = Library(tmp_path / "again")
    told = " ".join(keeping.restore(tmp_path / "copy", again).wrong)
    assert "can't be read" in told and "the backup before" in told
    assert frames.summaries(again.db, shoot)[0].rating == 0 and len(frames.summaries(again.db, shoot)) == 6


def test_a_damaged_library_is_backed_up_as_far_as_it_can_be_read(library, shoot, tmp_path):
    copy = tmp_path / "damaged"
    library.db.copy_to(tmp_path / "whole.sqlite")
    copy.mkdir()
    shutil.copytree(library.home / "originals", copy / "originals")
    shutil.copytree(library.home / "assets", copy / "assets")
    shutil.copyfile(tmp_path / "whole.sqlite", copy / "library.sqlite")
    spoil_pages(copy / "library.sqlite", "deeds")
    done = keeping.backup(Library(copy), tmp_path / "copy")
    assert any("damaged" in words for words in done.wrong) and done.originals == 6
    again = Library(tmp_path / "again")
    assert keeping.restore(tmp_path / "copy", again).wrong == []
    assert tables(again)["scenes"] == tables(library)["scenes"]


def test_masks_that_are_truncated_black_or_of_another_shape_are_told(library, shoot):
    import numpy as np

    from lenskeep.files.masks import mask_bytes, read_mask

    assert keeping.verify(library).wrong == []
    one, two, three = frames.frames(library.db, shoot)[:3]
    truncate(library.computed(one.content).mask("subject"))
    sky = library.computed(two.content).mask("sky")
    sky.write_bytes(mask_bytes(np.zeros_like(read_mask(sky))))
    animals = library.computed(three.content).mask("animals")
    animals.write_bytes(mask_bytes(np.full((50, 50), 255, np.uint8)))
    told = keeping.verify(library).wrong
    for frame, words in ((one, "damaged"), (two, "black"), (three, "another picture’s shape")):
        assert [frame.file_name in w for w in told if words in w] == [True]
    assert len(told) == 3


def test_a_library_that_cannot_be_written_to_is_looked_through_and_backed_up(library, tmp_path, monkeypatch):
    """Nothing in it changes, not even a journal beside the database; what was written last is in one, and is copied."""
    ready_shoot(library, tmp_path / "card", 2)
    journal = library.db.path.with_name("library.sqlite-wal")
    assert journal.stat().st_size > 0
    monkeypatch.setattr(
        os, "access", lambda path, mode: not (mode & os.W_OK and Path(path).is_relative_to(library.home))
    )
    before = {str(p): p.is_dir() or sum_of(p) for p in library.home.rglob("*")}
    with to_look_at(library.home) as held:
        assert keeping.verify(held).wrong == []
        assert keeping.backup(held, tmp_path / "copy").originals == 2
    assert {str(p): p.is_dir() or sum_of(p) for p in library.home.rglob("*")} == before
    monkeypatch.undo()
    again = Library(tmp_path / "again")
    assert keeping.restore(tmp_path / "copy", again).originals == 2
    assert len(frames.frames(again.db, 1)) == 2

"""A library is copied, brought back and looked through; what is wrong with it is said."""

import sqlite3
from contextlib import closing

import pytest

from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.recipes.overrides import StepOverride
from lenskeep.store import assets, frames, recipes, references, shoots
from lenskeep.studio import applying, keeping, looks
from lenskeep.studio.bench import draft as bench
from lenskeep.studio.hand_over import deliver
from lenskeep.studio.library import Library
from lenskeep.studio.queue import make_runner
from tests.asked import asked
from tests.core.adjustments import strong
from tools.made_up import ASSETS, look_recipe, ready_shoot, write_photo


@pytest.fixture
def shoot(library, tmp_path):
    shoot = ready_shoot(library, tmp_path / "card", 3)
    version = recipes.save_recipe(library.db, look_recipe())
    looks.give_look(library, shoot, version.id, 0.8)
    make_runner(library, 0).run_until_idle()
    return shoot


def rows(library, shoot):
    return frames.frames(library.db, shoot)


def test_a_library_comes_back_from_its_copy_and_renders_the_same(library, shoot, tmp_path):
    changed = rows(library, shoot)[1]
    looks.change_frame(library, changed.id, step_id="sky", step=StepOverride(strength=0.3))
    applying.render_frame(library, changed.id)
    bench.change(library, shoot, asked("set", {"values": {"strength": 0.5}}))
    assert keeping.backup(library, tmp_path / "copy").originals == 3
    again = Library(tmp_path / "again")
    assert keeping.restore(tmp_path / "copy", again).originals == 3
    make_runner(again, 0).run_until_idle()
    assert keeping.verify(again).wrong == []
    for old, new in zip(rows(library, shoot), rows(again, shoot), strict=True):
        assert (old.file_name, old.override, old.accepted) == (new.file_name, new.override, new.accepted)
        assert (
            again.original(new.sha256, new.suffix).read_bytes() == library.original(old.sha256, old.suffix).read_bytes()
        )
        assert new.result_key == old.result_key and again.result(new.result_key).is_file()
    assert bench.draft(again, shoot).recipe == bench.draft(library, shoot).recipe


def test_a_second_backup_copies_what_is_new_only(library, shoot, tmp_path):
    from lenskeep.studio import bring_in

    keeping.backup(library, tmp_path / "copy")
    before = {p: p.stat().st_mtime_ns for p in (tmp_path / "copy" / "originals").rglob("*") if p.is_file()}
    bring_in.receive(library, shoot, write_photo(tmp_path / "new.jpg", 77), "new.jpg")
    assert keeping.backup(library, tmp_path / "copy").originals == 1
    assert {p: p.stat().st_mtime_ns for p in before} == before
    with closing(sqlite3.connect(tmp_path / "copy" / "library.sqlite")) as connection:
        assert connection.execute("SELECT count(*) FROM frames").fetchone()[0] == 4


def test_nothing_of_somebody_else_is_written_over(library, shoot, tmp_path):
    (tmp_path / "holiday").mkdir()
    (tmp_path / "holiday" / "library.sqlite").write_text("something else")
    for folder, words in ((tmp_path / "holiday", "other things"), (library.home / "copy", "outside of the library")):
        with pytest.raises(UserProblem, match=words):
            keeping.backup(library, folder)
    assert (tmp_path / "holiday" / "library.sqlite").read_text() == "something else"
    keeping.backup(library, tmp_path / "copy")
    with pytest.raises(UserProblem, match="already"):
        keeping.restore(tmp_path / "copy", library)
    with pytest.raises(UserProblem, match="not a backup"):
        keeping.restore(tmp_path / "holiday", Library(tmp_path / "again"))


def test_whatever_is_wrong_is_said(library, shoot):
    version = recipes.save_recipe(library.db, look_recipe("Bad"))
    deliver.queue_delivery(library, shoot, deliver.DeliveryOptions())
    make_runner(library, 0).run_until_idle()
    assert keeping.verify(library).wrong == []
    first, second, third = rows(library, shoot)
    library.original(first.sha256, first.suffix).unlink()
    spoilt = library.original(second.sha256, second.suffix)
    spoilt.chmod(0o644)
    spoilt.write_bytes(b"x")
    library.computed(third.content).mask("sky").unlink()
    next(library.home.glob("deliveries/*/files/*.jpg")).unlink()
    (library.home / "originals" / "ab").mkdir(exist_ok=True)
    (library.home / "originals" / "ab" / "abandoned").write_bytes(b"x")
    with library.db.writing() as write:
        write.execute("UPDATE recipe_versions SET body = '{' WHERE id = ?", (version.id,))
        write.execute("UPDATE frames SET override = '{' WHERE id = ?", (first.id,))
    report = keeping.verify(library)
    said = "\n".join(report.wrong)
    for words in (
        "is gone. Bring",
        "was altered",
        "masks are gone",
        "lacks 1 of its files",
        "Bad, version 1",
        "by hand",
    ):
        assert words in said
    assert (report.originals, report.frames, report.left_over, len(report.wrong)) == (3, 3, 1, 6)


def test_a_row_that_refers_to_nothing_is_found(library, shoot):
    with closing(sqlite3.connect(library.db.path)) as connection:
        connection.execute("INSERT INTO layers VALUES (99, 99, 1, 99, 1.0, 1, '')")
        connection.commit()
    assert any("is gone" in words for words in keeping.verify(library).wrong)
    assert shoots.shoots(library.db)


def with_pictures(library):
    """A recipe that refers to a picture, and the file it refers to."""
    steps = [{"id": "a", "adjustments": [strong("overlay")]}]
    recipe = Recipe.model_validate({"name": "Laid over", "steps": steps})
    assets.keep_assets(library.db, {key: ASSETS[key] for key in recipe.assets()})
    recipes.save_recipe(library.db, recipe)
    return recipe, assets.asset_path(library.db, next(iter(recipe.assets())))


def test_what_recipes_refer_to_is_copied_and_comes_back(library, shoot, tmp_path):
    recipe, path = with_pictures(library)
    keeping.backup(library, tmp_path / "copy")
    again = Library(tmp_path / "again")
    keeping.restore(tmp_path / "copy", again)
    assert assets.assets_of(again.db, recipe) == {path.name: path.read_bytes()}
    assert keeping.verify(library).assets == 1 and not any("recipe" in w for w in keeping.verify(again).wrong)


@pytest.mark.parametrize("what", ["gone", "altered"])
def test_a_lost_picture_of_a_recipe_is_said_and_keeps_no_photograph_waiting(library, shoot, tmp_path, what):
    _, path = with_pictures(library)
    path.unlink()
    if what == "altered":
        path.write_bytes(b"something else")
    assert any(what in w and path.name in w for w in keeping.verify(library).wrong)
    done = keeping.backup(library, tmp_path / "copy")
    assert done.originals == 3
    assert [path.name in words for words in done.wrong] == [True]
    again = Library(tmp_path / "again")
    assert keeping.restore(tmp_path / "copy", again).originals == 3


def test_a_copy_from_before_there_were_assets_comes_back(library, shoot, tmp_path):
    import zipfile

    with zipfile.ZipFile("tests/store/libraries/version-3.zip") as kept:
        kept.extractall(tmp_path / "old")
    old = next(p.parent for p in (tmp_path / "old").rglob("library.sqlite"))
    (old / keeping.MARK).write_text("{}")
    again = Library(tmp_path / "again")
    assert keeping.restore(old, again).originals == len(references.originals_in(old / "library.sqlite")) > 0
    wrong = keeping.verify(again).wrong
    assert not any("original" in words or "picture or table" in words for words in wrong), wrong
    assert list((again.home / "assets").rglob("*")), "what stood inside the recipes is a file each now"

"""What was removed never lends its id to something else: jobs, folders, pages and memories go by ids."""

import pytest

from lenskeep.store import arrivals, frames, jobs, looks, recipes, shoots
from lenskeep.store.ids import fresh
from lenskeep.studio import looks as giving
from lenskeep.studio import removing
from lenskeep.studio.queue import make_runner
from tools.made_up import look_recipe, ready_shoot

FILE = {"suffix": ".jpg", "size": 1, "width": 3, "height": 2, "taken_at": None}


def add_frame(db, shoot, number):
    return arrivals.add_frame(db, shoot, file_name=f"{number}.jpg", sha256=f"{number:064x}", **FILE)


def test_the_newest_of_every_table_goes_and_the_next_has_an_id_of_its_own(library):
    db = library.db
    shoot, later = shoots.add_shoot(db, "One"), shoots.add_shoot(db, "Two")
    scene = db.reader.execute("SELECT max(id) FROM scenes").fetchone()[0]
    frame, job = add_frame(db, later, 1), jobs.add_job(db, "find", later, [])
    version = recipes.save_recipe(db, look_recipe("Evening"))
    shoots.remove_shoot(db, later)
    assert recipes.remove_version(db, version.id) and jobs.job(db, job) is None
    assert shoots.add_shoot(db, "Three") > later
    assert db.reader.execute("SELECT max(id) FROM scenes").fetchone()[0] > scene
    assert add_frame(db, shoot, 2) > frame and jobs.add_job(db, "find", shoot, []) > job
    again = recipes.save_recipe(db, look_recipe("Morning"))
    assert again.id > version.id and again.recipe_id > version.recipe_id


def test_a_file_that_is_there_already_leaves_no_trace(library):
    shoot = shoots.add_shoot(library.db, "One")
    first = add_frame(library.db, shoot, 7)
    assert add_frame(library.db, shoot, 7) is None and add_frame(library.db, shoot, 8) > first


@pytest.mark.parametrize("table", ["shoots", "scenes", "frames", "jobs", "recipes", "recipe_versions"])
def test_rows_of_an_older_library_are_counted_from(library, table):
    shoot = shoots.add_shoot(library.db, "One")
    add_frame(library.db, shoot, 1)
    jobs.add_job(library.db, "find", shoot, [])
    recipes.save_recipe(library.db, look_recipe())
    with library.db.writing() as write:  # as a migration leaves it
        write.execute("UPDATE counters SET n = 0 WHERE name = ?", (f"id of {table}",))
        newest = write.execute(f"SELECT max(id) FROM {table}").fetchone()[0]
        assert fresh(write, table) == newest + 1
        assert fresh(write, table) == newest + 2


def test_a_look_after_a_shoot_was_removed_is_that_shoots_own(library, tmp_path):
    """The queue remembers looks by job and scene; it once took another shoot's for one with the same ids."""
    runner = make_runner(library, 0)
    for number, ev in enumerate((0.5, -0.5)):
        shoot = ready_shoot(library, tmp_path / f"card-{number}", 2)
        version = recipes.save_recipe(library.db, look_recipe("Evening", ev))
        giving.give_look(library, shoot, version.id, 1.0)
        assert runner.run_until_idle()
        assert all(f.finished for f in frames.summaries(library.db, shoot)), looks.look(library.db, shoot)
        if number == 0:
            removing.remove_shoot(library, shoot)
            with library.db.writing() as write:  # also where nothing else was queued meanwhile
                write.execute("DELETE FROM jobs")

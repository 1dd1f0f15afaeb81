"""Seeding the demo: the shoot is brought in, its masks are found, and the recipe is applied, once."""

from collections.abc import Callable
from importlib.resources import as_file, files

from lenskeep.files.recipes import recipe_from_json
from lenskeep.store import recipes, shoots
from lenskeep.studio import bring_in, finding, looks
from lenskeep.studio.engine_room import make_runner
from lenskeep.studio.library import Library

SHOOT = "Terriers at the ferry pier"


def seed(library: Library, say: Callable[[str], None]) -> bool:
    """Queue everything the demo needs; False when the library has the demo already.

    The queue is left to the caller's runner.
    """
    if shoots.shoot_by_name(library.db, SHOOT) is not None:
        return False
    shoot_id = bring_in.create_shoot(library, SHOOT)
    with as_file(files("lenskeep.demo") / "ferry-dogs") as folder:
        received = bring_in.receive_folder(library, shoot_id, folder)
    say(f"{len(received.frame_ids)} made-up photographs brought in")
    finding.queue_finding(library, shoot_id)
    text = (files("lenskeep.demo") / "pier-evening.json").read_text("utf-8")
    saved = recipes.save_recipe(library.db, recipe_from_json(text))
    looks.give_look(library, shoot_id, saved.id, 1.0)
    return True


def ready(library: Library, say: Callable[[str], None]) -> int:
    """The demo shoot's id, seeded and worked through in this process if it is not there yet."""
    if seed(library, say):
        make_runner(library).run_until_idle()
    shoot = shoots.shoot_by_name(library.db, SHOOT)
    assert shoot is not None
    return shoot.id

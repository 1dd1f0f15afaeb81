"""Seeding the demo, once: one shoot with its look applied, one half done, one with masks and nothing else."""

from collections.abc import Callable
from dataclasses import dataclass, field
from importlib.resources import as_file, files

from lenskeep.files.recipes import recipe_from_json
from lenskeep.store import frames, scenes, shoots
from lenskeep.studio import bring_in, looks
from lenskeep.studio.book.take_in import take_in
from lenskeep.studio.library import Library
from lenskeep.studio.queue import make_runner


@dataclass(frozen=True)
class DemoShoot:
    """A shoot of the demo, and how far somebody has come with it.

    ``recipe`` is applied to the frames whose names start with one of ``applied`` ("" is all); ``accepted`` doubtful
    frames were looked at, ``weaker`` ones have a strength of their own.
    """

    title: str
    folder: str
    key: str
    recipe: str = ""
    applied: tuple[str, ...] = ()
    accepted: tuple[str, ...] = ()
    weaker: dict[str, float] = field(default_factory=dict)


FERRY = DemoShoot("Terriers at the ferry pier", "ferry-dogs", "LKD_0101", "pier-evening", ("",))
DUNES = DemoShoot(
    "Wedding on the dunes",
    "dune-wedding",
    "DUN_0310",
    "dunes-quiet",
    ("DUN_030", "DUN_031", "DUN_032"),
    ("DUN_0301", "DUN_0326"),
    {"DUN_0311": 0.7},
)
STUDIO = DemoShoot("Backdrop studio, small pets", "backdrop-studio", "BST_0501")
SHOOTS = (FERRY, DUNES, STUDIO)
"""In the order in which their masks are found."""


def seed(library: Library, say: Callable[[str], None]) -> bool:
    """Queue everything the demo needs; False when the library has the demo already.

    The queue is left to the caller's runner.
    """
    if shoots.shoot_by_name(library.db, FERRY.title) is not None:
        return False
    # the newest shoot stands on top of the list, and that should be the one with most to see
    ids = {one.title: bring_in.create_shoot(library, one.title) for one in reversed(SHOOTS)}
    for one in SHOOTS:
        _bring_in(library, ids[one.title], one)
    say(f"{sum(len(frames.summaries(library.db, i)) for i in ids.values())} made-up photographs brought in")
    for one in SHOOTS:
        if one.recipe:
            _give_look(library, ids[one.title], one)
    return True


def _bring_in(library: Library, shoot_id: int, one: DemoShoot) -> None:
    with as_file(files("lenskeep.demo") / one.folder) as folder:
        bring_in.receive_folder(library, shoot_id, folder)
    for frame in frames.summaries(library.db, shoot_id):
        name = frame.file_name.removesuffix(".jpg")
        if name == one.key:
            scenes.set_key_frame(library.db, frame.scene_id, frame.id)
        if name in one.accepted:
            frames.set_accepted(library.db, frame.id, True)
        if name in one.weaker:
            looks.change_frame(library, frame.id, strength=one.weaker[name])


def _give_look(library: Library, shoot_id: int, one: DemoShoot) -> None:
    text = (files("lenskeep.demo") / f"{one.recipe}.json").read_text("utf-8")
    saved = take_in(library, recipe_from_json(text))
    chosen = [f.id for f in frames.summaries(library.db, shoot_id) if f.file_name.startswith(one.applied)]
    looks.give_look(library, shoot_id, saved.id, 1.0, chosen)


def ready(library: Library, say: Callable[[str], None]) -> int:
    """The first demo shoot's id, with all three seeded and worked through in this process if they are not there yet."""
    if seed(library, say):
        make_runner(library).run_until_idle()
    shoot = shoots.shoot_by_name(library.db, FERRY.title)
    assert shoot is not None
    return shoot.id

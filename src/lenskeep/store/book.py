"""The book's own order: names, sets, tags, where a recipe is used, what goes, what can't be read and is kept."""

from dataclasses import dataclass

from lenskeep.core.problems import UserProblem
from lenskeep.store.database import Database
from lenskeep.store.recipes import Kind, add_version, entered


@dataclass(frozen=True)
class Use:
    """A scene that has a version of a recipe in its look; ``key`` is its key frame."""

    scene_id: int
    scene: str
    shoot_id: int
    shoot: str
    version: int
    version_id: int
    key: int | None


def uses(db: Database, recipe_id: int) -> list[Use]:
    """The scenes that a recipe's versions are a layer of."""
    sql = """
        SELECT c.id, c.name AS scene, s.id AS shoot_id, s.name AS shoot, v.version, v.id AS version_id,
            c.key_frame_id
        FROM layers l JOIN recipe_versions v ON v.id = l.version_id JOIN scenes c ON c.id = l.scene_id
        JOIN shoots s ON s.id = c.shoot_id WHERE v.recipe_id = ? ORDER BY s.name, c.place
    """
    return [
        Use(r["id"], r["scene"], r["shoot_id"], r["shoot"], r["version"], r["version_id"], r["key_frame_id"])
        for r in db.reader.execute(sql, (recipe_id,))
    ]


def rename(db: Database, recipe_id: int, name: str) -> None:
    """Raises UserProblem where another one has the name."""
    with db.writing() as write:
        if write.execute("SELECT 1 FROM recipes WHERE name = ? AND id <> ?", (name, recipe_id)).fetchone():
            raise UserProblem(f"“{name}” is in the book already. Choose another name.")
        write.execute("UPDATE recipes SET name = ? WHERE id = ?", (name, recipe_id))


def file_under(db: Database, recipe_id: int, shelf: str, tags: str) -> None:
    with db.writing() as write:
        write.execute("UPDATE recipes SET shelf = ?, tags = ? WHERE id = ?", (shelf, tags, recipe_id))


def remove(db: Database, recipe_id: int) -> None:
    """Take a recipe out of the book with all its versions. Nothing must use it."""
    with db.writing() as write:
        write.execute("DELETE FROM recipe_versions WHERE recipe_id = ?", (recipe_id,))
        write.execute("DELETE FROM recipes WHERE id = ?", (recipe_id,))


def keep_unread(db: Database, name: str, kind: Kind, body: str, shelf: str) -> None:
    """Keep what can't be read as it is: a later version may read it. Where something of its name is in the book already
    it gets a name of its own, since it must not stand before what can be read.
    """
    with db.writing() as write:
        own, number = name, 1
        while write.execute("SELECT 1 FROM recipes WHERE name = ?", (own,)).fetchone():
            number += 1
            own = f"{name[:70]} ({number})"
        recipe_id, _ = entered(write, own, kind, shelf)
        add_version(write, recipe_id, body)

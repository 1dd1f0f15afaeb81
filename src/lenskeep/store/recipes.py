"""The book: recipes and effects, and their versions."""

import sqlite3
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.models import Recipe
from lenskeep.store.assets import note_use
from lenskeep.store.bodies import Kept, body_of, read_body
from lenskeep.store.clock import now
from lenskeep.store.database import Database
from lenskeep.store.ids import fresh

Kind = Literal["recipe", "effect"]
KINDS: tuple[Kind, ...] = ("recipe", "effect")


@dataclass(frozen=True)
class RecipeVersion(Kept):
    """One saved version of a recipe, read when its ``recipe`` is asked for; of an effect, a recipe of one step.
    ``shelf`` is the set that it lies in, "" for none, ``tags`` are words between spaces.
    """

    id: int
    recipe_id: int
    name: str
    version: int
    created_at: str
    kind: Kind = "recipe"
    shelf: str = ""
    tags: str = ""

    @cached_property
    def recipe(self) -> Recipe:
        """By the name that it has in the book, whatever it was called when it was saved. Raises UnreadableRecipe."""
        kept = read_body(self.body)
        return kept if kept.name == self.name else kept.model_copy(update={"name": self.name})


_SELECT = """
    SELECT v.id, v.recipe_id, r.name, v.version, v.created_at, v.body, r.kind, r.shelf, r.tags
    FROM recipe_versions v JOIN recipes r ON r.id = v.recipe_id
"""


def save_recipe(db: Database, recipe: Recipe, kind: Kind = "recipe", shelf: str = "") -> RecipeVersion:
    """Save under its name: version 1 of a new recipe, or the next version. An unchanged one makes no new version.

    Its assets must be in the library (``assets.keep_assets``). Raises UserProblem when they are not, when it is too
    long to be kept, or when its name is that of an effect, and the other way round. A new one goes on a ``shelf``.
    """
    with db.writing() as write:
        body = body_of(recipe)
        recipe_id, held = entered(write, recipe.name, kind, shelf)
        if held != kind:
            other = "An effect" if held == "effect" else "A recipe"
            raise UserProblem(f"{other} in the book is called “{recipe.name}”. Choose another name.")
        newest = "SELECT id, body FROM recipe_versions WHERE recipe_id = ? ORDER BY version DESC LIMIT 1"
        last = write.execute(newest, (recipe_id,)).fetchone()
        if last and last["body"] == body:
            version_id = int(last["id"])
        else:
            version_id = add_version(write, recipe_id, body)
            note_use(db, "version_assets", "version_id", version_id, recipe)
        saved = version(db, version_id)
        assert saved is not None
        return saved


def entered(write: sqlite3.Connection, name: str, kind: Kind, shelf: str) -> tuple[int, Kind]:
    """(id, kind) of what the book holds by a name; where it holds nothing, a new one without versions."""
    row = write.execute("SELECT id, kind FROM recipes WHERE name = ?", (name,)).fetchone()
    if row:
        return int(row["id"]), row["kind"]
    recipe_id = fresh(write, "recipes")
    sql = "INSERT INTO recipes (id, name, created_at, kind, shelf) VALUES (?, ?, ?, ?, ?)"
    write.execute(sql, (recipe_id, name, now(), kind, shelf))
    return recipe_id, kind


def add_version(write: sqlite3.Connection, recipe_id: int, body: str) -> int:
    """A body as the newest version; returns its id."""
    sql = """
        INSERT INTO recipe_versions (id, recipe_id, version, body, created_at)
        SELECT ?4, ?1, coalesce(max(version), 0) + 1, ?2, ?3 FROM recipe_versions WHERE recipe_id = ?1
    """
    version_id = fresh(write, "recipe_versions")
    write.execute(sql, (recipe_id, body, now(), version_id))
    return version_id


def remove_version(db: Database, version_id: int) -> bool:
    """Remove a version that no shoot uses as its look; its recipe too when none is left. False when one uses it."""
    with db.writing() as write:
        if write.execute("SELECT 1 FROM layers WHERE version_id = ?", (version_id,)).fetchone():
            return False
        row = write.execute("SELECT recipe_id FROM recipe_versions WHERE id = ?", (version_id,)).fetchone()
        write.execute("DELETE FROM recipe_versions WHERE id = ?", (version_id,))
        if row:
            sql = (
                "DELETE FROM recipes WHERE id = ?1 AND NOT EXISTS (SELECT 1 FROM recipe_versions WHERE recipe_id = ?1)"
            )
            write.execute(sql, (row["recipe_id"],))
        return True


def version(db: Database, version_id: int) -> RecipeVersion | None:
    row = db.reader.execute(_SELECT + " WHERE v.id = ?", (version_id,)).fetchone()
    return RecipeVersion(**dict(row)) if row else None


def version_at(db: Database, key: str) -> RecipeVersion | None:
    """The version whose number is given as text; None for any other text."""
    return version(db, int(key)) if key.isdecimal() and len(key) < 19 else None


def versions(db: Database, recipe_id: int | None = None, *kinds: Kind) -> list[RecipeVersion]:
    """Those of one recipe or effect, or all of some kinds, kind by kind, else of recipes; by name, the newest version
    first.
    """
    if recipe_id is not None:
        return _chosen(db, "v.recipe_id = ? ORDER BY v.version DESC", recipe_id)
    return [v for kind in kinds or ("recipe",) for v in _chosen(db, "r.kind = ? ORDER BY r.name, v.version DESC", kind)]


def newest_versions(db: Database, *kinds: Kind) -> list[RecipeVersion]:
    """The newest version of everything of some kinds, kind by kind and by name; of recipes where none is given."""
    newest = "v.version = (SELECT max(version) FROM recipe_versions WHERE recipe_id = r.id)"
    return [v for kind in kinds or ("recipe",) for v in _chosen(db, f"r.kind = ? AND {newest} ORDER BY r.name", kind)]


def _chosen(db: Database, where: str, value: int | str) -> list[RecipeVersion]:
    return [RecipeVersion(**dict(row)) for row in db.reader.execute(f"{_SELECT} WHERE {where}", (value,))]


def names(db: Database) -> set[str]:
    """What everything in the book is called."""
    return {str(row["name"]) for row in db.reader.execute("SELECT name FROM recipes")}

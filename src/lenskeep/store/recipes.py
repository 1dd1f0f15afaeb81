"""Recipes and their versions."""

from dataclasses import dataclass

from lenskeep.core.recipes.models import Recipe
from lenskeep.store.assets import note_use
from lenskeep.store.bodies import Kept, body_of
from lenskeep.store.clock import now
from lenskeep.store.database import Database


@dataclass(frozen=True)
class RecipeVersion(Kept):
    """One saved version of a recipe, read when its ``recipe`` is asked for."""

    id: int
    recipe_id: int
    name: str
    version: int
    created_at: str


_SELECT = """
    SELECT v.id, v.recipe_id, r.name, v.version, v.created_at, v.body
    FROM recipe_versions v JOIN recipes r ON r.id = v.recipe_id
"""


def save_recipe(db: Database, recipe: Recipe) -> RecipeVersion:
    """Save under its name: version 1 of a new recipe, or the next version. An unchanged one makes no new version.

    Its assets must be in the library (``assets.keep_assets``). Raises UserProblem when they are not, or when it is too
    long to be kept.
    """
    with db.writing() as write:
        body = body_of(recipe)
        row = write.execute("SELECT id FROM recipes WHERE name = ?", (recipe.name,)).fetchone()
        if row:
            recipe_id = int(row["id"])
        else:
            sql = "INSERT INTO recipes (name, created_at) VALUES (?, ?)"
            recipe_id = int(write.execute(sql, (recipe.name, now())).lastrowid or 0)
        newest = "SELECT id, version, body FROM recipe_versions WHERE recipe_id = ? ORDER BY version DESC LIMIT 1"
        last = write.execute(newest, (recipe_id,)).fetchone()
        if last and last["body"] == body:
            version_id = int(last["id"])
        else:
            number = int(last["version"]) + 1 if last else 1
            sql = "INSERT INTO recipe_versions (recipe_id, version, body, created_at) VALUES (?, ?, ?, ?)"
            version_id = int(write.execute(sql, (recipe_id, number, body, now())).lastrowid or 0)
            note_use(db, "version_assets", "version_id", version_id, recipe)
        saved = version(db, version_id)
        assert saved is not None
        return saved


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


def versions(db: Database, recipe_id: int | None = None) -> list[RecipeVersion]:
    """All versions, or those of one recipe; recipes by name, the newest version first."""
    sql = _SELECT + " WHERE ?1 IS NULL OR v.recipe_id = ?1 ORDER BY r.name, v.version DESC"
    return [RecipeVersion(**dict(row)) for row in db.reader.execute(sql, (recipe_id,))]


def newest_versions(db: Database) -> list[RecipeVersion]:
    """The newest version of every recipe, by name."""
    newest: dict[int, RecipeVersion] = {}
    for each in versions(db):
        newest.setdefault(each.recipe_id, each)
    return list(newest.values())

"""The recipe on the Bench of each shoot, as a list of states with a cursor: undo and redo move along it."""

from dataclasses import dataclass

from lenskeep.core.recipe import Recipe
from lenskeep.store.database import Database

MOST_STATES = 200


@dataclass(frozen=True)
class Draft:
    """The state under the cursor. ``undo`` and ``redo`` name what moving would take back or do again."""

    recipe: Recipe
    position: int
    undo: str | None
    redo: str | None
    recipe_id: int | None


def draft(db: Database, shoot_id: int) -> Draft | None:
    cursor = db.reader.execute(
        "SELECT position, recipe_id FROM draft_cursors WHERE shoot_id = ?", (shoot_id,)
    ).fetchone()
    if not cursor:
        return None
    at = int(cursor["position"])
    sql = "SELECT position, body, did FROM drafts WHERE shoot_id = ? AND position BETWEEN ? AND ?"
    rows = {int(r["position"]): r for r in db.reader.execute(sql, (shoot_id, at - 1, at + 1))}
    return Draft(
        recipe=Recipe.model_validate_json(rows[at]["body"]),
        position=at,
        undo=str(rows[at]["did"]) if at - 1 in rows else None,
        redo=str(rows[at + 1]["did"]) if at + 1 in rows else None,
        recipe_id=cursor["recipe_id"],
    )


def push(db: Database, shoot_id: int, recipe: Recipe, did: str) -> None:
    """Put a new state behind the cursor and move onto it; what could be redone is dropped."""
    with db.writing() as write:
        row = write.execute("SELECT position FROM draft_cursors WHERE shoot_id = ?", (shoot_id,)).fetchone()
        at = int(row["position"]) + 1 if row else 0
        write.execute("DELETE FROM drafts WHERE shoot_id = ? AND position >= ?", (shoot_id, at))
        write.execute("DELETE FROM drafts WHERE shoot_id = ? AND position < ?", (shoot_id, at - MOST_STATES))
        write.execute(
            "INSERT INTO drafts (shoot_id, position, body, did) VALUES (?, ?, ?, ?)",
            (shoot_id, at, recipe.model_dump_json(), did),
        )
        write.execute(
            """INSERT INTO draft_cursors (shoot_id, position) VALUES (?, ?)
               ON CONFLICT (shoot_id) DO UPDATE SET position = excluded.position""",
            (shoot_id, at),
        )


def move(db: Database, shoot_id: int, by: int) -> bool:
    """Move the cursor by -1 or 1; False at the end of the list."""
    with db.writing() as write:
        sql = """
            UPDATE draft_cursors SET position = position + ?1 WHERE shoot_id = ?2
            AND EXISTS (SELECT 1 FROM drafts d WHERE d.shoot_id = ?2 AND d.position = draft_cursors.position + ?1)
        """
        return write.execute(sql, (by, shoot_id)).rowcount > 0


def set_recipe(db: Database, shoot_id: int, recipe_id: int) -> None:
    """Note which saved recipe the draft belongs to."""
    with db.writing() as write:
        write.execute("UPDATE draft_cursors SET recipe_id = ? WHERE shoot_id = ?", (recipe_id, shoot_id))

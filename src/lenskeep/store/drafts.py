"""The recipe on the Bench of each scene, as a list of states with a cursor: undo and redo move along it.

Only the newest state is kept whole; those before it are kept as what changed (``splices``). Every state has a number
that is never used again, so that a change can say which state it was made on.
"""

from dataclasses import dataclass

from lenskeep.core.recipes.models import Recipe
from lenskeep.store.assets import note_use
from lenskeep.store.bodies import Kept, body_of
from lenskeep.store.database import Database
from lenskeep.store.splices import splice, unwound

MOST_STATES = 200


@dataclass(frozen=True)
class Draft(Kept):
    """The state under the cursor, ``state`` its number. ``undo`` and ``redo`` name what moving would take back or do
    again. Opening it does not read the recipe, so that one can go back from a state that can't be read.
    """

    state: int
    position: int
    undo: str | None
    redo: str | None
    recipe_id: int | None


def draft(db: Database, scene_id: int) -> Draft | None:
    cursor = db.reader.execute(
        "SELECT position, recipe_id FROM draft_cursors WHERE scene_id = ?", (scene_id,)
    ).fetchone()
    if not cursor:
        return None
    at = int(cursor["position"])
    sql = "SELECT id, position, did FROM draft_states WHERE scene_id = ? AND position BETWEEN ? AND ?"
    rows = {int(r["position"]): r for r in db.reader.execute(sql, (scene_id, at - 1, at + 1))}
    return Draft(
        body=_text(db, scene_id, at),
        state=int(rows[at]["id"]),
        position=at,
        undo=str(rows[at]["did"]) if at - 1 in rows else None,
        redo=str(rows[at + 1]["did"]) if at + 1 in rows else None,
        recipe_id=cursor["recipe_id"],
    )


def state_number(db: Database, scene_id: int) -> int:
    """The number of the state under the cursor; 0 before the first."""
    sql = """
        SELECT s.id FROM draft_cursors c JOIN draft_states s ON s.scene_id = c.scene_id AND s.position = c.position
        WHERE c.scene_id = ?
    """
    row = db.reader.execute(sql, (scene_id,)).fetchone()
    return int(row["id"]) if row else 0


def earlier(db: Database, scene_id: int, state: int) -> Kept | None:
    """A state by its number; None when it is forgotten."""
    sql = "SELECT position FROM draft_states WHERE id = ? AND scene_id = ?"
    row = db.reader.execute(sql, (state, scene_id)).fetchone()
    return Kept(_text(db, scene_id, int(row["position"]))) if row else None


def _text(db: Database, scene_id: int, position: int) -> str:
    sql = """
        SELECT body, spliced FROM draft_states
        WHERE scene_id = ?1 AND position BETWEEN ?2 AND
            (SELECT min(position) FROM draft_states WHERE scene_id = ?1 AND position >= ?2 AND spliced = 0)
        ORDER BY position DESC
    """
    newest, *changes = (str(row["body"]) for row in db.reader.execute(sql, (scene_id, position)))
    return unwound(newest, changes)


def push(db: Database, scene_id: int, recipe: Recipe, did: str) -> None:
    """Put a new state behind the cursor and move onto it; what could be redone is dropped.

    Raises UserProblem when the recipe is too long to be kept or refers to assets that are not in the library.
    """
    with db.writing() as write:
        body = body_of(recipe)
        row = write.execute("SELECT position FROM draft_cursors WHERE scene_id = ?", (scene_id,)).fetchone()
        at = int(row["position"]) + 1 if row else 0
        if row:
            change = splice(body, _text(db, scene_id, at - 1))
            write.execute(
                "UPDATE draft_states SET body = ?, spliced = 1 WHERE scene_id = ? AND position = ?",
                (change, scene_id, at - 1),
            )
        write.execute("DELETE FROM draft_states WHERE scene_id = ? AND position >= ?", (scene_id, at))
        write.execute("DELETE FROM draft_states WHERE scene_id = ? AND position < ?", (scene_id, at - MOST_STATES))
        sql = "INSERT INTO draft_states (scene_id, position, body, did) VALUES (?, ?, ?, ?)"
        state = int(write.execute(sql, (scene_id, at, body, did)).lastrowid or 0)
        note_use(db, "state_assets", "state_id", state, recipe)
        write.execute(
            """INSERT INTO draft_cursors (scene_id, position) VALUES (?, ?)
               ON CONFLICT (scene_id) DO UPDATE SET position = excluded.position""",
            (scene_id, at),
        )


def move(db: Database, scene_id: int, by: int) -> bool:
    """Move the cursor by -1 or 1; False at the end of the list. Reads no recipe."""
    with db.writing() as write:
        sql = """
            UPDATE draft_cursors SET position = position + ?1 WHERE scene_id = ?2 AND EXISTS
            (SELECT 1 FROM draft_states d WHERE d.scene_id = ?2 AND d.position = draft_cursors.position + ?1)
        """
        return write.execute(sql, (by, scene_id)).rowcount > 0


def set_recipe(db: Database, scene_id: int, recipe_id: int) -> None:
    """Note which saved recipe the draft belongs to."""
    with db.writing() as write:
        write.execute("UPDATE draft_cursors SET recipe_id = ? WHERE scene_id = ?", (recipe_id, scene_id))

"""What was done at a scene's Bench, state by state, and the states that were given a name."""

from dataclasses import dataclass

from lenskeep.core.recipes.models import Recipe
from lenskeep.store.assets import note_use
from lenskeep.store.bodies import Kept, body_of
from lenskeep.store.clock import now
from lenskeep.store.database import Database


@dataclass(frozen=True)
class Done:
    """One state: its number, what was done to come to it, and whether it is the present one."""

    state: int
    did: str
    present: bool
    ahead: bool


@dataclass(frozen=True)
class Named(Kept):
    """A state that was given a name."""

    id: int
    name: str
    named_at: str


def done(db: Database, scene_id: int) -> list[Done]:
    """Every state that is remembered, the newest first; those ``ahead`` were undone."""
    sql = """
        SELECT s.id, s.did, s.position, c.position AS present FROM draft_states s
        JOIN draft_cursors c ON c.scene_id = s.scene_id WHERE s.scene_id = ? ORDER BY s.position DESC
    """
    return [
        Done(int(r["id"]), str(r["did"]), r["position"] == r["present"], r["position"] > r["present"])
        for r in db.reader.execute(sql, (scene_id,))
    ]


def go(db: Database, scene_id: int, state: int) -> bool:
    """Move to a state by its number; False when it is forgotten. Reads no recipe."""
    with db.writing() as write:
        sql = """
            UPDATE draft_cursors SET position = (SELECT position FROM draft_states WHERE id = ?1)
            WHERE scene_id = ?2 AND EXISTS (SELECT 1 FROM draft_states WHERE id = ?1 AND scene_id = ?2)
        """
        return write.execute(sql, (state, scene_id)).rowcount > 0


def named(db: Database, scene_id: int) -> list[Named]:
    """The named states of a scene, the newest first."""
    sql = "SELECT id, name, named_at, body FROM named_states WHERE scene_id = ? ORDER BY id DESC"
    return [
        Named(body=str(r["body"]), id=int(r["id"]), name=str(r["name"]), named_at=str(r["named_at"]))
        for r in db.reader.execute(sql, (scene_id,))
    ]


def name_state(db: Database, scene_id: int, name: str, recipe: Recipe) -> int:
    """Keep a recipe under a name, in place of what had it before. Returns its id."""
    with db.writing() as write:
        write.execute("DELETE FROM named_states WHERE scene_id = ? AND name = ?", (scene_id, name))
        sql = "INSERT INTO named_states (scene_id, name, body, named_at) VALUES (?, ?, ?, ?)"
        kept = int(write.execute(sql, (scene_id, name, body_of(recipe), now())).lastrowid or 0)
        note_use(db, "named_assets", "named_id", kept, recipe)
        return kept


def forget(db: Database, scene_id: int, named_id: int) -> None:
    """Forget a named state."""
    with db.writing() as write:
        write.execute("DELETE FROM named_states WHERE id = ? AND scene_id = ?", (named_id, scene_id))

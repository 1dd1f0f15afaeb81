"""What the library's files are needed for, asked before those that can be made again are taken away."""

from datetime import UTC, datetime

from lenskeep.store.clock import now
from lenskeep.store.database import Database
from lenskeep.store.summaries import NOT_FOUND


def cleaned(db: Database) -> set[str]:
    """The keys of the marks that frames have."""
    return {str(row[0]) for row in db.reader.execute("SELECT DISTINCT cleaned FROM frames WHERE cleaned <> ''")}


def finders(db: Database) -> set[str]:
    """The detectors that frames' masks come from."""
    return {str(row[0]) for row in db.reader.execute("SELECT DISTINCT found_by FROM frames WHERE found_by <> ''")}


def resting(db: Database, since: str) -> list[int]:
    """Shoots that nobody opened since a moment and that have no job under way, the longest closed first."""
    sql = """
        SELECT s.id, max(s.opened_at, s.created_at) AS used FROM shoots s
        WHERE used < ? AND NOT EXISTS (SELECT 1 FROM jobs j WHERE j.shoot_id = s.id
            AND j.state IN ('queued', 'running', 'cancelling'))
        ORDER BY used
    """
    return [int(row["id"]) for row in db.reader.execute(sql, (since,))]


def let_rest(db: Database, shoot_id: int) -> None:
    """The masks of a shoot's frames are gone: they are to be found again."""
    names = ", ".join(f"{name} = :{name}" for name in NOT_FOUND)
    with db.writing() as write:
        sql = f"UPDATE frames SET {names}, state = 'waiting' WHERE shoot_id = :shoot AND state = 'ready'"
        write.execute(sql, NOT_FOUND | {"shoot": shoot_id})


def needed_elsewhere(db: Database, sha256: str, shoot_id: int) -> bool:
    """Another shoot has the same photograph with its masks."""
    sql = "SELECT 1 FROM frames WHERE sha256 = ? AND shoot_id <> ? AND found_by <> '' LIMIT 1"
    return db.reader.execute(sql, (sha256, shoot_id)).fetchone() is not None


def seconds_since_tidied(db: Database) -> float:
    """Since the library was last tidied."""
    row = db.reader.execute("SELECT value FROM settled WHERE name = 'tidied'").fetchone()
    if not row:
        return float("inf")
    return (datetime.now(UTC) - datetime.fromisoformat(row["value"])).total_seconds()


def note_tidied(db: Database) -> None:
    with db.writing() as write:
        write.execute("INSERT OR REPLACE INTO settled VALUES ('tidied', ?)", (now(),))

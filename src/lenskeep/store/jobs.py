"""The durable queue: jobs, their items, and every change of state as one transaction.

An item is claimed, then finished or failed. What was claimed when the program stopped, by itself or by a kill, is put
back and costs nothing. Items that were under way when a worker died are *suspects*: each is tried again alone, and one
that takes its worker down ``MOST_CRASHES`` times while it is alone is given up.
"""

import json
from dataclasses import dataclass
from typing import Any

from lenskeep.store.clock import now
from lenskeep.store.database import Database

MOST_CRASHES = 3
CRASHED = "It brought the program down three times, each time alone, so it was left out."


@dataclass(frozen=True)
class Job:
    id: int
    kind: str
    shoot_id: int | None
    options: dict[str, Any]
    state: str
    message: str
    created_at: str
    finished_at: str | None
    total: int
    done: int
    failed: int
    running: int

    @property
    def active(self) -> bool:
        return self.state in ("queued", "running", "cancelling")


@dataclass(frozen=True)
class Item:
    """``given`` is what the item was queued with; ``attempts`` counts the crashes it had alone."""

    id: int
    job_id: int
    frame_id: int | None
    attempts: int
    suspect: bool
    given: str


_SELECT = """
    SELECT j.id, j.kind, j.shoot_id, j.options, j.state, j.message, j.created_at, j.finished_at,
           (SELECT count(*) FROM job_items i WHERE i.job_id = j.id) AS total,
           (SELECT count(*) FROM job_items i WHERE i.job_id = j.id AND i.state = 'done') AS done,
           (SELECT count(*) FROM job_items i WHERE i.job_id = j.id AND i.state = 'failed') AS failed,
           (SELECT count(*) FROM job_items i WHERE i.job_id = j.id AND i.state = 'running') AS running
    FROM jobs j
"""


def _job(row: Any) -> Job:
    data = dict(row)
    try:
        data["options"] = dict(json.loads(data["options"]))
    except (ValueError, TypeError, RecursionError):
        data["options"] = {}
    return Job(**data)


def add_job(
    db: Database,
    kind: str,
    shoot_id: int | None,
    frame_ids: list[int] | list[int | None],
    options: dict[str, Any] | None = None,
    given: dict[int, str] | None = None,
) -> int:
    """Queue a job with one item a frame; ``given`` is what a frame's item keeps of this moment (JSON)."""
    sql = "INSERT INTO jobs (kind, shoot_id, options, created_at) VALUES (?, ?, ?, ?)"
    kept = given or {}
    with db.writing() as write:
        job_id = int(write.execute(sql, (kind, shoot_id, json.dumps(options or {}), now())).lastrowid or 0)
        items = [(job_id, frame_id, kept.get(frame_id or 0, "{}")) for frame_id in frame_ids]
        write.executemany("INSERT INTO job_items (job_id, frame_id, given) VALUES (?, ?, ?)", items)
    return job_id


def job(db: Database, job_id: int) -> Job | None:
    row = db.reader.execute(_SELECT + " WHERE j.id = ?", (job_id,)).fetchone()
    return _job(row) if row else None


def jobs(db: Database, shoot_id: int | None = None, limit: int = 100) -> list[Job]:
    """The newest jobs first, of one shoot or of all."""
    sql = _SELECT + " WHERE ?1 IS NULL OR j.shoot_id = ?1 ORDER BY j.id DESC LIMIT ?2"
    return [_job(row) for row in db.reader.execute(sql, (shoot_id, limit))]


def active_job(db: Database, shoot_id: int, kind: str | None = None) -> Job | None:
    """The shoot's oldest job that is queued or under way."""
    where = "j.shoot_id = ?1 AND j.state IN ('queued', 'running', 'cancelling') AND (?2 IS NULL OR j.kind = ?2)"
    row = db.reader.execute(f"{_SELECT} WHERE {where} ORDER BY j.id LIMIT 1", (shoot_id, kind)).fetchone()
    return _job(row) if row else None


def items(db: Database, job_id: int) -> list[tuple[Item, str]]:
    """A job's items with their states, in order."""
    sql = "SELECT id, job_id, frame_id, attempts, suspect, given, state FROM job_items WHERE job_id = ? ORDER BY id"
    return [(_item(row), str(row["state"])) for row in db.reader.execute(sql, (job_id,))]


def _item(row: Any) -> Item:
    frame_id = row["frame_id"]
    return Item(row["id"], row["job_id"], frame_id, row["attempts"], bool(row["suspect"]), row["given"])


def failures(db: Database, job_id: int) -> list[tuple[str, str]]:
    """(file name, reason) of every failed item."""
    sql = """
        SELECT coalesce(f.file_name, '') AS name, i.message FROM job_items i
        LEFT JOIN frames f ON f.id = i.frame_id WHERE i.job_id = ? AND i.state = 'failed' ORDER BY i.id
    """
    return [(row["name"], row["message"]) for row in db.reader.execute(sql, (job_id,))]


def start_next(db: Database) -> Job | None:
    """Mark the oldest queued job as running and return it; None when there is none."""
    with db.writing() as write:
        row = write.execute("SELECT id FROM jobs WHERE state = 'queued' ORDER BY id LIMIT 1").fetchone()
        if not row:
            return None
        write.execute("UPDATE jobs SET state = 'running', message = '' WHERE id = ?", (row["id"],))
    return job(db, int(row["id"]))


def claim(db: Database, job_id: int, alone: bool = True) -> Item | None:
    """Claim the job's next waiting item, suspects last and only for whoever is ``alone``; None when there is none or
    the job is not running.
    """
    sql = """
        SELECT i.id, i.job_id, i.frame_id, i.attempts, i.suspect, i.given
        FROM job_items i JOIN jobs j ON j.id = i.job_id
        WHERE i.job_id = ? AND i.state = 'waiting' AND j.state = 'running' AND (i.suspect = 0 OR ?)
        ORDER BY i.suspect, i.id LIMIT 1
    """
    with db.writing() as write:
        row = write.execute(sql, (job_id, alone)).fetchone()
        if not row:
            return None
        write.execute("UPDATE job_items SET state = 'running' WHERE id = ?", (row["id"],))
    return _item(row)


def finish_item(db: Database, item_id: int) -> None:
    with db.writing() as write:
        write.execute("UPDATE job_items SET state = 'done', suspect = 0, message = '' WHERE id = ?", (item_id,))


def fail_item(db: Database, item_id: int, message: str) -> None:
    with db.writing() as write:
        write.execute("UPDATE job_items SET state = 'failed', message = ? WHERE id = ?", (message, item_id))


def put_back(db: Database, item_id: int, suspect: bool = False) -> None:
    """Put a claimed item back; it costs nothing."""
    with db.writing() as write:
        write.execute(
            "UPDATE job_items SET state = 'waiting', suspect = max(suspect, ?) WHERE id = ? AND state = 'running'",
            (suspect, item_id),
        )


def note_crash(db: Database, item_id: int) -> bool:
    """An item took its worker down while it was alone; it is put back, unless this was once too often: then True."""
    with db.writing() as write:
        write.execute("UPDATE job_items SET attempts = attempts + 1 WHERE id = ?", (item_id,))
        row = write.execute("SELECT attempts FROM job_items WHERE id = ?", (item_id,)).fetchone()
        if row and int(row["attempts"]) >= MOST_CRASHES:
            return True
        put_back(db, item_id, suspect=True)
        return False


def undo_items(db: Database, item_ids: list[int], message: str) -> None:
    """Items that were done are not any more, since what they made is gone; resuming the job makes it again."""
    with db.writing() as write:
        write.executemany(
            "UPDATE job_items SET state = 'failed', message = ? WHERE id = ? AND state = 'done'",
            [(message, item_id) for item_id in item_ids],
        )


def close_job(db: Database, job_id: int, message: str = "") -> None:
    """End a job none of whose items is under way: done, or cancelled when that was asked for."""
    with db.writing() as write:
        write.execute(
            """UPDATE jobs SET state = CASE state WHEN 'cancelling' THEN 'cancelled' ELSE 'done' END,
               message = ?, finished_at = ? WHERE id = ? AND state IN ('running', 'cancelling')""",
            (message, now(), job_id),
        )


def fail_job(db: Database, job_id: int, message: str) -> None:
    with db.writing() as write:
        sql = "UPDATE jobs SET state = 'failed', message = ?, finished_at = ? WHERE id = ?"
        write.execute(sql, (message, now(), job_id))


def cancel(db: Database, job_id: int) -> None:
    """Ask for an end: at once when queued, after the items under way when running."""
    with db.writing() as write:
        write.execute(
            "UPDATE jobs SET state = 'cancelled', finished_at = ? WHERE id = ? AND state = 'queued'",
            (now(), job_id),
        )
        write.execute("UPDATE jobs SET state = 'cancelling' WHERE id = ? AND state = 'running'", (job_id,))


def resume(db: Database, job_id: int) -> bool:
    """Queue a cancelled or failed job again; what is done stays done, what failed is tried anew. False when there is
    nothing to resume.
    """
    with db.writing() as write:
        sql = """
            UPDATE jobs SET state = 'queued', finished_at = NULL, message = ''
            WHERE id = ? AND (state IN ('cancelled', 'failed') OR (state = 'done' AND EXISTS
                (SELECT 1 FROM job_items i WHERE i.job_id = jobs.id AND i.state = 'failed')))
        """
        if not write.execute(sql, (job_id,)).rowcount:
            return False
        write.execute(
            "UPDATE job_items SET state = 'waiting', attempts = 0, suspect = 0, message = '' "
            "WHERE job_id = ? AND state = 'failed'",
            (job_id,),
        )
        return True


def recover(db: Database) -> None:
    """After a stop or a kill: put claimed items back and jobs under way into the queue. Call before running."""
    with db.writing() as write:
        write.execute("UPDATE job_items SET state = 'waiting' WHERE state = 'running'")
        write.execute("UPDATE jobs SET state = 'queued' WHERE state = 'running'")
        write.execute("UPDATE jobs SET state = 'cancelled', finished_at = ? WHERE state = 'cancelling'", (now(),))

"""The durable queue: jobs, their items, and every change of state as one transaction.

An item is claimed, then finished or failed. What was claimed when the program stopped, by itself or by a kill, is put
back and costs nothing. Items that were under way when a worker died are *suspects*: each is tried again alone, and one
that takes its worker down ``MOST_CRASHES`` times while it is alone is given up.
"""

import json
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from lenskeep.core.pace import pace_words
from lenskeep.store.clock import now
from lenskeep.store.database import Database
from lenskeep.store.ids import fresh

NOW, NEXT, BATCH = 0, 1, 2
"""Lanes: a frame that somebody looks at, what is on screen, the rest."""
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
    begun_at: str = ""
    begun_done: int = 0
    target: str = ""

    @property
    def pace(self) -> str:
        """How fast it goes now, in words; "" when it does not, or when that can't be told yet."""
        if self.state != "running" or not self.begun_at:
            return ""
        seconds = (datetime.fromisoformat(now()) - datetime.fromisoformat(self.begun_at)).total_seconds()
        over = self.done + self.failed
        return pace_words(over - self.begun_done, self.total - over, seconds)

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
    SELECT j.id, j.kind, j.shoot_id, j.options, j.state, j.message, j.created_at, j.finished_at, j.total, j.done,
        j.failed, j.running, j.begun_at, j.begun_done, j.target FROM jobs j
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
    frame_ids: Sequence[int | None],
    options: dict[str, Any] | None = None,
    given: dict[int, str] | list[str] | None = None,
    lane: int = BATCH,
    target: str = "",
) -> int:
    """Queue a job with one item a frame; ``given`` is what an item keeps of this moment (JSON), by its frame or in
    order; ``target`` the folder outside of the library that it alone may write to, until it is over.
    """
    sql = "INSERT INTO jobs (id, kind, shoot_id, options, created_at, target) VALUES (?, ?, ?, ?, ?, ?)"
    with db.writing() as write:
        job_id = fresh(write, "jobs")
        write.execute(sql, (job_id, kind, shoot_id, json.dumps(options or {}), now(), target))
        by_frame = given if isinstance(given, dict) else {}
        kept = given if isinstance(given, list) else [by_frame.get(frame_id or 0, "{}") for frame_id in frame_ids]
        items = [(job_id, frame_id, text, lane) for frame_id, text in zip(frame_ids, kept, strict=True)]
        write.executemany("INSERT INTO job_items (job_id, frame_id, given, lane) VALUES (?, ?, ?, ?)", items)
    return job_id


def add_items(db: Database, job_id: int, frame_ids: list[int]) -> None:
    """More items for a job that is queued or runs."""
    with db.writing() as write:
        items = [(job_id, frame_id) for frame_id in frame_ids]
        write.executemany("INSERT INTO job_items (job_id, frame_id) VALUES (?, ?)", items)


def job(db: Database, job_id: int) -> Job | None:
    row = db.reader.execute(_SELECT + " WHERE j.id = ?", (job_id,)).fetchone()
    return _job(row) if row else None


def jobs(db: Database, shoot_id: int | None = None, limit: int = 100) -> list[Job]:
    """The newest jobs first, of one shoot or of all."""
    where, values = ("", (limit,)) if shoot_id is None else (" WHERE j.shoot_id = ?", (shoot_id, limit))
    return [_job(row) for row in db.reader.execute(f"{_SELECT}{where} ORDER BY j.id DESC LIMIT ?", values)]


def active_jobs(db: Database, shoot_id: int, kind: str | None = None) -> list[Job]:
    """A shoot's jobs that are queued or under way, the oldest first."""
    where = "j.shoot_id = ?1 AND j.state IN ('queued', 'running', 'cancelling') AND (?2 IS NULL OR j.kind = ?2)"
    return [_job(row) for row in db.reader.execute(f"{_SELECT} WHERE {where} ORDER BY j.id", (shoot_id, kind))]


def active_job(db: Database, shoot_id: int, kind: str | None = None) -> Job | None:
    """The oldest of them."""
    return next(iter(active_jobs(db, shoot_id, kind)), None)


def newest_job(db: Database, shoot_id: int) -> Job | None:
    return next(iter(jobs(db, shoot_id, 1)), None)


def has_done(db: Database, shoot_id: int, kind: str) -> bool:
    """Whether a job of a kind was ever done for a shoot."""
    sql = "SELECT 1 FROM jobs WHERE shoot_id = ? AND kind = ? AND state = 'done' LIMIT 1"
    return db.reader.execute(sql, (shoot_id, kind)).fetchone() is not None


def going(db: Database, kind: str) -> bool:
    """Whether a job of a kind is queued or under way."""
    sql = "SELECT 1 FROM jobs WHERE state IN ('queued', 'running', 'cancelling') AND kind = ? LIMIT 1"
    return db.reader.execute(sql, (kind,)).fetchone() is not None


def queued(db: Database, kind: str) -> bool:
    """Whether a job of a kind waits."""
    sql = "SELECT 1 FROM jobs WHERE state = 'queued' AND kind = ? LIMIT 1"
    return db.reader.execute(sql, (kind,)).fetchone() is not None


def bring_forward(db: Database, shoot_id: int, frame_ids: list[int]) -> None:
    """What waits for these frames goes before the rest."""
    sql = """
        UPDATE job_items SET lane = ? WHERE frame_id = ? AND state = 'waiting' AND lane > ?
        AND job_id IN (SELECT id FROM jobs WHERE shoot_id = ? AND kind <> 'export')
    """
    with db.writing() as write:
        write.executemany(sql, [(NEXT, frame_id, NEXT, shoot_id) for frame_id in frame_ids])


def items(db: Database, job_id: int) -> list[tuple[Item, str]]:
    """A job's items with their states, in order."""
    sql = "SELECT id, job_id, frame_id, attempts, suspect, given, state FROM job_items WHERE job_id = ? ORDER BY id"
    return [(item_of(row), str(row["state"])) for row in db.reader.execute(sql, (job_id,))]


def item_of(row: Any) -> Item:
    frame_id = row["frame_id"]
    return Item(row["id"], row["job_id"], frame_id, row["attempts"], bool(row["suspect"]), row["given"])


def item_there(db: Database, item_id: int) -> bool:
    """Whether an item is there still: it goes with its job, its frame, or its shoot."""
    return db.reader.execute("SELECT 1 FROM job_items WHERE id = ?", (item_id,)).fetchone() is not None


def say(db: Database, job_id: int, message: str) -> None:
    """What a job that is under way waits for, in words; "" for nothing."""
    with db.writing() as write:
        write.execute("UPDATE jobs SET message = ?1 WHERE id = ?2 AND message <> ?1", (message, job_id))


def failures(db: Database, job_id: int) -> list[tuple[str, str]]:
    """(file name, reason) of every failed item."""
    sql = """
        SELECT coalesce(f.file_name, '') AS name, i.message FROM job_items i
        LEFT JOIN frames f ON f.id = i.frame_id WHERE i.job_id = ? AND i.state = 'failed' ORDER BY i.id
    """
    return [(row["name"], row["message"]) for row in db.reader.execute(sql, (job_id,))]


def start_queued(db: Database) -> list[Job]:
    """Mark all queued jobs as running and return them."""
    if not db.reader.execute("SELECT 1 FROM jobs WHERE state = 'queued' LIMIT 1").fetchone():
        return []
    with db.writing() as write:
        rows = write.execute("SELECT id FROM jobs WHERE state = 'queued' ORDER BY id").fetchall()
        write.executemany(
            "UPDATE jobs SET state = 'running', message = '' WHERE id = ?", [(row["id"],) for row in rows]
        )
    return [found for row in rows if (found := job(db, int(row["id"])))]


def under_way(db: Database) -> list[Job]:
    """Jobs that run or are being stopped, the oldest first."""
    sql = f"{_SELECT} WHERE j.state IN ('running', 'cancelling') ORDER BY j.id"
    return [_job(row) for row in db.reader.execute(sql)]


def newer_into(db: Database, target: str, job_id: int) -> bool:
    """Whether a job was queued after this one that writes into the same folder."""
    sql = "SELECT 1 FROM jobs WHERE target = ? AND target <> '' AND id > ? LIMIT 1"
    return db.reader.execute(sql, (target, job_id)).fetchone() is not None


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
    """End a job none of whose items is under way: done, or cancelled when that was asked for. One that has got more
    items meanwhile goes on.
    """
    with db.writing() as write:
        write.execute(
            """UPDATE jobs SET state = CASE state WHEN 'cancelling' THEN 'cancelled' ELSE 'done' END,
               message = ?, finished_at = ? WHERE id = ? AND (state = 'cancelling'
               OR (state = 'running' AND done + failed >= total))""",
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

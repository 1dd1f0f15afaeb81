"""What of the queue can be begun now, and claiming it."""

from dataclasses import dataclass

from lenskeep.store.database import Database
from lenskeep.store.jobs import Item, item_of


@dataclass(frozen=True)
class Waiting:
    """A job that runs and has items waiting: the lane of the next of them, and whether only suspects are left. One that
    writes into a folder waits for the one before it that does: they are never done side by side.
    """

    job_id: int
    lane: int
    only_suspects: bool
    behind: int = 0


def waiting(db: Database) -> list[Waiting]:
    """Jobs that run and have items waiting."""
    sql = """
        SELECT j.id, (SELECT i.suspect * 10 + i.lane FROM job_items i
            WHERE i.job_id = j.id AND i.state = 'waiting' ORDER BY i.suspect, i.lane, i.id LIMIT 1) AS next,
            (SELECT max(o.id) FROM jobs o WHERE o.id < j.id AND o.target = j.target AND o.target <> ''
                AND o.state IN ('queued', 'running', 'cancelling')) AS behind
        FROM jobs j WHERE j.state = 'running' ORDER BY j.id
    """
    rows = [row for row in db.reader.execute(sql) if row["next"] is not None]
    return [Waiting(int(r["id"]), int(r["next"]) % 10, int(r["next"]) >= 10, int(r["behind"] or 0)) for r in rows]


_AFTER_FINDING = """
    SELECT 1 FROM jobs j JOIN jobs f ON f.shoot_id = j.shoot_id AND f.id < j.id AND f.kind = 'find'
    WHERE j.id = ? AND j.kind <> 'find' AND f.state IN ('queued', 'running') LIMIT 1
"""
_UNTIL_FOUND = """
    AND NOT EXISTS (SELECT 1 FROM job_items p JOIN jobs f ON f.id = p.job_id
        WHERE p.frame_id = i.frame_id AND p.job_id < i.job_id AND p.state IN ('waiting', 'running')
        AND f.kind = 'find' AND f.state IN ('queued', 'running'))
"""


def claim(db: Database, job_id: int, most: int = 1, alone: bool = True) -> list[Item]:
    """Claim up to so many of a running job's waiting items, all of one lane, the first lane first. Suspects come last,
    only for whoever is ``alone``, and by themselves. What works with masks waits, frame by frame, for those that are
    being found in a job before it.
    """
    with db.writing() as write:
        waits = _UNTIL_FOUND if write.execute(_AFTER_FINDING, (job_id,)).fetchone() else ""
        sql = f"""
            SELECT i.id, i.job_id, i.frame_id, i.attempts, i.suspect, i.given, i.lane
            FROM job_items i JOIN jobs j ON j.id = i.job_id
            WHERE i.job_id = ? AND i.state = 'waiting' AND j.state = 'running' AND (i.suspect = 0 OR ?){waits}
            ORDER BY i.suspect, i.lane, i.id LIMIT ?
        """
        rows = write.execute(sql, (job_id, alone, most)).fetchall()
        if not rows:
            return []
        first = rows[0]
        together = [r for r in rows if r["lane"] == first["lane"] and not r["suspect"]] or [first]
        write.executemany("UPDATE job_items SET state = 'running' WHERE id = ?", [(r["id"],) for r in together])
    return [item_of(row) for row in together]

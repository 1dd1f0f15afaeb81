"""What was looked at in the check: which picture of a frame, when, and what was done."""

from lenskeep.store.clock import now
from lenskeep.store.database import Database
from lenskeep.store.frames import SUMMARY, FrameSummary, summary_from


def note(db: Database, frame_id: int, how: str) -> None:
    """The picture that a frame wants was looked at; one that wants none, as it is."""
    sql = """
        UPDATE frames SET checked_key = CASE WHEN wanted_key = '' THEN 'as it came' ELSE wanted_key END,
            checked_at = ?, checked_how = ? WHERE id = ?
    """
    with db.writing() as write:
        write.execute(sql, (now(), how, frame_id))


def forget(db: Database, frame_id: int) -> None:
    """It is to be looked at again."""
    with db.writing() as write:
        write.execute("UPDATE frames SET checked_key = '', checked_at = '', checked_how = '' WHERE id = ?", (frame_id,))


def told(db: Database, frame_id: int) -> tuple[str, str]:
    """(when, how) the picture that a frame wants now was looked at; empty where it was not."""
    sql = """
        SELECT checked_at, checked_how FROM frames
        WHERE id = ? AND checked_key = CASE WHEN wanted_key = '' THEN 'as it came' ELSE wanted_key END
    """
    row = db.reader.execute(sql, (frame_id,)).fetchone()
    return (str(row["checked_at"]), str(row["checked_how"])) if row else ("", "")


def in_question(db: Database, shoot_id: int) -> list[FrameSummary]:
    """Frames that need an eye and have not had one, in order of time: doubtful, warned of, or not finished."""
    sql = f"SELECT {SUMMARY} FROM frames f WHERE f.shoot_id = ? AND f.in_question = 1 ORDER BY f.place, f.id"
    return [summary_from(row) for row in db.reader.execute(sql, (shoot_id,))]


def counts(db: Database, shoot_id: int) -> tuple[int, int]:
    """(how many frames still need an eye, how many have had one)."""
    open_ones = "SELECT count(*) FROM frames WHERE shoot_id = ? AND in_question = 1"
    seen = "SELECT count(*) FROM frames WHERE shoot_id = ? AND checked_key <> '' AND in_question = 0"
    one = db.reader.execute
    return int(one(open_ones, (shoot_id,)).fetchone()[0]), int(one(seen, (shoot_id,)).fetchone()[0])

"""Whether the database itself is sound."""

from lenskeep.store.database import Database


def faults(db: Database) -> list[str]:
    """What SQLite's own checks find (PRAGMA integrity_check, foreign_key_check), in words; empty when all is well."""
    out = [f"Database: {row[0]}" for row in db.reader.execute("PRAGMA integrity_check") if row[0] != "ok"]
    broken = db.reader.execute("PRAGMA foreign_key_check").fetchall()
    return out + [f"Database: a row of {row[0]} refers to a row of {row[2]} that is gone." for row in broken]

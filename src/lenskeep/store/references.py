"""Whether anything in the library still refers to a file; asked before one is swept."""

import sqlite3
from contextlib import closing
from pathlib import Path

from lenskeep.store.database import Database


def _any(db: Database, sql: str, value: str | int) -> bool:
    return db.reader.execute(sql, (value,)).fetchone() is not None


def original(db: Database, sha256: str) -> bool:
    """A frame of any shoot was made from this file."""
    return _any(db, "SELECT 1 FROM frames WHERE sha256 = ? LIMIT 1", sha256)


def result(db: Database, key: str) -> bool:
    """A frame shows this finished picture."""
    return _any(db, "SELECT 1 FROM frames WHERE result_key = ? LIMIT 1", key)


def job(db: Database, job_id: int) -> bool:
    """The job is still listed."""
    return _any(db, "SELECT 1 FROM jobs WHERE id = ?", job_id)


ORIGINALS = "SELECT sha256, suffix, min(file_name) FROM frames GROUP BY sha256, suffix ORDER BY sha256"


def originals(db: Database) -> list[tuple[str, str, str]]:
    """(sha256, suffix, file name) of every original that some frame needs, once each."""
    return [(str(s), str(e), str(n)) for s, e, n in db.reader.execute(ORIGINALS)]


def originals_in(path: Path) -> list[tuple[str, str, str]]:
    """The same of a database file that lies somewhere else, of whatever version."""
    with closing(sqlite3.connect(path)) as connection:
        return [(str(s), str(e), str(n)) for s, e, n in connection.execute(ORIGINALS)]


def assets_in(path: Path) -> list[str]:
    """The keys of the pictures and tables of recipes that a database file speaks of; none before there were any."""
    with closing(sqlite3.connect(path)) as connection:
        if not connection.execute("SELECT 1 FROM sqlite_master WHERE name = 'assets'").fetchone():
            return []
        return [str(key) for (key,) in connection.execute("SELECT sha256 FROM assets ORDER BY sha256")]

"""What hand-overs have written: every file with its size and sums, so that a hand-over is known to be whole."""

from dataclasses import dataclass

from lenskeep.store.clock import now
from lenskeep.store.database import Database


@dataclass(frozen=True)
class FileMade:
    """A file of a hand-over as it was written. ``note`` says what was unusual about it, such as that its name was
    taken; ``missing`` what its steps asked for in vain.
    """

    name: str
    bytes: int
    crc32: int
    sha256: str
    note: str = ""
    missing: str = ""


@dataclass(frozen=True)
class Delivered(FileMade):
    """The same, with the item and the frame it belongs to."""

    item_id: int = 0
    frame_id: int | None = None


@dataclass(frozen=True)
class Written:
    """A file that we wrote outside the library, as it was then."""

    sha256: str
    bytes: int
    mtime_ns: int


def keep(db: Database, job_id: int, item_id: int, made: FileMade) -> None:
    sql = """
        INSERT OR REPLACE INTO delivered (job_id, item_id, name, bytes, crc32, sha256, note, missing)
        VALUES (?, ?, ?, ?, ?, ?, ?, ?)
    """
    values = (job_id, item_id, made.name, made.bytes, made.crc32, made.sha256, made.note, made.missing)
    with db.writing() as write:
        write.execute(sql, values)


def delivered(db: Database, job_id: int) -> list[Delivered]:
    """The files of a hand-over's finished items, in order."""
    sql = """
        SELECT d.name, d.bytes, d.crc32, d.sha256, d.note, d.missing, d.item_id, i.frame_id
        FROM delivered d JOIN job_items i ON i.id = d.item_id
        WHERE d.job_id = ? AND i.state = 'done' ORDER BY d.item_id
    """
    return [Delivered(**dict(row)) for row in db.reader.execute(sql, (job_id,))]


def note_written(db: Database, path: str, sha256: str, size: int, mtime_ns: int) -> None:
    """Remember a file that we wrote outside the library."""
    sql = "INSERT OR REPLACE INTO written (path, sha256, bytes, mtime_ns, at) VALUES (?, ?, ?, ?, ?)"
    with db.writing() as write:
        write.execute(sql, (path, sha256, size, mtime_ns, now()))


def written(db: Database, path: str) -> Written | None:
    """The file that we last wrote at a path outside the library; None when we never did."""
    row = db.reader.execute("SELECT sha256, bytes, mtime_ns FROM written WHERE path = ?", (path,)).fetchone()
    return Written(**dict(row)) if row else None


def logos(db: Database) -> list[tuple[str, str]]:
    """(key, name) of the logos of hand-overs, the latest first."""
    sql = """
        SELECT json_extract(options, '$.logo') AS logo, json_extract(options, '$.logo_name') AS name, max(id) AS last
        FROM jobs WHERE kind = 'export' AND json_extract(options, '$.logo') <> '' GROUP BY 1 ORDER BY last DESC
    """
    return [(str(row["logo"]), str(row["name"] or "")) for row in db.reader.execute(sql)]

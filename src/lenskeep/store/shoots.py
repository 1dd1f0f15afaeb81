"""Shoots and the files that were refused on the way in."""

from dataclasses import dataclass

from lenskeep.files.reading.photo import Base
from lenskeep.store.clock import now
from lenskeep.store.database import Database
from lenskeep.store.ids import fresh
from lenskeep.store.scenes import add_scene


@dataclass(frozen=True)
class Shoot:
    id: int
    name: str
    created_at: str
    raw_base: Base = "soft"


@dataclass(frozen=True)
class Refusal:
    file_name: str
    reason: str


def add_shoot(db: Database, name: str) -> int:
    """A new shoot with its first scene."""
    sql = "INSERT INTO shoots (id, name, created_at) VALUES (?, ?, ?)"
    with db.writing() as write:
        shoot_id = fresh(write, "shoots")
        write.execute(sql, (shoot_id, name, now()))
        add_scene(db, shoot_id, "Scene 1")
        return shoot_id


def shoots(db: Database) -> list[Shoot]:
    """All shoots, the newest first."""
    sql = "SELECT id, name, created_at, raw_base FROM shoots ORDER BY id DESC"
    return [Shoot(**dict(row)) for row in db.reader.execute(sql)]


def shoot(db: Database, shoot_id: int) -> Shoot | None:
    sql = "SELECT id, name, created_at, raw_base FROM shoots WHERE id = ?"
    row = db.reader.execute(sql, (shoot_id,)).fetchone()
    return Shoot(**dict(row)) if row else None


def shoot_by_name(db: Database, name: str) -> Shoot | None:
    """The newest shoot of that name."""
    sql = "SELECT id, name, created_at, raw_base FROM shoots WHERE name = ? ORDER BY id DESC LIMIT 1"
    row = db.reader.execute(sql, (name,)).fetchone()
    return Shoot(**dict(row)) if row else None


def rename_shoot(db: Database, shoot_id: int, name: str) -> None:
    with db.writing() as write:
        write.execute("UPDATE shoots SET name = ? WHERE id = ?", (name, shoot_id))


def said(db: Database, shoot_id: int) -> tuple[str | None, str | None]:
    """(what a shoot's files say of themselves, that of the newest other shoot that says something), as JSON."""
    own = db.reader.execute("SELECT said FROM shoots WHERE id = ? AND said <> '{}'", (shoot_id,)).fetchone()
    sql = "SELECT said FROM shoots WHERE id <> ? AND said <> '{}' ORDER BY id DESC LIMIT 1"
    last = db.reader.execute(sql, (shoot_id,)).fetchone()
    return (own["said"] if own else None), (last["said"] if last else None)


def keep_said(db: Database, shoot_id: int, text: str) -> None:
    with db.writing() as write:
        write.execute("UPDATE shoots SET said = ? WHERE id = ?", (text, shoot_id))


def remove_shoot(db: Database, shoot_id: int) -> None:
    """Forget a shoot with its frames, look and jobs. Its files in the library stay until they are swept."""
    with db.writing() as write:
        write.execute("DELETE FROM shoots WHERE id = ?", (shoot_id,))


def curve(db: Database, shoot_id: int) -> str:
    """What is known of the curve of a shoot's camera, as JSON; "" where nothing is."""
    row = db.reader.execute("SELECT curve FROM shoots WHERE id = ?", (shoot_id,)).fetchone()
    return str(row["curve"]) if row else ""


def set_curve(db: Database, shoot_id: int, curve: str) -> None:
    with db.writing() as write:
        write.execute("UPDATE shoots SET curve = ? WHERE id = ?", (curve, shoot_id))


def note_opened(db: Database, shoot_id: int) -> None:
    """Somebody works on a shoot; written down once a minute at most."""
    moment = now()
    due = "id = ? AND substr(opened_at, 1, 16) <> ?"
    if db.reader.execute(f"SELECT 1 FROM shoots WHERE {due}", (shoot_id, moment[:16])).fetchone():
        with db.writing() as write:
            write.execute(f"UPDATE shoots SET opened_at = ? WHERE {due}", (moment, shoot_id, moment[:16]))


def add_refusal(db: Database, shoot_id: int, file_name: str, reason: str) -> None:
    sql = "INSERT INTO refusals (shoot_id, file_name, reason, at) VALUES (?, ?, ?, ?)"
    with db.writing() as write:
        write.execute(sql, (shoot_id, file_name, reason, now()))


def refusals(db: Database, shoot_id: int) -> list[Refusal]:
    sql = "SELECT file_name, reason FROM refusals WHERE shoot_id = ? ORDER BY id"
    return [Refusal(**dict(row)) for row in db.reader.execute(sql, (shoot_id,))]


def clear_refusals(db: Database, shoot_id: int) -> None:
    with db.writing() as write:
        write.execute("DELETE FROM refusals WHERE shoot_id = ?", (shoot_id,))

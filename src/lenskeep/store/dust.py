"""Dust on the sensors of cameras: what was found, confirmed, dropped, added by hand; and which camera took a frame."""

import json
import sqlite3
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

from lenskeep.store.clock import now
from lenskeep.store.database import Database

State = Literal["found", "confirmed", "dropped"]
SAME = 0.006
"""Shares of the sensor within which two places are one."""


@dataclass(frozen=True)
class Dust:
    """A speck on a camera's sensor; ``core.clean.dust.Speck`` says what the figures mean. ``shows`` are frames."""

    id: int
    camera: str
    x: float
    y: float
    radius: float
    state: State
    by_hand: bool
    evidence: float
    seen: float
    calm: float
    shoot_id: int | None
    shows: tuple[int, ...]


@dataclass(frozen=True)
class Stored:
    """How a frame came from its camera."""

    frame_id: int
    camera: str
    orientation: int


def of_camera(db: Database, camera: str) -> list[Dust]:
    """All that is known of a camera's sensor, the surest first."""
    sql = "SELECT * FROM dust WHERE camera = ? ORDER BY evidence DESC, id"
    return [_dust(row) for row in db.reader.execute(sql, (camera,))]


def _dust(row: sqlite3.Row) -> Dust:
    plain = dict(row)
    del plain["at"]
    return Dust(**plain | {"by_hand": bool(plain["by_hand"]), "shows": tuple(json.loads(plain["shows"]))})


def keep_found(db: Database, camera: str, shoot_id: int, found: Iterable[Dust]) -> None:
    """What a search of a shoot found: places that are known keep what was decided of them, those that were only found
    before and are not any more go.
    """
    with db.writing() as write:
        known = of_camera(db, camera)
        met: set[int] = set()
        for one in found:
            same = next((k for k in known if abs(k.x - one.x) < SAME and abs(k.y - one.y) < SAME), None)
            values = (one.evidence, one.seen, one.calm, shoot_id, json.dumps(one.shows), now())
            if same:
                met.add(same.id)
                sql = "UPDATE dust SET evidence = ?, seen = ?, calm = ?, shoot_id = ?, shows = ?, at = ? WHERE id = ?"
                write.execute(sql, (*values, same.id))
            else:
                sql = """
                    INSERT INTO dust (evidence, seen, calm, shoot_id, shows, at, camera, x, y, radius)
                    VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
                """
                write.execute(sql, (*values, camera, one.x, one.y, one.radius))
        gone = [(k.id,) for k in known if k.state == "found" and k.id not in met and k.shoot_id == shoot_id]
        write.executemany("DELETE FROM dust WHERE id = ?", gone)


def add(db: Database, camera: str, shoot_id: int, x: float, y: float, radius: float) -> None:
    """A speck that somebody saw: confirmed by that."""
    sql = """
        INSERT INTO dust (camera, x, y, radius, state, by_hand, shoot_id, at) VALUES (?, ?, ?, ?, 'confirmed', 1, ?, ?)
    """
    with db.writing() as write:
        write.execute(sql, (camera, x, y, radius, shoot_id, now()))


def set_state(db: Database, ids: Iterable[int], state: State) -> None:
    """One that was added by hand and is dropped is gone."""
    with db.writing() as write:
        for dust_id in ids:
            if state == "dropped":
                write.execute("DELETE FROM dust WHERE id = ? AND by_hand = 1", (dust_id,))
            write.execute("UPDATE dust SET state = ? WHERE id = ?", (state, dust_id))


def stored(db: Database, shoot_id: int) -> list[Stored]:
    """How a shoot's frames came, as far as it was looked for, in their order."""
    sql = "SELECT id, camera, orientation FROM frames WHERE shoot_id = ? AND camera IS NOT NULL ORDER BY place, id"
    return [_stored(row) for row in db.reader.execute(sql, (shoot_id,))]


def stored_one(db: Database, frame_id: int) -> Stored | None:
    """How a frame came; None where it was not looked for."""
    sql = "SELECT id, camera, orientation FROM frames WHERE id = ? AND camera IS NOT NULL"
    row = db.reader.execute(sql, (frame_id,)).fetchone()
    return None if row is None else _stored(row)


def _stored(row: sqlite3.Row) -> Stored:
    return Stored(int(row["id"]), row["camera"], int(row["orientation"]))


def cameras(db: Database, shoot_id: int) -> list[str]:
    """The cameras of a shoot, the one with most frames first."""
    sql = """
        SELECT camera FROM frames WHERE shoot_id = ? AND camera IS NOT NULL
        GROUP BY camera ORDER BY COUNT(*) DESC, MIN(place), MIN(id)
    """
    return [row["camera"] for row in db.reader.execute(sql, (shoot_id,))]


def without_camera(db: Database, shoot_id: int) -> list[int]:
    """Frames of a shoot that were not looked at yet for that."""
    sql = "SELECT id FROM frames WHERE shoot_id = ? AND camera IS NULL"
    return [int(row["id"]) for row in db.reader.execute(sql, (shoot_id,))]


def keep_stored(db: Database, some: Iterable[Stored]) -> None:
    with db.writing() as write:
        values = [(one.camera, one.orientation, one.frame_id) for one in some]
        write.executemany("UPDATE frames SET camera = ?, orientation = ? WHERE id = ?", values)

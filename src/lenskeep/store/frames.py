"""Frames, what was found on them, and the results rendered for them."""

import json
import sqlite3
from dataclasses import dataclass
from typing import TypeVar

from pydantic import BaseModel, ValidationError

from lenskeep.core.facts import Facts
from lenskeep.core.recipes.models import FrameOverride
from lenskeep.files.reading.photo import Base
from lenskeep.store.clock import now
from lenskeep.store.database import Database


@dataclass(frozen=True)
class FrameRow:
    """A frame of a shoot. ``facts`` is None until its masks were found by the current detectors, at ``found_at``.

    ``problem`` says why finding failed, ``render_problem`` why rendering did. ``spoilt`` is set when what was changed
    by hand on it can't be read; then ``override`` changes nothing.
    """

    id: int
    shoot_id: int
    file_name: str
    sha256: str
    suffix: str
    bytes: int
    width: int
    height: int
    taken_at: str | None
    state: str
    problem: str
    override: FrameOverride
    accepted: bool
    facts: Facts | None
    result_key: str | None
    missing: tuple[str, ...]
    base: Base = ""
    render_problem: str = ""
    found_at: str = ""
    spoilt: bool = False

    @property
    def content(self) -> str:
        """What its picture is: the file's hash, and how a raw file was brought to a picture."""
        return content_of(self.sha256, self.base)

    @property
    def picture_key(self) -> str:
        """Short, for addresses that may be kept for ever."""
        return content_of(self.sha256[:12], self.base)


def content_of(sha256: str, base: str) -> str:
    return sha256 if base in ("", "soft") else f"{sha256}-{base}"


_FROM = """
    FROM frames f
    LEFT JOIN findings n ON n.detector = :detector
        AND n.sha256 = f.sha256 || CASE WHEN f.base IN ('', 'soft') THEN '' ELSE '-' || f.base END
    LEFT JOIN results r ON r.frame_id = f.id
"""
_SELECT = """
    SELECT f.id, f.shoot_id, f.file_name, f.sha256, f.suffix, f.bytes, f.width, f.height, f.taken_at, f.state,
           f.problem, f.override, f.accepted, f.base, f.render_problem, n.facts, coalesce(n.made_at, '') AS found_at,
           r.key AS result_key, r.missing
"""


def _frame(row: sqlite3.Row) -> FrameRow:
    data = dict(row)
    override = _read(FrameOverride, data["override"])
    data |= {"override": override or FrameOverride(), "spoilt": override is None}
    data["facts"] = _read(Facts, data["facts"]) if data["facts"] else None
    data["accepted"] = bool(data["accepted"])
    data["missing"] = tuple(json.loads(data["missing"] or "[]"))
    return FrameRow(**data)


_Model = TypeVar("_Model", bound=BaseModel)


def _read(model: type[_Model], text: str) -> _Model | None:
    """None for what can't be read, so that one bad row never takes a list down."""
    try:
        return model.model_validate_json(text)
    except ValidationError:
        return None


def add_frame(
    db: Database,
    shoot_id: int,
    *,
    file_name: str,
    sha256: str,
    suffix: str,
    size: int,
    width: int,
    height: int,
    taken_at: str | None,
    base: Base = "",
) -> int | None:
    """Add a frame; None when the shoot has the same file already."""
    sql = """
        INSERT INTO frames (shoot_id, file_name, sha256, suffix, bytes, width, height, taken_at, base, brought_in_at)
        VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?) ON CONFLICT (shoot_id, sha256) DO NOTHING
    """
    values = (shoot_id, file_name, sha256, suffix, size, width, height, taken_at, base, now())
    with db.writing() as write:
        cursor = write.execute(sql, values)
        return int(cursor.lastrowid or 0) if cursor.rowcount else None


def frames(db: Database, shoot_id: int, detector: str) -> list[FrameRow]:
    """A shoot's frames by capture time; those without one come last, by name."""
    sql = _SELECT + _FROM + " WHERE f.shoot_id = :shoot ORDER BY f.taken_at IS NULL, f.taken_at, f.file_name, f.id"
    return [_frame(row) for row in db.reader.execute(sql, {"detector": detector, "shoot": shoot_id})]


def frame(db: Database, frame_id: int, detector: str) -> FrameRow | None:
    sql = _SELECT + _FROM + " WHERE f.id = :id"
    row = db.reader.execute(sql, {"detector": detector, "id": frame_id}).fetchone()
    return _frame(row) if row else None


def remove_frame(db: Database, frame_id: int) -> None:
    with db.writing() as write:
        write.execute("DELETE FROM frames WHERE id = ?", (frame_id,))


def set_state(db: Database, frame_id: int, state: str, problem: str = "") -> None:
    with db.writing() as write:
        write.execute("UPDATE frames SET state = ?, problem = ? WHERE id = ?", (state, problem, frame_id))


def set_render_problem(db: Database, frame_id: int, problem: str) -> None:
    """Why a frame could not be rendered; "" when it was."""
    with db.writing() as write:
        write.execute("UPDATE frames SET render_problem = ? WHERE id = ?", (problem, frame_id))


def content(db: Database, frame_id: int, detector: str) -> tuple[str, str] | None:
    """(content, when its masks were found): what a picture of the frame that is kept in memory depends on."""
    sql = f"SELECT f.sha256, f.base, coalesce(n.made_at, '') AS found_at {_FROM} WHERE f.id = :id"
    row = db.reader.execute(sql, {"detector": detector, "id": frame_id}).fetchone()
    return (content_of(row["sha256"], row["base"]), str(row["found_at"])) if row else None


def set_override(db: Database, frame_id: int, override: FrameOverride) -> None:
    with db.writing() as write:
        write.execute("UPDATE frames SET override = ? WHERE id = ?", (override.model_dump_json(), frame_id))


def set_accepted(db: Database, frame_id: int, accepted: bool) -> None:
    with db.writing() as write:
        write.execute("UPDATE frames SET accepted = ? WHERE id = ?", (int(accepted), frame_id))


def count_raws(db: Database, shoot_id: int) -> int:
    """How many frames of a shoot are raw files."""
    return int(
        db.reader.execute("SELECT count(*) FROM frames WHERE shoot_id = ? AND base <> ''", (shoot_id,)).fetchone()[0]
    )


def set_base(db: Database, shoot_id: int, base: Base) -> None:
    """Bring every raw file of a shoot to a picture in another way; their masks are to be found again."""
    with db.writing() as write:
        write.execute("UPDATE shoots SET raw_base = ? WHERE id = ?", (base, shoot_id))
        write.execute(
            "UPDATE frames SET base = ?, state = 'waiting' WHERE shoot_id = ? AND base <> ''", (base, shoot_id)
        )


def keep_facts(db: Database, content: str, facts: Facts) -> None:
    sql = "INSERT OR REPLACE INTO findings (sha256, detector, facts, trust, made_at) VALUES (?, ?, ?, ?, ?)"
    with db.writing() as write:
        write.execute(sql, (content, facts.detector, facts.model_dump_json(), facts.trust, now()))


def forget_facts(db: Database, frame_ids: list[int], detector: str) -> None:
    """Let masks be found anew: what was found by these detectors is forgotten, by hand accepted or not."""
    sql = """
        DELETE FROM findings WHERE detector = ?2 AND sha256 IN (SELECT
            f.sha256 || CASE WHEN f.base IN ('', 'soft') THEN '' ELSE '-' || f.base END FROM frames f WHERE f.id = ?1)
    """
    with db.writing() as write:
        write.executemany(sql, [(frame_id, detector) for frame_id in frame_ids])
        write.executemany("UPDATE frames SET state = 'waiting', problem = '' WHERE id = ?", [(i,) for i in frame_ids])


def facts_of(db: Database, content: str, detector: str) -> Facts | None:
    """What was found on a picture, by its content."""
    row = db.reader.execute(
        "SELECT facts FROM findings WHERE sha256 = ? AND detector = ?", (content, detector)
    ).fetchone()
    return _read(Facts, row["facts"]) if row else None


def keep_result(db: Database, frame_id: int, key: str, missing: list[str]) -> None:
    sql = "INSERT OR REPLACE INTO results (frame_id, key, missing, made_at) VALUES (?, ?, ?, ?)"
    with db.writing() as write:
        write.execute(sql, (frame_id, key, json.dumps(missing), now()))
        set_render_problem(db, frame_id, "")


def drop_results(db: Database, shoot_id: int) -> None:
    sql = "DELETE FROM results WHERE frame_id IN (SELECT id FROM frames WHERE shoot_id = ?)"
    with db.writing() as write:
        write.execute(sql, (shoot_id,))


def only_here(db: Database, shoot_id: int) -> tuple[int, int]:
    """(number of frames of a shoot, bytes of those originals that no other shoot has)."""
    sql = """
        SELECT count(*), coalesce(sum(CASE WHEN EXISTS
            (SELECT 1 FROM frames o WHERE o.sha256 = f.sha256 AND o.shoot_id <> f.shoot_id) THEN 0 ELSE f.bytes END), 0)
        FROM frames f WHERE f.shoot_id = ?
    """
    row = db.reader.execute(sql, (shoot_id,)).fetchone()
    return int(row[0]), int(row[1])

"""Frames: as lists show them, from their summaries; and one by one, with everything that was found on them."""

import json
import sqlite3
from collections.abc import Collection
from dataclasses import dataclass
from typing import Any, TypeVar

from pydantic import BaseModel, ValidationError

from lenskeep.core.base.models import AS_IT_CAME, FrameBase
from lenskeep.core.facts import Box, Facts, Skyline
from lenskeep.core.recipes.overrides import UNCHANGED, FrameOverride
from lenskeep.files.reading.photo import Base
from lenskeep.store.database import Database
from lenskeep.store.summaries import CONTENT, box_of, skyline_of


def content_of(sha256: str, raw_base: str, turn: int = 0) -> str:
    """What a picture is: the file's hash, how a raw file was brought to a picture, and how often it was turned."""
    brought = sha256 if raw_base in ("", "soft") else f"{sha256}-{raw_base}"
    return f"{brought}-turn{turn}" if turn else brought


@dataclass(frozen=True)
class FrameSummary:
    """What lists show of a frame. ``found_by`` names the detectors that its masks come from, "" before they are found.

    ``problem`` says why finding failed, ``render_problem`` why rendering did; ``wanted_key`` is the finished picture
    that its look wants ("?" until it is worked out), ``result_key`` the one that is there. ``turn`` says by how many
    quarters clockwise it was turned by hand.
    """

    id: int
    shoot_id: int
    scene_id: int
    place: str
    file_name: str
    sha256: str
    suffix: str
    bytes: int
    width: int
    height: int
    taken_at: str | None
    raw_base: Base
    state: str
    problem: str
    render_problem: str
    changed: bool
    accepted: bool
    found_by: str
    found_at: str
    trust: float
    doubt: bool
    reason: str
    box_text: str
    skyline_text: str
    subject_area: float
    sky_area: float
    areas: str
    wanted_key: str
    result_key: str
    doubtful: bool
    touched: int
    base_text: str
    rating: int
    rejected: bool
    placed: int
    burst: int
    burst_best: bool
    guards: str
    pull: str
    warned: bool
    turn: int

    @property
    def faults(self) -> list[tuple[str, float, str, str]]:
        """What guards found on its finished picture: (guard, figure, step, its name)."""
        return [(str(g), float(v), str(s), str(n)) for g, v, s, n in json.loads(self.guards)] if self.warned else []

    @property
    def own_base(self) -> FrameBase:
        """What it changes of its light before every step."""
        return (readable(FrameBase, self.base_text) if self.base_text else None) or AS_IT_CAME

    @property
    def content(self) -> str:
        return content_of(self.sha256, self.raw_base, self.turn)

    @property
    def picture_key(self) -> str:
        """Short, for addresses that may be kept for ever."""
        return content_of(self.sha256[:12], self.raw_base, self.turn)

    @property
    def found(self) -> bool:
        """Its masks are there."""
        return self.state == "ready" and bool(self.found_by)

    @property
    def finished(self) -> bool:
        """Its finished picture is the one that its look wants."""
        return self.found and bool(self.result_key) and self.result_key == self.wanted_key

    @property
    def stale(self) -> bool:
        """It has masks and a look, and is not finished as that wants it."""
        return self.found and bool(self.wanted_key) and self.result_key != self.wanted_key

    @property
    def awaited(self) -> bool:
        """It is stale, and nothing has kept its picture from being made: somebody may wait for it."""
        return self.stale and not self.render_problem

    @property
    def box(self) -> Box | None:
        return box_of(self.box_text)

    @property
    def skyline(self) -> Skyline | None:
        return skyline_of(self.skyline_text)


@dataclass(frozen=True)
class FrameRow(FrameSummary):
    """A frame with all that is known of it. ``facts`` is None until its masks were found. ``spoilt`` is set when what
    was changed by hand on it can't be read; then ``override`` changes nothing. ``found_facts`` are what was found,
    ``facts`` the same after its masks were repaired.
    """

    override: FrameOverride
    found_facts: Facts | None
    facts: Facts | None
    missing: tuple[str, ...]
    spoilt: bool = False


SUMMARY = """
    f.id, f.shoot_id, f.scene_id, f.place, f.file_name, f.sha256, f.suffix, f.bytes, f.width, f.height, f.taken_at,
    f.raw_base, f.state, f.problem, f.render_problem, f.changed, f.accepted, f.found_by, f.found_at, f.trust, f.doubt,
    f.reason, f.box AS box_text, f.skyline AS skyline_text, f.subject_area, f.sky_area, f.areas, f.wanted_key,
    f.result_key, f.doubtful, f.touched, f.base AS base_text,
    f.rating, f.rejected, f.placed, f.burst, f.burst_best, f.guards, f.pull, f.warned, f.turn
"""
_BOOLS = ("changed", "accepted", "doubt", "doubtful", "rejected", "burst_best", "warned")
_WHOLE = f"""
    SELECT {SUMMARY}, f.override, f.missing, f.own_facts, n.facts
    FROM frames f LEFT JOIN findings n ON n.detector = f.found_by AND n.sha256 = {CONTENT}
"""


def summary_from(row: sqlite3.Row) -> FrameSummary:
    data = dict(row)
    return FrameSummary(**data | {name: bool(data[name]) for name in _BOOLS})


def _frame(row: sqlite3.Row) -> FrameRow:
    data: dict[str, Any] = dict(row)
    override = readable(FrameOverride, data["override"])
    data |= {name: bool(data[name]) for name in _BOOLS}
    data |= {"override": override or FrameOverride(), "spoilt": override is None}
    found, own = data["facts"], data.pop("own_facts")
    data["found_facts"] = data["facts"] = readable(Facts, found) if found else None
    if own and data["found_facts"] is not None:
        data["facts"] = readable(Facts, own) or data["facts"]
    data["missing"] = tuple(json.loads(data["missing"]))
    return FrameRow(**data)


_Model = TypeVar("_Model", bound=BaseModel)


def readable(model: type[_Model], text: str) -> _Model | None:
    """None for what can't be read, so that one bad row never takes a list down."""
    try:
        return model.model_validate_json(text)
    except ValidationError:
        return None


def frames(db: Database, shoot_id: int) -> list[FrameRow]:
    """A shoot's frames in order, whole: for work that goes through all of them, never for a page."""
    sql = _WHOLE + " WHERE f.shoot_id = ? ORDER BY f.place, f.id"
    return [_frame(row) for row in db.reader.execute(sql, (shoot_id,))]


def frame(db: Database, frame_id: int) -> FrameRow | None:
    row = db.reader.execute(_WHOLE + " WHERE f.id = ?", (frame_id,)).fetchone()
    return _frame(row) if row else None


def summaries(db: Database, shoot_id: int) -> list[FrameSummary]:
    """A shoot's frames in order, by their summaries."""
    sql = f"SELECT {SUMMARY} FROM frames f WHERE f.shoot_id = ? ORDER BY f.place, f.id"
    return [summary_from(row) for row in db.reader.execute(sql, (shoot_id,))]


def summary(db: Database, frame_id: int) -> FrameSummary | None:
    row = db.reader.execute(f"SELECT {SUMMARY} FROM frames f WHERE f.id = ?", (frame_id,)).fetchone()
    return summary_from(row) if row else None


def some(db: Database, frame_ids: Collection[int]) -> list[FrameSummary]:
    """These frames by their summaries, in order; those that are gone are left out."""
    ids, out = list(frame_ids), []
    for at in range(0, len(ids), 500):
        part = ids[at : at + 500]
        sql = f"SELECT {SUMMARY} FROM frames f WHERE f.id IN ({', '.join('?' * len(part))})"
        out += [summary_from(row) for row in db.reader.execute(sql, part)]
    return sorted(out, key=lambda f: (f.place, f.id))


def with_overrides(db: Database, frame_ids: Collection[int]) -> list[FrameRow]:
    """These frames with what they change, in order, and without their facts, which take long to read for many."""
    ids, out = list(frame_ids), []
    for at in range(0, len(ids), 500):
        part = ids[at : at + 500]
        sql = f"SELECT {SUMMARY}, f.override FROM frames f WHERE f.id IN ({', '.join('?' * len(part))})"
        for row in db.reader.execute(sql, part):
            override = UNCHANGED if row["override"] == "{}" else readable(FrameOverride, row["override"])
            data = {name: row[name] for name in row.keys() if name != "override"}  # noqa: SIM118
            data |= {name: bool(row[name]) for name in _BOOLS}
            nothing: dict[str, Any] = {"found_facts": None, "facts": None, "missing": ()}
            out.append(FrameRow(**data, **nothing, override=override or FrameOverride(), spoilt=override is None))
    return sorted(out, key=lambda f: (f.place, f.id))


def before_in_scene(db: Database, frame: FrameSummary) -> FrameSummary | None:
    """The frame before one in its scene."""
    sql = f"""
        SELECT {SUMMARY} FROM frames f WHERE f.scene_id = ? AND (f.place, f.id) < (?, ?)
        ORDER BY f.place DESC, f.id DESC LIMIT 1
    """
    row = db.reader.execute(sql, (frame.scene_id, frame.place, frame.id)).fetchone()
    return summary_from(row) if row else None


def to_render(
    db: Database, shoot_id: int, only: set[int] | None, also_failed: bool
) -> list[tuple[int, str, Base, int, int]]:
    """(id, override as JSON, raw base, scene, turn) of a shoot's frames in order, all or some; those on which finding
    failed only where ``also_failed``.
    """
    sql = """
        SELECT id, override, raw_base, state, scene_id, turn FROM frames f WHERE f.shoot_id = ? ORDER BY f.place, f.id
    """
    rows = db.reader.execute(sql, (shoot_id,))
    chosen = [r for r in rows if (also_failed or r["state"] != "failed") and (only is None or r["id"] in only)]
    return [(int(r["id"]), str(r["override"]), r["raw_base"], int(r["scene_id"]), int(r["turn"])) for r in chosen]


def traits(db: Database, scene_id: int) -> list[tuple[int, str, float, float, float, bool]]:
    """(id, box, subject's area, sky's area, trust, whether upright) of a scene's frames with masks, in order: what
    tells frames apart, for thousands at once.
    """
    sql = """
        SELECT id, box, subject_area, sky_area, trust, height > width FROM frames f
        WHERE f.scene_id = ? AND f.found = 1 ORDER BY f.place, f.id
    """
    return [tuple(row) for row in db.reader.execute(sql, (scene_id,))]


def remove_frame(db: Database, frame_id: int) -> None:
    with db.writing() as write:
        write.execute("DELETE FROM frames WHERE id = ?", (frame_id,))


def content(db: Database, frame_id: int) -> tuple[str, str, str] | None:
    """(content and clean-up, when its masks were found, its base): what a picture of the frame that is kept in memory
    depends on.
    """
    sql = "SELECT sha256, raw_base, turn, found_at, base, cleaned FROM frames WHERE id = ?"
    row = db.reader.execute(sql, (frame_id,)).fetchone()
    if row is None:
        return None
    content = f"{content_of(row['sha256'], row['raw_base'], row['turn'])} {row['cleaned']}".rstrip()
    return content, str(row["found_at"]), str(row["base"])


def with_original(db: Database, sha256: str) -> FrameRow | None:
    """A frame of any shoot that has this original; None without one."""
    row = db.reader.execute(_WHOLE + " WHERE f.sha256 = ? ORDER BY f.id LIMIT 1", (sha256,)).fetchone()
    return _frame(row) if row else None


def with_content(db: Database, shoot_id: int, content: str) -> int | None:
    """The frame of a shoot that is this photograph, as it was brought to a picture and turned; None without one."""
    sql = "SELECT id, sha256, raw_base, turn FROM frames WHERE shoot_id = ? AND sha256 = ?"
    for row in db.reader.execute(sql, (shoot_id, content.partition("-")[0])):
        if content_of(row["sha256"], row["raw_base"], row["turn"]) == content:
            return int(row["id"])
    return None


def set_override(db: Database, frame_id: int, override: FrameOverride, wanted_key: str) -> None:
    """Keep what a frame changes of its look, and the key of the picture that it wants now."""
    sql = "UPDATE frames SET override = ?, changed = ?, base = ?, cleaned = ?, wanted_key = ? WHERE id = ?"
    base = "" if override.base.is_neutral else override.base.model_dump_json()
    whole = "{}" if override == UNCHANGED else override.model_dump_json()
    with db.writing() as write:
        write.execute(sql, (whole, not override.is_neutral, base, override.clean.key(), wanted_key, frame_id))


def set_accepted(db: Database, frame_id: int, accepted: bool) -> None:
    with db.writing() as write:
        write.execute("UPDATE frames SET accepted = ? WHERE id = ?", (int(accepted), frame_id))


def count_raws(db: Database, shoot_id: int) -> int:
    """How many frames of a shoot are raw files."""
    sql = "SELECT count(*) FROM frames WHERE shoot_id = ? AND raw_base <> ''"
    return int(db.reader.execute(sql, (shoot_id,)).fetchone()[0])


def longest_side(db: Database, shoot_id: int) -> int:
    """Of any of a shoot's frames, in pixels; 0 without one."""
    sql = "SELECT max(width, height) FROM frames WHERE shoot_id = ? ORDER BY max(width, height) DESC LIMIT 1"
    row = db.reader.execute(sql, (shoot_id,)).fetchone()
    return int(row[0]) if row else 0


def only_here(db: Database, shoot_id: int) -> tuple[int, int]:
    """(number of frames of a shoot, bytes of those originals that no other shoot has)."""
    sql = """
        SELECT count(*), coalesce(sum(CASE WHEN EXISTS
            (SELECT 1 FROM frames o WHERE o.sha256 = f.sha256 AND o.shoot_id <> f.shoot_id) THEN 0 ELSE f.bytes END), 0)
        FROM frames f WHERE f.shoot_id = ?
    """
    row = db.reader.execute(sql, (shoot_id,)).fetchone()
    return int(row[0]), int(row[1])

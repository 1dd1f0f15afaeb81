"""Reading a shoot's frames a page at a time, in order, all or those of one mark; counting them; noticing changes."""

from dataclasses import dataclass
from typing import Literal

from lenskeep.store.database import Database
from lenskeep.store.frames import SUMMARY, FrameSummary, summary_from

Mark = Literal["all", "doubtful", "changed"]
_WHERE: dict[str, str] = {"all": "", "doubtful": " AND f.doubtful = 1", "changed": " AND f.changed = 1"}


@dataclass(frozen=True)
class Place:
    """Where a page begins: at this frame, and how many frames it has."""

    place: str
    id: int
    count: int


@dataclass(frozen=True)
class Counts:
    """How many frames of a shoot there are, by how far they are; ``touched`` is the newest change among them."""

    frames: int
    found: int
    failed: int
    finished: int
    stale: int
    doubtful: int
    changed: int
    touched: int
    first: str | None


_FOUND = "(f.state = 'ready' AND f.found_by <> '')"
_COUNTS = f"""
    count(*) AS frames, coalesce(sum({_FOUND}), 0) AS found,
    coalesce(sum(f.state = 'failed' OR f.render_problem <> ''), 0) AS failed,
    coalesce(sum({_FOUND} AND f.result_key <> '' AND f.result_key = f.wanted_key), 0) AS finished,
    coalesce(sum({_FOUND} AND f.wanted_key <> '' AND f.result_key <> f.wanted_key), 0) AS stale,
    coalesce(sum(f.doubtful), 0) AS doubtful, coalesce(sum(f.changed), 0) AS changed,
    coalesce(max(f.touched), 0) AS touched, min(f.taken_at) AS first
"""


def counts(db: Database, shoot_id: int) -> Counts:
    row = db.reader.execute(f"SELECT {_COUNTS} FROM frames f WHERE f.shoot_id = ?", (shoot_id,)).fetchone()
    return Counts(**dict(row))


def all_counts(db: Database) -> dict[int, Counts]:
    """The same of every shoot, by its id; shoots without frames are not in it."""
    sql = f"SELECT f.shoot_id AS shoot, {_COUNTS} FROM frames f GROUP BY f.shoot_id"
    out = {}
    for row in db.reader.execute(sql):
        data = dict(row)
        shoot = int(data.pop("shoot"))
        out[shoot] = Counts(**data)
    return out


def pages(db: Database, shoot_id: int, mark: Mark, size: int) -> list[Place]:
    """Where the pages of so many frames begin."""
    sql = f"""
        SELECT place, id, n FROM (
            SELECT f.place, f.id, row_number() OVER (ORDER BY f.place, f.id) - 1 AS n
            FROM frames f WHERE f.shoot_id = ?{_WHERE[mark]}
        ) WHERE n % ? = 0
    """
    rows = db.reader.execute(sql, (shoot_id, size)).fetchall()
    total = db.reader.execute(
        f"SELECT count(*) FROM frames f WHERE f.shoot_id = ?{_WHERE[mark]}", (shoot_id,)
    ).fetchone()[0]
    return [Place(str(r["place"]), int(r["id"]), min(size, total - int(r["n"]))) for r in rows]


def page(db: Database, shoot_id: int, mark: Mark, place: str, frame_id: int, size: int) -> list[FrameSummary]:
    """So many frames from a place on, that one included; from the first one on for ("", 0)."""
    sql = f"""
        SELECT {SUMMARY} FROM frames f WHERE f.shoot_id = ? AND (f.place, f.id) >= (?, ?){_WHERE[mark]}
        ORDER BY f.place, f.id LIMIT ?
    """
    return [summary_from(row) for row in db.reader.execute(sql, (shoot_id, place, frame_id, size))]


@dataclass(frozen=True)
class Neighbours:
    """The frames beside one among those of a mark: it is number ``at`` of ``of``."""

    before: int | None
    after: int | None
    at: int
    of: int


def neighbours(db: Database, frame: FrameSummary, mark: Mark) -> Neighbours:
    """Where a frame stands. It counts as one of them even where it lacks the mark."""
    where, key = _WHERE[mark], (frame.shoot_id, frame.place, frame.id)
    below = f"FROM frames f WHERE f.shoot_id = ? AND (f.place, f.id) < (?, ?){where}"
    above = f"FROM frames f WHERE f.shoot_id = ? AND (f.place, f.id) > (?, ?){where}"
    one = db.reader.execute
    before = one(f"SELECT f.id {below} ORDER BY f.place DESC, f.id DESC LIMIT 1", key).fetchone()
    after = one(f"SELECT f.id {above} ORDER BY f.place, f.id LIMIT 1", key).fetchone()
    at, behind = one(f"SELECT count(*) {below}", key).fetchone()[0], one(f"SELECT count(*) {above}", key).fetchone()[0]
    return Neighbours(before["id"] if before else None, after["id"] if after else None, at + 1, at + 1 + behind)


def touched_since(db: Database, shoot_id: int, touched: int, limit: int) -> list[FrameSummary]:
    """Frames that changed after a moment (``FrameSummary.touched``), the oldest change first."""
    sql = f"SELECT {SUMMARY} FROM frames f WHERE f.shoot_id = ? AND f.touched > ? ORDER BY f.touched LIMIT ?"
    return [summary_from(row) for row in db.reader.execute(sql, (shoot_id, touched, limit))]


def covers(db: Database, shoot_id: int, found: int, count: int) -> list[FrameSummary]:
    """A few frames with masks, evenly over a shoot that has ``found`` of them."""
    step = max(1, found // count)
    sql = f"""
        SELECT {SUMMARY} FROM frames f WHERE f.id IN (SELECT id FROM (
            SELECT f.id, row_number() OVER (ORDER BY f.place, f.id) - 1 AS n FROM frames f
            WHERE f.shoot_id = ? AND {_FOUND}) WHERE n % ? = 0 LIMIT ?)
        ORDER BY f.place, f.id
    """
    return [summary_from(row) for row in db.reader.execute(sql, (shoot_id, step, count))]

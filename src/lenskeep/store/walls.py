"""Reading a shoot's frames a page at a time, in order, all or those of one mark; counting them; noticing changes."""

from dataclasses import dataclass
from typing import Literal

from lenskeep.store.database import Database
from lenskeep.store.frames import SUMMARY, FrameSummary, summary_from

Mark = Literal["all", "doubtful", "warned", "changed", "rejected"]
_WHERE: dict[str, str] = {
    "all": "",
    "doubtful": " AND f.doubtful = 1",
    "changed": " AND f.changed = 1",
    "warned": " AND f.warned = 1",
    "rejected": " AND f.rejected = 1",
}


@dataclass(frozen=True)
class Place:
    """Where a page begins: at this frame, and how many frames it has."""

    place: str
    id: int
    count: int


@dataclass(frozen=True)
class Counts:
    """How many frames of a shoot there are, by how far they are. ``finds`` grows when masks are found or lost,
    ``touched`` is the newest change among them, ``first`` is when the first one was taken.
    """

    frames: int
    found: int
    failed: int
    finished: int
    stale: int
    doubtful: int
    changed: int
    finds: int
    touched: int
    first: str | None


_SUMS = ", ".join(f"coalesce(sum(s.{name}), 0) AS {name}" for name in (
    "frames", "found", "failed", "finished", "stale", "doubtful", "changed", "finds",
))  # fmt: skip
_COUNTS = f"""
    {_SUMS},
    (SELECT coalesce(max(f.touched), 0) FROM frames f WHERE f.shoot_id = s.shoot_id) AS touched,
    (SELECT f.taken_at FROM frames f WHERE f.shoot_id = s.shoot_id ORDER BY f.place, f.id LIMIT 1) AS first
"""


def counts(db: Database, shoot_id: int) -> Counts:
    """From what is kept with every change of a frame, however many there are."""
    row = db.reader.execute(f"SELECT {_COUNTS} FROM standings s WHERE s.shoot_id = ?", (shoot_id,)).fetchone()
    return Counts(**dict(row))


@dataclass(frozen=True)
class SceneCounts:
    """The same of one scene."""

    frames: int
    found: int
    failed: int
    finished: int
    stale: int
    doubtful: int
    changed: int


def scene_counts(db: Database, shoot_id: int) -> dict[int, SceneCounts]:
    """Of every scene of a shoot, by its id."""
    sql = """
        SELECT s.scene_id, s.frames, s.found, s.failed, s.finished, s.stale, s.doubtful, s.changed
        FROM standings s WHERE s.shoot_id = ?
    """
    out = {}
    for row in db.reader.execute(sql, (shoot_id,)):
        data = dict(row)
        scene = int(data.pop("scene_id"))
        out[scene] = SceneCounts(**data)
    return out


def all_counts(db: Database) -> dict[int, Counts]:
    """The same of every shoot, by its id."""
    out = {}
    for row in db.reader.execute(f"SELECT s.shoot_id AS shoot, {_COUNTS} FROM standings s GROUP BY s.shoot_id"):
        data = dict(row)
        shoot = int(data.pop("shoot"))
        out[shoot] = Counts(**data)
    return out


def marked(db: Database, shoot_id: int, mark: Mark) -> int:
    """How many frames of a shoot have a mark."""
    sql = f"SELECT count(*) FROM frames f WHERE f.shoot_id = ?{_WHERE[mark]}"
    return int(db.reader.execute(sql, (shoot_id,)).fetchone()[0])


def ids_by_scene(db: Database, shoot_id: int, show: str) -> list[tuple[int, int]]:
    """(frame, scene) of a shoot's frames in order: those of a mark, and all for any other word."""
    where = f"f.shoot_id = ?{_WHERE.get(show, '')}"
    sql = f"SELECT f.id, f.scene_id FROM frames f WHERE {where} ORDER BY f.place, f.id"
    return [(int(row["id"]), int(row["scene_id"])) for row in db.reader.execute(sql, (shoot_id,))]


def pages(db: Database, shoot_id: int, mark: Mark, size: int, scene_id: int | None = None) -> list[Place]:
    """Where the pages of so many frames of a shoot, or of one of its scenes, begin. Goes from one to the next in the
    index, past the frames between.
    """
    out: list[Place] = []
    within, shoot_id = ("shoot_id", shoot_id) if scene_id is None else ("scene_id", scene_id)
    after = f"FROM frames f WHERE f.{within} = ? AND (f.place, f.id) > (?, ?){_WHERE[mark]}"
    jump = f"SELECT f.place, f.id {after} ORDER BY f.place, f.id LIMIT 1 OFFSET ?"
    place, frame_id, step = "", 0, 0
    while row := db.reader.execute(jump, (shoot_id, place, frame_id, step)).fetchone():
        place, frame_id, step = str(row["place"]), int(row["id"]), size - 1
        out.append(Place(place, frame_id, size))
    if out:
        rest = f"SELECT count(*) {after}"
        count = 1 + int(db.reader.execute(rest, (shoot_id, place, frame_id)).fetchone()[0])
        out[-1] = Place(place, frame_id, count)
    return out


def page(
    db: Database, shoot_id: int, mark: Mark, place: str, frame_id: int, size: int, scene_id: int | None = None
) -> list[FrameSummary]:
    """So many frames of a shoot, or of one of its scenes, from a place on, that one included; from the first one on
    for ("", 0).
    """
    within, shoot_id = ("shoot_id", shoot_id) if scene_id is None else ("scene_id", scene_id)
    sql = f"""
        SELECT {SUMMARY} FROM frames f WHERE f.{within} = ? AND (f.place, f.id) >= (?, ?){_WHERE[mark]}
        ORDER BY f.place, f.id LIMIT ?
    """
    return [summary_from(row) for row in db.reader.execute(sql, (shoot_id, place, frame_id, size))]


def found_around(db: Database, frame: FrameSummary, count: int) -> list[FrameSummary]:
    """Up to so many frames with masks before one, and as many after it, in order, without the frame itself."""
    where, key = "f.shoot_id = ? AND f.found = 1 AND (f.place, f.id)", (frame.shoot_id, frame.place, frame.id, count)
    out: list[FrameSummary] = []
    for side, order in (("<", "f.place DESC, f.id DESC"), (">", "f.place, f.id")):
        sql = f"SELECT {SUMMARY} FROM frames f WHERE {where} {side} (?, ?) ORDER BY {order} LIMIT ?"
        rows = [summary_from(row) for row in db.reader.execute(sql, key)]
        out += rows[::-1] if side == "<" else rows
    return out


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


def covers(db: Database, shoot_id: int, count: int) -> list[FrameSummary]:
    """A few frames, evenly over a shoot: of a small one by order, of a larger one as they came in. Those with masks
    where there are enough of them; until then all, as they came.
    """
    one = db.reader.execute
    some = "SELECT count(*) FROM (SELECT 1 FROM frames f WHERE f.shoot_id = ? AND f.found = 1 LIMIT ?)"
    if one(some, (shoot_id, count)).fetchone()[0] < count:
        few = f"SELECT {SUMMARY} FROM frames f WHERE f.shoot_id = ? ORDER BY f.place, f.id LIMIT ?"
        held = [summary_from(row) for row in one(few, (shoot_id, 4 * count))]
        return [held[i * len(held) // count] for i in range(count)] if len(held) > count else held
    few = f"SELECT {SUMMARY} FROM frames f WHERE f.shoot_id = ? AND f.found = 1 ORDER BY f.id LIMIT ?"
    held = [summary_from(row) for row in one(few, (shoot_id, 4 * count + 1))]
    if len(held) <= 4 * count:
        held.sort(key=lambda f: (f.place, f.id))
        return [held[i * len(held) // count] for i in range(count)] if len(held) > count else held
    last = one("SELECT max(f.id) FROM frames f WHERE f.shoot_id = ? AND f.found = 1", (shoot_id,)).fetchone()[0]
    begin = held[0].id
    near = f"SELECT {SUMMARY} FROM frames f WHERE f.shoot_id = ? AND f.found = 1 AND f.id >= ? ORDER BY f.id LIMIT 1"
    chosen = (one(near, (shoot_id, begin + i * (last - begin) // count)).fetchone() for i in range(count))
    unlike = {row["id"]: summary_from(row) for row in chosen if row}
    return sorted(unlike.values(), key=lambda f: (f.place, f.id))

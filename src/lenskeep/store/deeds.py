"""What was done to frames by hand: kept as what each had before and after, to be undone and done again in one step."""

import json
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from itertools import islice
from typing import Any

from lenskeep.store.clock import now
from lenskeep.store.database import Database

PLAIN = ("accepted", "rating", "rejected", "scene_id")
"""Columns that are set as they are; of what the others say, more follows than their value."""
COLUMNS = ("override", *PLAIN, "turn")
MOST_KEPT = 200
"""Deeds of a shoot that can be undone; older ones stay done."""
_CHUNK = 500
State = dict[str, Any]


@dataclass(frozen=True)
class Deed:
    """``words`` says what was done, such as "base of 12 frames"."""

    id: int
    words: str


@dataclass(frozen=True)
class Step:
    """What undoing or doing again changes of one frame: those columns that are as the deed left them."""

    frame_id: int
    found: State
    wanted: State


def states(db: Database, frame_ids: Iterable[int]) -> dict[int, State]:
    """What can be changed of frames, by their ids; those that are gone are left out."""
    out: dict[int, State] = {}
    for some in _chunks(frame_ids):
        marks = ", ".join("?" * len(some))
        for row in db.reader.execute(f"SELECT id, {', '.join(COLUMNS)} FROM frames WHERE id IN ({marks})", some):
            out[int(row["id"])] = {name: row[name] for name in COLUMNS}
    return out


def keep(db: Database, shoot_id: int, words: str, before: dict[int, State]) -> int | None:
    """Write a deed down that has just been done to frames that were like this ``before``; what was undone till then
    can't be done again. None, and nothing kept, when nothing changed.
    """
    after = states(db, before)
    rows = []
    for frame_id, was in before.items():
        changed = [name for name in COLUMNS if frame_id in after and after[frame_id][name] != was[name]]
        if changed:
            rows.append((frame_id, _text(was, changed), _text(after[frame_id], changed)))
    if not rows:
        return None
    with db.writing() as write:
        write.execute("DELETE FROM deeds WHERE shoot_id = ? AND undone = 1", (shoot_id,))
        sql = "INSERT INTO deeds (shoot_id, words, done_at) VALUES (?, ?, ?)"
        deed_id = int(write.execute(sql, (shoot_id, words, now())).lastrowid or 0)
        write.executemany("INSERT INTO deed_frames VALUES (?, ?, ?, ?)", [(deed_id, *row) for row in rows])
        oldest = "SELECT id FROM deeds WHERE shoot_id = ? ORDER BY id DESC LIMIT -1 OFFSET ?"
        write.execute(f"DELETE FROM deeds WHERE id IN ({oldest})", (shoot_id, MOST_KEPT))
    return deed_id


def last_done(db: Database, shoot_id: int) -> Deed | None:
    """What an undo takes back."""
    return _one(db, "undone = 0 ORDER BY id DESC", shoot_id)


def last_undone(db: Database, shoot_id: int) -> Deed | None:
    """What is done again next."""
    return _one(db, "undone = 1 ORDER BY id", shoot_id)


def _one(db: Database, which: str, shoot_id: int) -> Deed | None:
    row = db.reader.execute(
        f"SELECT id, words FROM deeds WHERE shoot_id = ? AND {which} LIMIT 1", (shoot_id,)
    ).fetchone()
    return Deed(int(row["id"]), str(row["words"])) if row else None


def steps(db: Database, deed_id: int, back: bool) -> tuple[list[Step], int]:
    """What undoing (``back``) a deed, or doing it again, changes of each frame; and on how many frames something was
    changed since, which then stays.
    """
    rows = db.reader.execute("SELECT frame_id, before, after FROM deed_frames WHERE deed_id = ?", (deed_id,)).fetchall()
    current = states(db, [int(row["frame_id"]) for row in rows])
    out, stays = [], 0
    for row in rows:
        before, after, has = json.loads(row["before"]), json.loads(row["after"]), current[int(row["frame_id"])]
        found, wanted = (after, before) if back else (before, after)
        same = {name for name in found if has[name] == found[name]}
        stays += len(same) < len(found)
        out.append(Step(int(row["frame_id"]), has, {name: wanted[name] for name in wanted if name in same}))
    return out, stays


def mark(db: Database, deed_id: int, undone: bool) -> None:
    with db.writing() as write:
        write.execute("UPDATE deeds SET undone = ? WHERE id = ?", (int(undone), deed_id))


def set_column(db: Database, name: str, value: int, frame_ids: Iterable[int]) -> None:
    """Set one of ``PLAIN`` on frames."""
    if name not in PLAIN:
        raise ValueError(name)
    with db.writing() as write:
        write.executemany(f"UPDATE frames SET {name} = ?1 WHERE id = ?2", [(value, frame_id) for frame_id in frame_ids])


def _text(state: State, names: list[str]) -> str:
    return json.dumps({name: state[name] for name in names})


def _chunks(ids: Iterable[int]) -> Iterator[list[int]]:
    rest = iter(ids)
    while some := list(islice(rest, _CHUNK)):
        yield some

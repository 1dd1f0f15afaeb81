"""What was done to frames by hand: kept as what each had before and after, to be undone and done again in one step."""

import json
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from itertools import islice
from typing import Any

from lenskeep.core.recipes.overrides import FrameOverride
from lenskeep.store.clock import now
from lenskeep.store.database import Database
from lenskeep.store.frames import readable

PLAIN = ("accepted", "rating", "rejected", "scene_id", "checked_key", "checked_at", "checked_how")
"""Columns that are set as they are; of what the others say, more follows than their value."""
COLUMNS = ("override", *PLAIN, "turn")
"""Of ``override`` each part counts by itself: its base, repairs, clean-up, strength, steps …"""
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

    @property
    def wanted_override(self) -> State:
        """The parts of what the frame changes that are to be others."""
        return dict(self.wanted.get("override", {}))


def states(db: Database, frame_ids: Iterable[int]) -> dict[int, State]:
    """What can be changed of frames, by their ids; those that are gone are left out."""
    out: dict[int, State] = {}
    for some in _chunks(frame_ids):
        marks = ", ".join("?" * len(some))
        for row in db.reader.execute(f"SELECT id, {', '.join(COLUMNS)} FROM frames WHERE id IN ({marks})", some):
            out[int(row["id"])] = {name: row[name] for name in COLUMNS} | {"override": _parts(row["override"])}
    return out


def _parts(text: str) -> State:
    """What a frame changes, part by part; one that can't be read is a part of its own."""
    if text == "{}":
        return _NOTHING
    whole = readable(FrameOverride, text)
    return {"unread": text} if whole is None else whole.model_dump(mode="json")


_NOTHING: State = FrameOverride().model_dump(mode="json")


def keep(db: Database, shoot_id: int, words: str, before: dict[int, State]) -> int | None:
    """Write a deed down that has just been done to frames that were like this ``before``; what was undone till then
    can't be done again. None, and nothing kept, when nothing changed.
    """
    after = states(db, before)
    rows = []
    for frame_id, was in before.items():
        changed = [name for name in COLUMNS if frame_id in after and after[frame_id][name] != was[name]]
        if changed:
            parts = _differing(was["override"], after[frame_id]["override"])
            rows.append((frame_id, _text(was, changed, parts), _text(after[frame_id], changed, parts)))
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
        before, after, has = _read(row["before"]), _read(row["after"]), current[int(row["frame_id"])]
        found, wanted = (after, before) if back else (before, after)
        same = {name for name in found if name != "override" and has[name] == found[name]}
        values = {name: wanted[name] for name in wanted if name in same}
        parts = found.get("override", {})
        own = {k: wanted["override"][k] for k in parts if has["override"].get(k) == parts[k] and k != "unread"}
        stays += len(same) + len(own) < len(found.keys() - {"override"}) + len(parts)
        out.append(Step(int(row["frame_id"]), has, values | ({"override": own} if own else {})))
    return out, stays


def _read(text: str) -> State:
    """A state as it was kept; an earlier version kept what a frame changes as one text."""
    state: State = json.loads(text)
    if isinstance(state.get("override"), str):
        state["override"] = _parts(state["override"])
    return state


def _differing(one: State, other: State) -> list[str]:
    """The parts in which two states of what a frame changes differ."""
    return [k for k in {**one, **other} if one.get(k) != other.get(k)]


def mark(db: Database, deed_id: int, undone: bool) -> None:
    with db.writing() as write:
        write.execute("UPDATE deeds SET undone = ? WHERE id = ?", (int(undone), deed_id))


def set_column(db: Database, name: str, value: int | str, frame_ids: Iterable[int]) -> None:
    """Set one of ``PLAIN`` on frames."""
    if name not in PLAIN:
        raise ValueError(name)
    with db.writing() as write:
        write.executemany(f"UPDATE frames SET {name} = ?1 WHERE id = ?2", [(value, frame_id) for frame_id in frame_ids])


def _text(state: State, names: list[str], parts: list[str]) -> str:
    held = {name: state[name] for name in names}
    if "override" in held:
        held["override"] = {k: state["override"].get(k) for k in parts}
    return json.dumps(held)


def _chunks(ids: Iterable[int]) -> Iterator[list[int]]:
    rest = iter(ids)
    while some := list(islice(rest, _CHUNK)):
        yield some

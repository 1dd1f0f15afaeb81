"""What was found on frames: facts by picture and detectors, and their summary on every frame of that picture."""

import sqlite3
from collections.abc import Collection, Mapping
from typing import Any

from lenskeep.core.facts import Facts
from lenskeep.files.reading.photo import Base
from lenskeep.store.clock import now
from lenskeep.store.database import Database
from lenskeep.store.frames import readable
from lenskeep.store.summaries import CONTENT, NOT_FOUND, doubt_of, summary_of


def _set(names: dict[str, Any]) -> str:
    return ", ".join(f"{name} = :{name}" for name in names)


def keep_facts(db: Database, content: str, facts: Facts, frame_id: int | None = None) -> None:
    """Keep what was found on a picture, for all frames of it whose masks come from the same detectors, and for one
    frame, which is ready by it. Frames whose masks were repaired have facts of their own (``keep_own_facts``).
    """
    sql = """
        INSERT INTO findings (sha256, detector, facts, trust, made_at) VALUES (?, ?, ?, ?, ?)
        ON CONFLICT DO UPDATE SET facts = excluded.facts, trust = excluded.trust, made_at = excluded.made_at
    """
    made = now()
    same = f"f.sha256 = :sha AND {CONTENT} = :content AND f.found_by = :found_by AND f.own_facts = ''"
    values = {"content": content, "sha": content[:64], "found_by": facts.detector}
    with db.writing() as write:
        write.execute(sql, (content, facts.detector, facts.model_dump_json(), facts.trust, made))
        for row in write.execute(f"SELECT f.id FROM frames f WHERE {same}", values).fetchall():
            _summarise(write, int(row["id"]), facts, made)
        if frame_id is not None:
            mark_ready(db, frame_id, facts, made)


def keep_sight(
    db: Database, content: str, detector: str, signature: bytes, sharp: float, stops: float | None = None
) -> None:
    """What else was measured when masks were found: what is around the subject, how sharp that is, and the exposure."""
    sql = """
        UPDATE findings SET signature = ?, sharp = ?, stops = coalesce(?, stops) WHERE sha256 = ? AND detector = ?
    """
    with db.writing() as write:
        write.execute(sql, (signature, sharp, stops, content, detector))


def sights(db: Database, shoot_id: int) -> dict[int, tuple[bytes, float]]:
    """(signature, sharpness) of a shoot's frames with masks by their ids; those found by an earlier version lack it."""
    sql = f"""
        SELECT f.id, n.signature, n.sharp FROM frames f
        JOIN findings n ON n.detector = f.found_by AND n.sha256 = {CONTENT}
        WHERE f.shoot_id = ? AND n.signature IS NOT NULL
    """
    return {int(r["id"]): (bytes(r["signature"]), float(r["sharp"])) for r in db.reader.execute(sql, (shoot_id,))}


def stops(db: Database, shoot_id: int) -> dict[int, float]:
    """The exposure in stops of a shoot's frames with masks, of those whose files say it."""
    sql = f"""
        SELECT f.id, n.stops FROM frames f JOIN findings n ON n.detector = f.found_by AND n.sha256 = {CONTENT}
        WHERE f.shoot_id = ? AND n.stops IS NOT NULL
    """
    return {int(r["id"]): float(r["stops"]) for r in db.reader.execute(sql, (shoot_id,))}


def mark_ready(db: Database, frame_id: int, facts: Facts, found_at: str) -> None:
    """A frame's masks are there."""
    with db.writing() as write:
        _summarise(write, frame_id, facts, found_at, state="ready", problem="")


def keep_own_facts(db: Database, frame_id: int, facts: Facts, by_hand: bool) -> None:
    """What is known of one frame after its masks were repaired, or (not ``by_hand``) what was found, once more."""
    with db.writing() as write:
        _summarise(write, frame_id, facts, now(), own_facts=facts.model_dump_json() if by_hand else "")


def _summarise(write: sqlite3.Connection, frame_id: int, facts: Facts, found_at: str, **more: Any) -> None:
    """Write a frame's summary, as the look of its scene uses masks, and ``more`` columns."""
    sql = "SELECT s.uses FROM frames f JOIN scenes s ON s.id = f.scene_id WHERE f.id = ?"
    row = write.execute(sql, (frame_id,)).fetchone()
    if row is not None:
        summary = summary_of(facts, found_at, row["uses"].split()) | more
        write.execute(f"UPDATE frames SET {_set(summary)} WHERE id = :id", summary | {"id": frame_id})


def use_masks(db: Database, scene_id: int, used: Collection[str]) -> None:
    """A scene's look uses these masks by now: its frames are doubtful for them alone."""
    uses = " ".join(sorted(used))
    with db.writing() as write:
        if write.execute("UPDATE scenes SET uses = ?1 WHERE id = ?2 AND uses <> ?1", (uses, scene_id)).rowcount == 0:
            return
        _doubt(write, scene_id, used)


def doubt_again(db: Database, scene_id: int) -> None:
    """Frames came into a scene: they are doubtful for the masks that its look uses."""
    with db.writing() as write:
        uses = write.execute("SELECT uses FROM scenes WHERE id = ?", (scene_id,)).fetchone()
        if uses is not None:
            _doubt(write, scene_id, uses["uses"].split())


def _doubt(write: sqlite3.Connection, scene_id: int, used: Collection[str]) -> None:
    sql = "SELECT id, doubts, doubt, reason FROM frames WHERE scene_id = ? AND (doubts <> '{}' OR doubt = 1)"
    for row in write.execute(sql, (scene_id,)).fetchall():
        doubt, trust, reason = doubt_of(row["doubts"], used)
        if (doubt, reason) != (row["doubt"], row["reason"]):
            change = "UPDATE frames SET doubt = ?, trust = ?, reason = ? WHERE id = ?"
            write.execute(change, (doubt, trust, reason, row["id"]))


def repaired_frames(db: Database, content: str) -> list[int]:
    """Frames of a picture whose masks were repaired."""
    sql = f"SELECT f.id FROM frames f WHERE f.sha256 = :sha AND {CONTENT} = :content AND f.own_facts <> ''"
    return [int(row[0]) for row in db.reader.execute(sql, {"content": content, "sha": content[:64]})]


def mark_failed(db: Database, frame_id: int, problem: str) -> None:
    with db.writing() as write:
        write.execute("UPDATE frames SET state = 'failed', problem = ? WHERE id = ?", (problem, frame_id))


def mark_waiting(db: Database, frame_id: int) -> None:
    """A frame's masks, or their files, are gone: they are to be found again."""
    with db.writing() as write:
        write.execute("UPDATE frames SET state = 'waiting', problem = '' WHERE id = ?", (frame_id,))


def forget_facts(db: Database, frame_ids: list[int]) -> None:
    """These frames' masks are to be found anew; what was found stays with other frames of the same pictures."""
    with db.writing() as write:
        reset = f"UPDATE frames SET {_set(NOT_FOUND)}, state = 'waiting', problem = '' WHERE id = :id"
        write.executemany(reset, [NOT_FOUND | {"id": frame_id} for frame_id in frame_ids])


def turn(db: Database, turns: Mapping[int, int]) -> None:
    """Stand frames otherwise, by their ids, so many quarter turns clockwise from how they came; their masks are to be
    found again, and finished pictures of the other way are none of theirs.
    """
    reset = f"""
        UPDATE frames SET turn = :turn, {_set(NOT_FOUND)}, state = 'waiting', problem = '', result_key = '',
            guards = '',
            width = CASE (turn - :turn) % 2 WHEN 0 THEN width ELSE height END,
            height = CASE (turn - :turn) % 2 WHEN 0 THEN height ELSE width END
        WHERE id = :id AND turn <> :turn
    """
    with db.writing() as write:
        write.executemany(reset, [NOT_FOUND | {"id": i, "turn": turn} for i, turn in turns.items()])


def facts_of(db: Database, content: str, detector: str) -> tuple[Facts, str] | None:
    """(facts, when they were found) of a picture, by its content."""
    sql = "SELECT facts, made_at FROM findings WHERE sha256 = ? AND detector = ?"
    row = db.reader.execute(sql, (content, detector)).fetchone()
    facts = readable(Facts, row["facts"]) if row else None
    return (facts, str(row["made_at"])) if facts is not None else None


def set_raw_base(db: Database, shoot_id: int, base: Base) -> None:
    """Bring every raw file of a shoot to a picture in another way; their masks are to be found again."""
    reset = f"UPDATE frames SET raw_base = :base, {_set(NOT_FOUND)}, state = 'waiting' "
    with db.writing() as write:
        write.execute("UPDATE shoots SET raw_base = ? WHERE id = ?", (base, shoot_id))
        write.execute(
            reset + "WHERE shoot_id = :shoot AND raw_base <> ''", NOT_FOUND | {"base": base, "shoot": shoot_id}
        )

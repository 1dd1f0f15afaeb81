"""What was found on frames: facts by picture and detectors, and their summary on every frame of that picture."""

from typing import Any

from lenskeep.core.facts import Facts
from lenskeep.files.reading.photo import Base
from lenskeep.store.clock import now
from lenskeep.store.database import Database
from lenskeep.store.frames import CONTENT, readable
from lenskeep.store.summaries import NOT_FOUND, summary_of


def _set(names: dict[str, Any]) -> str:
    return ", ".join(f"{name} = :{name}" for name in names)


def keep_facts(db: Database, content: str, facts: Facts, frame_id: int | None = None) -> None:
    """Keep what was found on a picture, for all frames of it whose masks come from the same detectors, and for one
    frame, which is ready by it. Frames whose masks were repaired have facts of their own (``keep_own_facts``).
    """
    sql = "INSERT OR REPLACE INTO findings (sha256, detector, facts, trust, made_at) VALUES (?, ?, ?, ?, ?)"
    made = now()
    summary = summary_of(facts, made)
    with db.writing() as write:
        write.execute(sql, (content, facts.detector, facts.model_dump_json(), facts.trust, made))
        update = f"UPDATE frames AS f SET {_set(summary)}"
        here = f"f.sha256 = :sha AND {CONTENT} = :content AND f.found_by = :found_by AND f.own_facts = ''"
        write.execute(f"{update} WHERE {here}", summary | {"content": content, "sha": content[:64]})
        if frame_id is not None:
            write.execute(f"{update}, state = 'ready', problem = '' WHERE f.id = :id", summary | {"id": frame_id})


def mark_ready(db: Database, frame_id: int, facts: Facts, found_at: str) -> None:
    """A frame's masks are there: they were found before, on the same picture."""
    summary = summary_of(facts, found_at)
    with db.writing() as write:
        sql = f"UPDATE frames SET {_set(summary)}, state = 'ready', problem = '' WHERE id = :id"
        write.execute(sql, summary | {"id": frame_id})


def keep_own_facts(db: Database, frame_id: int, facts: Facts, by_hand: bool) -> None:
    """What is known of one frame after its masks were repaired, or (not ``by_hand``) what was found, once more."""
    summary = summary_of(facts, now())
    own = facts.model_dump_json() if by_hand else ""
    with db.writing() as write:
        sql = f"UPDATE frames SET {_set(summary)}, own_facts = :own WHERE id = :id"
        write.execute(sql, summary | {"own": own, "id": frame_id})


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


def forget_other_finders(db: Database, detector: str) -> int:
    """Frames whose masks other detectors than these have found are to be found again; returns how many."""
    sql = f"UPDATE frames SET {_set(NOT_FOUND)}, state = 'waiting' WHERE found_by NOT IN ('', :now)"
    with db.writing() as write:
        return write.execute(sql, NOT_FOUND | {"now": detector}).rowcount


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

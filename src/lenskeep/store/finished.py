"""Finished pictures of frames: which one each wants, which one is there, and why there is none."""

import json
from collections import Counter
from collections.abc import Sequence

from lenskeep.store.database import Database


def set_wanted(db: Database, keys: dict[int, str]) -> None:
    """Which picture each of these frames wants, by the frame's id."""
    with db.writing() as write:
        sql = "UPDATE frames SET wanted_key = ?1 WHERE id = ?2 AND wanted_key <> ?1"
        write.executemany(sql, [(key, frame_id) for frame_id, key in keys.items()])


def settled(db: Database, name: str) -> str:
    """For which version of the "engine", or of "plans", it was worked out what frames want; "" before that."""
    row = db.reader.execute("SELECT value FROM settled WHERE name = ?", (name,)).fetchone()
    return str(row["value"]) if row else ""


def note_settled(db: Database, name: str, value: str) -> None:
    with db.writing() as write:
        write.execute("INSERT OR REPLACE INTO settled VALUES (?, ?)", (name, value))


def scenes_with_looks(db: Database) -> list[int]:
    return [int(row[0]) for row in db.reader.execute("SELECT DISTINCT scene_id FROM layers")]


def unsettle(db: Database, engine: str) -> bool:
    """After another engine: what every frame with a look wants is worked out anew. False when it is the same one."""
    with db.writing() as write:
        if settled(db, "engine") == engine:
            return False
        note_settled(db, "engine", engine)
        write.execute("UPDATE frames SET wanted_key = '?' WHERE scene_id IN (SELECT scene_id FROM layers)")
        return True


def scenes_to_settle(db: Database) -> list[int]:
    """Scenes with frames whose wanted picture is not worked out."""
    sql = "SELECT DISTINCT scene_id FROM frames WHERE wanted_key = '?'"
    return [int(row["scene_id"]) for row in db.reader.execute(sql)]


def overrides_of_scene(
    db: Database, scene_id: int, only_unsettled: bool = False
) -> list[tuple[int, str, str, int, str, str]]:
    """(id, sha256, raw base, turn, override as JSON, detectors that its masks come from) of a scene's frames."""
    sql = """
        SELECT id, sha256, raw_base, turn, override, found_by FROM frames
        WHERE scene_id = ? AND (? = 0 OR wanted_key = '?')
    """
    rows = db.reader.execute(sql, (scene_id, only_unsettled))
    return [tuple(row) for row in rows]


def keep_result(
    db: Database,
    frame_id: int,
    key: str,
    missing: list[str],
    guards: Sequence[tuple[str, float, str, str]] = (),
    pull: str = "",
) -> bool:
    """A picture is there that a frame wants, what its steps asked for in vain, what guards found on it (guard, figure,
    step, its name), and its subject's pull. False, and nothing kept, when the frame wants another one by now.
    """
    sql = """
        UPDATE frames SET result_key = ?1, missing = ?2, guards = ?4, pull = ?5, render_problem = ''
        WHERE id = ?3 AND wanted_key = ?1
    """
    with db.writing() as write:
        values = (key, json.dumps(missing), frame_id, json.dumps(guards), pull)
        return write.execute(sql, values).rowcount > 0


def warnings(db: Database, scene_id: int) -> dict[str, int]:
    """On how many finished frames of a scene each guard warns, the commonest first."""
    counts: Counter[str] = Counter()
    for row in db.reader.execute("SELECT guards FROM frames WHERE scene_id = ? AND warned = 1", (scene_id,)):
        counts.update({str(fault[0]) for fault in json.loads(row["guards"])})
    return dict(counts.most_common())


def set_render_problem(db: Database, frame_id: int, problem: str) -> None:
    """Why a frame could not be rendered; "" when it was."""
    with db.writing() as write:
        sql = "UPDATE frames SET render_problem = ?1 WHERE id = ?2 AND render_problem <> ?1"
        write.execute(sql, (problem, frame_id))


def drop_results(db: Database, shoot_id: int) -> None:
    with db.writing() as write:
        write.execute("UPDATE frames SET result_key = '', missing = '[]' WHERE shoot_id = ?", (shoot_id,))

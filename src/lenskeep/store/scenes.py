"""Scenes of a shoot: each with its key frame, its look and its Bench."""

from collections import Counter
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any

from lenskeep.store.clock import now
from lenskeep.store.database import Database
from lenskeep.store.ids import fresh


@dataclass(frozen=True)
class Scene:
    id: int
    shoot_id: int
    place: int
    name: str
    key_frame_id: int | None
    uses: str

    @property
    def masks_used(self) -> frozenset[str]:
        """The found masks that its look uses; subject and sky while it has none."""
        return frozenset(self.uses.split())


_SELECT = "SELECT id, shoot_id, place, name, key_frame_id, uses FROM scenes"


def add_scene(db: Database, shoot_id: int, name: str) -> int:
    """A new scene, behind the others."""
    sql = """
        INSERT INTO scenes (id, shoot_id, place, name, created_at)
        SELECT ?4, ?1, 1 + coalesce(max(place), 0), ?2, ?3 FROM scenes WHERE shoot_id = ?1
    """
    with db.writing() as write:
        scene_id = fresh(write, "scenes")
        write.execute(sql, (shoot_id, name, now(), scene_id))
        return scene_id


def scenes(db: Database, shoot_id: int) -> list[Scene]:
    """A shoot's scenes in order."""
    return [
        Scene(**dict(row)) for row in db.reader.execute(_SELECT + " WHERE shoot_id = ? ORDER BY place", (shoot_id,))
    ]


def scene(db: Database, scene_id: int) -> Scene | None:
    row = db.reader.execute(_SELECT + " WHERE id = ?", (scene_id,)).fetchone()
    return Scene(**dict(row)) if row else None


def first_scene(db: Database, shoot_id: int) -> Scene | None:
    """The one that a shoot begins with; None when there is no such shoot."""
    row = db.reader.execute(_SELECT + " WHERE shoot_id = ? ORDER BY place LIMIT 1", (shoot_id,)).fetchone()
    return Scene(**dict(row)) if row else None


def frame_ids(db: Database, scene_ids: Iterable[int]) -> list[int]:
    """The frames of scenes, in order."""
    out: list[int] = []
    for scene_id in scene_ids:
        sql = "SELECT id FROM frames WHERE scene_id = ? ORDER BY place, id"
        out += [int(row["id"]) for row in db.reader.execute(sql, (scene_id,))]
    return out


def last_scene(db: Database, shoot_id: int) -> Scene | None:
    """The one that a shoot ends with; None when there is no such shoot."""
    own = scenes(db, shoot_id)
    filled = _filled(db, shoot_id)
    return next((s for s in reversed(own) if s.id in filled), own[0] if own else None)


def _filled(db: Database, shoot_id: int) -> set[int]:
    """Scenes with frames."""
    rows = db.reader.execute("SELECT scene_id FROM standings WHERE shoot_id = ? AND frames > 0", (shoot_id,))
    return {int(row["scene_id"]) for row in rows}


def shown(db: Database, shoot_id: int) -> list[Scene]:
    """The scenes that have frames, in order; of a shoot without frames its first one. Those that were emptied keep
    their look and their Bench, in case frames come back.
    """
    own, filled = scenes(db, shoot_id), _filled(db, shoot_id)
    return [s for s in own if s.id in filled] or own[:1]


def placed(db: Database, shoot_id: int) -> dict[int, tuple[int, int]]:
    """(scene, how it came there) of a shoot's frames, by their ids."""
    rows = db.reader.execute("SELECT id, scene_id, placed FROM frames WHERE shoot_id = ?", (shoot_id,))
    return {int(r["id"]): (int(r["scene_id"]), int(r["placed"])) for r in rows}


def move(db: Database, frame_ids: Iterable[int], scene_id: int, placed: int) -> None:
    """Put frames into a scene; ``placed``: 1 as it was found, 2 by hand."""
    with db.writing() as write:
        sql = "UPDATE frames SET scene_id = ?1, placed = ?2 WHERE id = ?3"
        write.executemany(sql, [(scene_id, placed, frame_id) for frame_id in frame_ids])


def set_placed(db: Database, scene_id: int, placed: int) -> None:
    """How all frames of a scene came into it."""
    with db.writing() as write:
        write.execute("UPDATE frames SET placed = ? WHERE scene_id = ?", (placed, scene_id))


def rename(db: Database, scene_id: int, name: str) -> None:
    """Give a scene a name of one's own."""
    with db.writing() as write:
        write.execute("UPDATE scenes SET name = ?, by_hand = 1 WHERE id = ?", (name, scene_id))


def put_in_order(db: Database, shoot_id: int, named: Callable[[int, str | None], str]) -> None:
    """Number a shoot's scenes in the order of their first frames, those without any behind; ``named`` gives the name of
    one by its number and when its first frame was taken, where it has none of its own.
    """
    sql = """
        SELECT s.id, s.by_hand, min(f.place) AS first,
            (SELECT g.taken_at FROM frames g WHERE g.scene_id = s.id ORDER BY g.place, g.id LIMIT 1) AS taken
        FROM scenes s LEFT JOIN frames f ON f.scene_id = s.id WHERE s.shoot_id = ?
        GROUP BY s.id ORDER BY first IS NULL, first, s.place
    """
    with db.writing() as write:
        rows = write.execute(sql, (shoot_id,)).fetchall()
        write.execute("UPDATE scenes SET place = -place - 1 WHERE shoot_id = ?", (shoot_id,))
        for number, row in enumerate(rows, 1):
            write.execute("UPDATE scenes SET place = ? WHERE id = ?", (number, row["id"]))
            if not row["by_hand"] and row["first"] is not None:
                write.execute("UPDATE scenes SET name = ? WHERE id = ?", (named(number, row["taken"]), row["id"]))


def set_bursts(db: Database, bursts: dict[int, tuple[int, bool]]) -> None:
    """(number of its burst, 0 for none, and whether it is the best of it) by frame; what is so already stays."""
    sql = "UPDATE frames SET burst = ?1, burst_best = ?2 WHERE id = ?3 AND (burst <> ?1 OR burst_best <> ?2)"
    with db.writing() as write:
        write.executemany(sql, [(number, int(best), frame_id) for frame_id, (number, best) in bursts.items()])


def finds(db: Database, scene_id: int) -> int:
    """A number that grows when masks are found or lost in a scene, or frames come and go."""
    row = db.reader.execute("SELECT finds FROM standings WHERE scene_id = ?", (scene_id,)).fetchone()
    return int(row["finds"]) if row else 0


def set_key_frame(db: Database, scene_id: int, frame_id: int, only_first: bool = False) -> None:
    """Make a frame a scene's key frame; ``only_first`` leaves one that is there."""
    sql = "UPDATE scenes SET key_frame_id = ?1 WHERE id = ?2 AND (?3 = 0 OR key_frame_id IS NULL)"
    with db.writing() as write:
        write.execute(sql, (frame_id, scene_id, only_first))


def mend_key_frame(db: Database, scene_id: int) -> None:
    """A key frame that went to another scene is replaced by the scene's first one with masks."""
    sql = """
        UPDATE scenes SET key_frame_id = (SELECT f.id FROM frames f WHERE f.scene_id = ?1 AND f.found = 1
            ORDER BY f.doubtful, f.place, f.id LIMIT 1)
        WHERE id = ?1 AND (key_frame_id IS NULL
            OR NOT EXISTS (SELECT 1 FROM frames f WHERE f.id = key_frame_id AND f.scene_id = ?1))
    """
    with db.writing() as write:
        write.execute(sql, (scene_id,))


def frames_with_masks(db: Database, scene_id: int) -> dict[str, Any]:
    """{"of": how many frames of a scene have masks, "with": {mask: on how many of them it was found}}."""
    sql = """SELECT areas, sky_area > 0 AS sky, count(*) AS n FROM frames
        WHERE scene_id = ? AND found_by <> '' GROUP BY areas, sky_area > 0"""
    total, found = 0, Counter[str]()
    for row in db.reader.execute(sql, (scene_id,)):
        total += row["n"]
        for mask in (*row["areas"].split(), *(["sky"] if row["sky"] else [])):
            found[mask] += row["n"]
    return {"of": total, "with": dict(found)}

"""Scenes of a shoot: each with its key frame, its look and its Bench."""

from collections import Counter
from dataclasses import dataclass
from typing import Any

from lenskeep.store.clock import now
from lenskeep.store.database import Database


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
        INSERT INTO scenes (shoot_id, place, name, created_at)
        SELECT ?1, 1 + coalesce(max(place), 0), ?2, ?3 FROM scenes WHERE shoot_id = ?1
    """
    with db.writing() as write:
        return int(write.execute(sql, (shoot_id, name, now())).lastrowid or 0)


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


def set_key_frame(db: Database, scene_id: int, frame_id: int, only_first: bool = False) -> None:
    """Make a frame a scene's key frame; ``only_first`` leaves one that is there."""
    sql = "UPDATE scenes SET key_frame_id = ?1 WHERE id = ?2 AND (?3 = 0 OR key_frame_id IS NULL)"
    with db.writing() as write:
        write.execute(sql, (frame_id, scene_id, only_first))


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

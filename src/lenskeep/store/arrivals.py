"""Frames that come in."""

from typing import Protocol

from lenskeep.files.reading.photo import Base
from lenskeep.store.clock import now
from lenskeep.store.database import Database
from lenskeep.store.ids import fresh
from lenskeep.store.scenes import last_scene

WITHOUT_TIME = "~"
"""Stands for the capture time of frames that have none, so that they come last."""


def add_frame(
    db: Database,
    shoot_id: int,
    *,
    file_name: str,
    sha256: str,
    suffix: str,
    size: int,
    width: int,
    height: int,
    taken_at: str | None,
    raw_base: Base = "",
) -> int | None:
    """Add a frame to a shoot's last scene, where it waits to be placed; None when the shoot has the same file already,
    or is gone.
    """
    sql = """
        INSERT INTO frames (shoot_id, scene_id, place, file_name, sha256, suffix, bytes, width, height, taken_at,
            raw_base, brought_in_at, id, wanted_key)
        VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, CASE WHEN EXISTS (SELECT 1 FROM layers WHERE scene_id = ?2)
            THEN '?' ELSE '' END) ON CONFLICT (shoot_id, sha256) DO NOTHING
    """
    with db.writing() as write:
        scene = last_scene(db, shoot_id)
        if scene is None:
            return None
        place = f"{taken_at or WITHOUT_TIME} {file_name}"
        frame_id = fresh(write, "frames")
        file = (file_name, sha256, suffix, size, width, height, taken_at, raw_base)
        values = (shoot_id, scene.id, place, *file, now(), frame_id)
        return frame_id if write.execute(sql, values).rowcount else None


class Seen(Protocol):
    """What was seen of a file that was looked at."""

    @property
    def sha256(self) -> str: ...
    @property
    def suffix(self) -> str: ...
    @property
    def size(self) -> int: ...
    @property
    def width(self) -> int: ...
    @property
    def height(self) -> int: ...
    @property
    def taken_at(self) -> str | None: ...
    @property
    def base(self) -> Base: ...


def add_seen(db: Database, shoot_id: int, name: str, seen: Seen) -> int | None:
    """The same for a file that was looked at."""
    return add_frame(
        db,
        shoot_id,
        file_name=name,
        sha256=seen.sha256,
        suffix=seen.suffix,
        size=seen.size,
        width=seen.width,
        height=seen.height,
        taken_at=seen.taken_at,
        raw_base=seen.base,
    )

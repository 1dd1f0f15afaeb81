"""What frames need to meet their scene's key frame, as it was measured last."""

from collections.abc import Iterable
from dataclasses import dataclass

from lenskeep.store.clock import now
from lenskeep.store.database import Database


@dataclass(frozen=True)
class Need:
    """What to add to a frame's untouched picture: EV, mired, thousandths of Duv. ``left`` is what its pairs left."""

    frame_id: int
    ev: float
    mired: float
    duv: float
    sure: bool
    left: tuple[float, float, float] = (0.0, 0.0, 0.0)

    @property
    def values(self) -> tuple[float, float, float]:
        return self.ev, self.mired, self.duv


def keep(db: Database, scene_id: int, key_frame_id: int, needs: Iterable[Need]) -> None:
    """Keep what frames of a scene need to meet its key frame, in place of what was known of them."""
    sql = """
        INSERT OR REPLACE INTO evenness SELECT ?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11
        WHERE EXISTS (SELECT 1 FROM frames WHERE id = ?1) AND EXISTS (SELECT 1 FROM frames WHERE id = ?3)
    """
    stamp = now()
    with db.writing() as write:
        rows = [(n.frame_id, scene_id, key_frame_id, *n.values, int(n.sure), *n.left, stamp) for n in needs]
        write.executemany(sql, rows)


def needs(db: Database, scene_id: int) -> dict[int, Need]:
    """By frame, of those that were held to the key frame that the scene has now and are still in it."""
    sql = """
        SELECT e.* FROM evenness e JOIN scenes s ON s.id = e.scene_id JOIN frames f ON f.id = e.frame_id
        WHERE e.scene_id = ? AND e.key_frame_id = s.key_frame_id AND f.scene_id = e.scene_id
    """
    out = {}
    for row in db.reader.execute(sql, (scene_id,)):
        left = (float(row["left_ev"]), float(row["left_mired"]), float(row["left_duv"]))
        values = (float(row["ev"]), float(row["mired"]), float(row["duv"]))
        out[int(row["frame_id"])] = Need(int(row["frame_id"]), *values, bool(row["sure"]), left)
    return out

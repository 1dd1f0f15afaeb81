"""Assets of recipes: files in the library named by their content, and which recipes refer to them."""

import hashlib
from collections.abc import Mapping
from pathlib import Path

from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.models import Recipe
from lenskeep.files.written import holds, write_whole
from lenskeep.store.clock import now
from lenskeep.store.database import Database
from lenskeep.store.moves import asset_file


def asset_path(db: Database, key: str) -> Path:
    """Where an asset's file lies."""
    return asset_file(db.path.parent, key)


def keep_assets(db: Database, assets: Mapping[str, bytes]) -> None:
    """Take assets into the library; what is there already stays, unless it was altered."""
    for key, data in assets.items():
        path = asset_path(db, key)
        with db.writing() as write:
            # anew from now on, before its file is looked for: who brings it in once more is about to use it
            sql = "INSERT INTO assets VALUES (?, ?, ?) ON CONFLICT DO UPDATE SET brought_in_at = excluded.brought_in_at"
            write.execute(sql, (key, len(data), now()))
        if not holds(path, key):
            write_whole(path, data)


def asset_bytes(db: Database, key: str) -> bytes | None:
    """None when it is not there as it came."""
    try:
        data = asset_path(db, key).read_bytes()
    except OSError:
        return None
    return data if hashlib.sha256(data).hexdigest() == key else None


def assets_of(db: Database, recipe: Recipe) -> dict[str, bytes]:
    """What a recipe refers to, as far as it is there."""
    held = {key: asset_bytes(db, key) for key in recipe.assets()}
    return {key: data for key, data in held.items() if data is not None}


def note_use(db: Database, table: str, owner: str, owner_id: int, recipe: Recipe) -> None:
    """Write down what a recipe refers to, for as long as it is kept. Raises UserProblem when that is not there."""
    keys = sorted(recipe.assets())
    with db.writing() as write:
        known = {key for key in keys if write.execute("SELECT 1 FROM assets WHERE sha256 = ?", (key,)).fetchone()}
        if lost := len(keys) - len(known):
            raise UserProblem(
                f"{lost} of the pictures or tables of {recipe.name} are not in the library. Bring them in."
            )
        sql = f"INSERT OR IGNORE INTO {table} ({owner}, sha256) VALUES (?, ?)"
        write.executemany(sql, [(owner_id, key) for key in keys])


_UNUSED = """
    a.brought_in_at < ?
    AND NOT EXISTS (SELECT 1 FROM version_assets v WHERE v.sha256 = a.sha256)
    AND NOT EXISTS (SELECT 1 FROM state_assets s WHERE s.sha256 = a.sha256)
    AND NOT EXISTS (SELECT 1 FROM named_assets n WHERE n.sha256 = a.sha256)
    AND NOT EXISTS (SELECT 1 FROM frames f WHERE f.changed = 1 AND instr(f.override, a.sha256) > 0)
    AND NOT EXISTS (SELECT 1 FROM deed_frames d WHERE instr(d.before, a.sha256) > 0 OR instr(d.after, a.sha256) > 0)
    AND NOT EXISTS (SELECT 1 FROM jobs j WHERE j.kind = 'export' AND instr(j.options, a.sha256) > 0)
    AND NOT EXISTS (SELECT 1 FROM jobs j JOIN job_items i ON i.job_id = j.id
        WHERE (j.kind = 'export' OR j.state IN ('queued', 'running', 'cancelling')) AND instr(i.given, a.sha256) > 0)
    AND NOT EXISTS (SELECT 1 FROM ways w WHERE instr(w.options, a.sha256) > 0)
"""


def unused(db: Database, before: str) -> list[str]:
    """The keys of assets that no recipe, Bench, frame, undo, hand-over, job or way needs, brought in before then."""
    return [str(row["sha256"]) for row in db.reader.execute(f"SELECT sha256 FROM assets a WHERE {_UNUSED}", (before,))]


def forget(db: Database, key: str, before: str) -> int | None:
    """Take an asset out of the library, row and file, if it is unused still; returns its bytes, None where it stays.
    The file goes in the same transaction: whoever brings it in again finds both there, or neither.
    """
    path = asset_path(db, key)
    with db.writing() as write:
        sql = f"DELETE FROM assets WHERE sha256 = ? AND sha256 IN (SELECT sha256 FROM assets a WHERE {_UNUSED})"
        if not write.execute(sql, (key, before)).rowcount:
            return None
        size = path.stat().st_size if path.is_file() else 0
        path.unlink(missing_ok=True)
        return size

"""Assets of recipes: files in the library named by their content, and which recipes refer to them."""

from collections.abc import Iterable, Mapping
from pathlib import Path

from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.models import Recipe
from lenskeep.files.written import write_whole
from lenskeep.store.clock import now
from lenskeep.store.database import Database
from lenskeep.store.moves import asset_file


def asset_path(db: Database, key: str) -> Path:
    """Where an asset's file lies."""
    return asset_file(db.path.parent, key)


def keep_assets(db: Database, assets: Mapping[str, bytes]) -> None:
    """Take assets into the library; what is there already stays."""
    for key, data in assets.items():
        path = asset_path(db, key)
        if not path.is_file() or path.stat().st_size != len(data):
            write_whole(path, data)
        with db.writing() as write:
            # anew from now on: who brings it in once more is about to use it
            sql = "INSERT INTO assets VALUES (?, ?, ?) ON CONFLICT DO UPDATE SET brought_in_at = excluded.brought_in_at"
            write.execute(sql, (key, len(data), now()))


def asset_bytes(db: Database, key: str) -> bytes | None:
    """None when it is not there."""
    try:
        return asset_path(db, key).read_bytes()
    except OSError:
        return None


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


def unused(db: Database, before: str) -> list[str]:
    """The keys of assets that no recipe, Bench, frame, hand-over or way refers to, brought in before a moment."""
    sql = """
        SELECT sha256 FROM assets a WHERE brought_in_at < ?
        AND NOT EXISTS (SELECT 1 FROM version_assets v WHERE v.sha256 = a.sha256)
        AND NOT EXISTS (SELECT 1 FROM state_assets s WHERE s.sha256 = a.sha256)
        AND NOT EXISTS (SELECT 1 FROM named_assets n WHERE n.sha256 = a.sha256)
        AND NOT EXISTS (SELECT 1 FROM frames f WHERE f.changed = 1 AND instr(f.override, a.sha256) > 0)
        AND NOT EXISTS (SELECT 1 FROM jobs j WHERE j.kind = 'export' AND instr(j.options, a.sha256) > 0)
        AND NOT EXISTS (SELECT 1 FROM ways w WHERE instr(w.options, a.sha256) > 0)
    """
    return [str(row["sha256"]) for row in db.reader.execute(sql, (before,))]


def forget(db: Database, keys: Iterable[str]) -> None:
    """Take assets out of the library, row and file."""
    for key in keys:
        with db.writing() as write:
            write.execute("DELETE FROM assets WHERE sha256 = ?", (key,))
        asset_path(db, key).unlink(missing_ok=True)

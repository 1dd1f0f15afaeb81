"""What a migration does that SQL can't: recipes brought to format 2, summaries and keys worked out."""

import hashlib
import json
import sqlite3
from collections.abc import Callable, Collection
from pathlib import Path
from typing import Any

from lenskeep.core.facts import MAIN_MASKS, Facts
from lenskeep.core.recipes.layers import Layer, masks_used
from lenskeep.core.recipes.models import Recipe
from lenskeep.files.formats import FIRST, upgraded
from lenskeep.files.written import write_whole
from lenskeep.store.clock import now
from lenskeep.store.splices import splice, spliced
from lenskeep.store.summaries import BROUGHT, summary_of

_NEWEST = "SELECT facts, made_at FROM findings WHERE sha256 = ? ORDER BY made_at DESC, detector DESC LIMIT 1"
_KEYED_BY = ("engine-3", "find-3")
"""Engine and detectors of the last version before."""


def asset_file(home: Path, key: str) -> Path:
    """Where an asset lies in the library."""
    return home / "assets" / key[:2] / key


def to_scenes(write: sqlite3.Connection, home: Path) -> None:
    """After 0004: what the new columns say, keys of finished pictures as they are, every recipe in format 2."""
    _summarise(write)
    _keep_keys(write)
    for row in write.execute("SELECT id, body FROM recipe_versions").fetchall():
        body, keys = _moved(write, home, row["body"])
        write.execute("UPDATE recipe_versions SET body = ? WHERE id = ?", (body, row["id"]))
        write.executemany("INSERT INTO version_assets VALUES (?, ?)", [(row["id"], key) for key in sorted(keys)])
    for row in write.execute("SELECT DISTINCT scene_id FROM draft_states").fetchall():
        _move_states(write, home, int(row["scene_id"]))


def _summarise(write: sqlite3.Connection) -> None:
    """What was found on each frame, by its newest finding."""
    for frame in write.execute("SELECT id, sha256, raw_base, override FROM frames").fetchall():
        content = frame["sha256"] + ("" if frame["raw_base"] in ("", "soft") else f"-{frame['raw_base']}")
        row = write.execute(_NEWEST, (content,)).fetchone()
        try:
            facts = Facts.model_validate_json(row["facts"]) if row else None
        except ValueError:
            facts = None
        if facts is not None:
            values = summary_of(facts, row["made_at"])
            del values["doubts"]  # comes with a later migration
            names = ", ".join(f"{name} = ?" for name in values)
            write.execute(f"UPDATE frames SET {names} WHERE id = ?", (*values.values(), frame["id"]))
        changed = _plain(frame["override"]).get("strength", 1.0) != 1.0 or bool(_plain(frame["override"]).get("steps"))
        write.execute("UPDATE frames SET changed = ? WHERE id = ?", (changed, frame["id"]))


def _keep_keys(write: sqlite3.Connection) -> None:
    """A finished picture that is as its look wants it stays that; other frames' keys are worked out when they are asked
    for.
    """
    sql = """
        SELECT f.id, f.sha256, f.raw_base, f.override, f.result_key, l.strength, v.body
        FROM frames f JOIN layers l ON l.scene_id = f.scene_id JOIN recipe_versions v ON v.id = l.version_id
    """
    for row in write.execute(sql).fetchall():
        wanted = row["result_key"] if row["result_key"] and row["result_key"] == _key_before(row) else "?"
        write.execute("UPDATE frames SET wanted_key = ? WHERE id = ?", (wanted, row["id"]))
    write.execute("INSERT INTO settled VALUES ('engine', ?)", (_KEYED_BY[0],))


def _key_before(row: sqlite3.Row) -> str:
    """The key of a frame's picture as the version before worked it out."""
    content = row["sha256"] + ("" if row["raw_base"] in ("", "soft") else f"-{row['raw_base']}")
    own = _plain(row["override"])
    steps = {
        name: {"enabled": step.get("enabled"), "strength": step.get("strength")}
        for name, step in dict(own.get("steps", {})).items()
    }
    override = {"strength": float(own.get("strength", 1.0)), "steps": steps}
    parts = [*_KEYED_BY, content, _plain(row["body"]), float(row["strength"]), override]
    texts = [json.dumps(part, sort_keys=True, separators=(",", ":")) for part in parts]
    return hashlib.sha256(f"[{','.join(texts)}]".encode()).hexdigest()[:32]


def _plain(text: str) -> dict[str, Any]:
    try:
        data = json.loads(text)
    except (ValueError, RecursionError):
        return {}
    return data if isinstance(data, dict) else {}


def _moved(write: sqlite3.Connection, home: Path, body: str) -> tuple[str, set[str]]:
    """A recipe's text in format 2 and the keys of its assets, which are written. What can't be read stays as it is."""
    data = _plain(body)
    if data.get("format", FIRST) != FIRST:
        return body, set()
    try:
        plain, assets = upgraded(data)
        recipe = Recipe.model_validate(plain)
    except (ValueError, RecursionError):
        return body, set()
    for key, content in assets.items():
        if not asset_file(home, key).exists():
            write_whole(asset_file(home, key), content)
        write.execute("INSERT OR IGNORE INTO assets VALUES (?, ?, ?)", (key, len(content), now()))
    return recipe.model_dump_json(), set(assets) & recipe.assets()


def _move_states(write: sqlite3.Connection, home: Path, scene_id: int) -> None:
    """The states of one Bench, from the newest, which is whole, back to the oldest."""
    sql = "SELECT id, body, spliced FROM draft_states WHERE scene_id = ? ORDER BY position DESC"
    before = after = ""  # the state that follows, as it was and as it is now
    for row in write.execute(sql, (scene_id,)).fetchall():
        whole = spliced(before, row["body"]) if row["spliced"] else str(row["body"])
        moved, keys = _moved(write, home, whole)
        body = splice(after, moved) if row["spliced"] else moved
        write.execute("UPDATE draft_states SET body = ? WHERE id = ?", (body, row["id"]))
        write.executemany("INSERT INTO state_assets VALUES (?, ?)", [(row["id"], key) for key in sorted(keys)])
        before, after = whole, moved


def to_doubts(write: sqlite3.Connection, home: Path) -> None:
    """After 0006: which masks each look uses, and which of them are doubtful on each frame."""
    used: dict[int, Collection[str]] = {}
    for row in write.execute("SELECT id FROM scenes").fetchall():
        used[int(row["id"])] = _used(write, int(row["id"]))
        uses = " ".join(sorted(used[int(row["id"])]))
        write.execute("UPDATE scenes SET uses = ? WHERE id = ?", (uses, row["id"]))
    sql = f"""
        SELECT f.id, f.scene_id, n.facts FROM frames f
        JOIN findings n ON n.detector = f.found_by AND n.sha256 = {BROUGHT}
    """
    for row in write.execute(sql).fetchall():
        try:
            facts = Facts.model_validate_json(row["facts"])
        except ValueError:
            continue
        told = summary_of(facts, "", used[int(row["scene_id"])])
        values = (told["doubts"], told["doubt"], told["trust"], told["reason"], row["id"])
        write.execute("UPDATE frames SET doubts = ?, doubt = ?, trust = ?, reason = ? WHERE id = ?", values)


def _used(write: sqlite3.Connection, scene_id: int) -> Collection[str]:
    """The masks that a scene's look uses; subject and sky without one, or where it can't be read."""
    sql = """
        SELECT v.body FROM layers l JOIN recipe_versions v ON v.id = l.version_id WHERE l.scene_id = ?
    """
    try:
        recipes = [Recipe.model_validate_json(row["body"]) for row in write.execute(sql, (scene_id,)).fetchall()]
    except ValueError:
        return MAIN_MASKS
    return masks_used([Layer(recipe) for recipe in recipes]) if recipes else MAIN_MASKS


AFTER: dict[str, Callable[[sqlite3.Connection, Path], None]] = {
    "0004_scenes.sql": to_scenes,
    "0006_repairs.sql": to_doubts,
}
"""What runs after a migration's SQL, in its transaction, by the migration's name."""

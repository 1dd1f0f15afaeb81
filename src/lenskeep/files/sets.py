"""Set files: recipes and effects of one set in one JSON file, with assets, previews, a note and an author.

Every entry carries the hash of its recipe, so that what was altered on the way is found. What this version does not
understand is not thrown away: it is handed back as it is.
"""

import base64
import hashlib
import json
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

from pydantic import ValidationError

from lenskeep.core.names import shown_name, shown_text
from lenskeep.core.problems import validation_words
from lenskeep.core.recipes.models import MOST_BYTES, Recipe
from lenskeep.files.assets import check_assets
from lenskeep.files.recipes import RecipeProblem, decoded, named_well, parsed

SET_FORMAT = "lenskeep-set/1"
MOST_ENTRIES = 500
Kind = Literal["recipe", "effect"]


@dataclass(frozen=True)
class Entry:
    """A recipe, or an effect as a recipe of one step, with its tags."""

    kind: Kind
    recipe: Recipe
    tags: str = ""


@dataclass(frozen=True)
class Unread:
    """An entry that this version does not understand: its name, why, and its recipe as JSON."""

    name: str
    why: str
    body: str


@dataclass(frozen=True)
class SetFile:
    """A set; ``assets`` by their keys, ``previews`` as JPEGs by the entries' names."""

    name: str
    entries: tuple[Entry, ...]
    author: str = ""
    note: str = ""
    assets: Mapping[str, bytes] = field(default_factory=dict)
    previews: Mapping[str, bytes] = field(default_factory=dict)
    unread: tuple[Unread, ...] = ()


def hash_of(plain: Any) -> str:
    """SHA-256 of plain data in its canonical form: sorted names, no blanks."""
    text = json.dumps(plain, sort_keys=True, ensure_ascii=False, separators=(",", ":"))
    return hashlib.sha256(text.encode()).hexdigest()


def set_to_json(made: SetFile) -> str:
    """A set file. Raises RecipeProblem when it would be too long or an asset is gone."""
    needed = {key for entry in made.entries for key in entry.recipe.assets()}
    if lost := needed - set(made.assets):
        raise RecipeProblem(f"{len(lost)} of the pictures or tables of {made.name} are gone from the library.")
    entries = []
    for entry in made.entries:
        plain = entry.recipe.model_dump(mode="json")
        entries.append({"kind": entry.kind, "tags": entry.tags, "sha256": hash_of(plain), "recipe": plain})
    for each in made.unread:
        plain = json.loads(each.body)
        entries.append({"kind": "unread", "tags": "", "sha256": hash_of(plain), "recipe": plain})
    data = {
        "format": SET_FORMAT,
        "name": made.name,
        "author": made.author,
        "note": made.note,
        "entries": entries,
        "assets": {key: base64.b64encode(made.assets[key]).decode() for key in sorted(needed)},
        "previews": {name: base64.b64encode(jpeg).decode() for name, jpeg in made.previews.items()},
    }
    text = json.dumps(data, ensure_ascii=False, indent=1) + "\n"
    if len(text) > MOST_BYTES:
        raise RecipeProblem(f"This set would be longer than {MOST_BYTES // 1_000_000} MB. Export it in two.")
    return text


def is_set(text: str) -> bool:
    """Whether a file says that it is a set."""
    return f'"{SET_FORMAT}"' in text[:4000]


def set_from_json(text: str, name: str = "This set") -> SetFile:
    """Parse and check a set file. Raises RecipeProblem where it can't be read or was altered."""
    data = parsed(text, name, "set")
    if not isinstance(data, dict) or data.get("format") != SET_FORMAT:
        raise RecipeProblem(f'{name} is not a set of Lens Keep: "format" must be "{SET_FORMAT}".')
    held = data.get("entries")
    if not isinstance(held, list) or not held or len(held) > MOST_ENTRIES:
        raise RecipeProblem(f"{name} holds no recipes, or more than {MOST_ENTRIES}. Export it again.")
    assets, previews = decoded(data.get("assets", {}), name), decoded(data.get("previews", {}), name)
    entries, unread = [], []
    for place, each in enumerate(held, 1):
        read = _entry(each, place, name)
        if isinstance(read, Entry):
            check_assets(read.recipe, assets, read.recipe.name)
            entries.append(read)
        else:
            unread.append(read)
    words = {key: str(data.get(key, ""))[:2000] for key in ("name", "author", "note")}
    needed = {key for entry in entries for key in entry.recipe.assets()}
    return SetFile(
        shown_name(words["name"])[:80] or "Set",
        tuple(entries),
        shown_name(words["author"])[:200],
        shown_text(words["note"]),
        {key: data for key, data in assets.items() if key in needed},
        previews,
        tuple(unread),
    )


def _entry(each: Any, place: int, name: str) -> Entry | Unread:
    plain = each.get("recipe") if isinstance(each, dict) else None
    if not isinstance(plain, dict):
        raise RecipeProblem(f"{name} can't be used: entry {place} holds no recipe.")
    title = shown_name(str(plain.get("name", "")))[:80] or f"Entry {place}"
    if each.get("sha256") != hash_of(plain):
        raise RecipeProblem(f"{name} can't be used: “{title}” was altered after it was exported. Ask for it again.")
    body = json.dumps(plain, ensure_ascii=False, separators=(",", ":"))
    kind = each.get("kind")
    if kind not in ("recipe", "effect"):
        return Unread(title, "it is of a kind that this version does not know", body)
    try:
        recipe = Recipe.model_validate(plain)
    except (ValidationError, RecursionError) as error:
        why = validation_words(error, whole_place=True) if isinstance(error, ValidationError) else "it nests too deeply"
        return Unread(title, why, body)
    if kind == "effect" and len(recipe.steps) != 1:
        return Unread(title, "an effect has one step", body)
    return Entry(kind, named_well(recipe), shown_name(str(each.get("tags", "")))[:200])

"""Keeping the book: renamed, copied, filed, deleted, given again; sets out and in; a table brought in as an effect."""

from dataclasses import dataclass
from pathlib import Path

from lenskeep.core.names import shown_name
from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes import edit
from lenskeep.core.recipes.effects import Effect
from lenskeep.files.assets import in_memory
from lenskeep.files.sets import Entry, SetFile, Unread
from lenskeep.store import assets, book, looks, recipes
from lenskeep.store.assets import keep_assets
from lenskeep.store.recipes import KINDS, RecipeVersion
from lenskeep.studio import looks as giving
from lenskeep.studio import untrusted
from lenskeep.studio.book import effects
from lenskeep.studio.book.previews import preview
from lenskeep.studio.book.take_in import take_in
from lenskeep.studio.library import Library

GONE = "This is no longer in the book. Reload the page."
LONGEST_TAGS = 200


def newest_of(library: Library, recipe_id: int) -> RecipeVersion:
    """Raises UserProblem when it is gone."""
    found = recipes.versions(library.db, recipe_id)
    if not found:
        raise UserProblem(GONE)
    return found[0]


def rename(library: Library, recipe_id: int, name: str) -> None:
    """Its versions keep what is in them; it is called otherwise from now on. Raises UserProblem."""
    newest_of(library, recipe_id)
    book.rename(library.db, recipe_id, _named(name))


def _named(name: str) -> str:
    shown = shown_name(name)[:80]
    if not shown:
        raise UserProblem("Give it a name.")
    return shown


def copy(library: Library, recipe_id: int, name: str) -> RecipeVersion:
    """The newest version under another name, as version 1. Raises UserProblem, UnreadableRecipe."""
    found = newest_of(library, recipe_id)
    called = _named(name)
    if called in recipes.names(library.db):
        raise UserProblem(f"“{called}” is in the book already. Choose another name.")
    made = edit.changed(found.recipe, name=called)
    return recipes.save_recipe(library.db, made, found.kind, found.shelf)


def file_under(library: Library, recipe_id: int, shelf: str, tags: str) -> None:
    """Put it into a set, "" for none, with tags as words. Raises UserProblem."""
    newest_of(library, recipe_id)
    words = " ".join(dict.fromkeys(tags.replace(",", " ").lower().split()))
    if len(words) > LONGEST_TAGS:
        raise UserProblem("That are too many tags. Leave some away.")
    book.file_under(library.db, recipe_id, shown_name(shelf)[:80], words)


def note(library: Library, recipe_id: int, text: str) -> RecipeVersion:
    """Say when it serves: a new version, as everything that is in a recipe. Raises UserProblem, UnreadableRecipe."""
    found = newest_of(library, recipe_id)
    changed = edit.changed(found.recipe, note=text.strip()[:2000], name=found.name)
    return recipes.save_recipe(library.db, changed, found.kind)


def delete(library: Library, recipe_id: int) -> None:
    """Take it out of the book. Raises UserProblem that says where it is used, and then it stays."""
    found = newest_of(library, recipe_id)
    used = book.uses(library.db, recipe_id)
    if used:
        where = ", ".join(dict.fromkeys(f"{use.shoot} ({use.scene})" for use in used))
        raise UserProblem(f"“{found.name}” is in the look of {where}. Give these another look first.")
    book.remove(library.db, recipe_id)


def give_again(library: Library, version_id: int) -> RecipeVersion:
    """An older version once more, as the newest. Raises UserProblem, UnreadableRecipe."""
    version = recipes.version(library.db, version_id)
    if version is None:
        raise UserProblem(GONE)
    return recipes.save_recipe(library.db, edit.changed(version.recipe, name=version.name), version.kind)


def move_on(library: Library, recipe_id: int, scene_id: int) -> None:
    """Give a scene the newest version in place of the one that its look has. Raises UserProblem."""
    newest, look = newest_of(library, recipe_id), looks.look(library.db, scene_id)
    used = [use for use in book.uses(library.db, recipe_id) if use.scene_id == scene_id]
    if look is None or not used:
        raise UserProblem("This scene does not use it any more. Reload the page.")
    old = {use.version_id for use in used}
    layers = [(newest.id if version in old else version, strength, on) for version, strength, on in look.given]
    giving.give_layers(library, used[0].shoot_id, layers, scene_ids=[scene_id])


def set_of(library: Library, shelf: str, author: str = "", note: str = "") -> SetFile:
    """A set of the book as a file's content, with previews on demo frames. Raises UserProblem when it is empty."""
    chosen = [v for v in recipes.newest_versions(library.db, *KINDS) if v.shelf == shelf]
    if not chosen:
        raise UserProblem("There is nothing in this set.")
    readable = [v for v in chosen if not v.unreadable]
    entries = tuple(Entry(v.kind, edit.changed(v.recipe, name=v.name), v.tags) for v in readable)
    held: dict[str, bytes] = {}
    for version in readable:
        held |= assets.assets_of(library.db, version.recipe)
    unread = tuple(Unread(v.name, v.unreadable, v.body) for v in chosen if v.unreadable)
    shown = {entry.recipe.name: preview(entry.recipe, in_memory(held)) for entry in entries}
    return SetFile(shelf or chosen[0].name, entries, author, note, held, shown, unread)


@dataclass(frozen=True)
class TakenSet:
    """A set that came in: how many of it, and in words what was not understood, which is kept."""

    name: str
    count: int
    problems: list[str]


def take_file(library: Library, path: Path, name: str) -> RecipeVersion | TakenSet:
    """A recipe file, a set, or a .cube table, which becomes an effect, into the book. Raises UserProblem."""
    if name.lower().endswith(".cube"):
        return take_table(library, path, name)
    taken = untrusted.recipe_of_upload(path, name)
    if isinstance(taken, SetFile):
        return TakenSet(taken.name, len(taken.entries), take_set(library, taken))
    return take_in(library, taken)


def take_set(library: Library, taken: SetFile) -> list[str]:
    """Put a set into the book; says in words what was not understood, which is kept. Raises UserProblem."""
    with library.db.writing():
        keep_assets(library.db, taken.assets)
        for entry in taken.entries:
            made = recipes.save_recipe(library.db, entry.recipe, entry.kind, taken.name)
            book.file_under(library.db, made.recipe_id, taken.name, entry.tags)
        for each in taken.unread:
            book.keep_unread(library.db, each.name, "recipe", each.body, taken.name)
    return [f"“{each.name}” is kept, but not understood: {each.why}." for each in taken.unread]


def take_table(library: Library, path: Path, name: str) -> RecipeVersion:
    """A .cube table as an effect of its name. Raises UserProblem."""
    fields, data = untrusted.table_fields(path, name)
    keep_assets(library.db, {str(fields["data"]): data})
    title = shown_name(Path(name).stem)[:80] or "Table"
    effect = edit.checked(Effect, {"name": title, "adjustments": [{"kind": "colour_table", **fields}]})
    return effects.keep(library, effect)

"""The recipe book on the command line: listed, shown, compared, out and in, deleted."""

import json
from pathlib import Path
from typing import Annotated

import typer

from lenskeep.cli.shared import app, said, stop, the_library
from lenskeep.core.recipes.differences import differences
from lenskeep.files.sets import set_to_json
from lenskeep.files.written import write_beside
from lenskeep.store import book, recipes
from lenskeep.store.recipes import KINDS, RecipeVersion
from lenskeep.studio.book import shelves
from lenskeep.studio.book.shelves import TakenSet
from lenskeep.studio.book.take_in import file_of
from lenskeep.studio.library import Library

book_app = typer.Typer(no_args_is_help=True, help="The recipe book.")
app.add_typer(book_app, name="book")
Name = Annotated[str, typer.Argument(help="Name of a recipe or an effect, maybe NAME@VERSION.")]


def _found(library: Library, name: str) -> RecipeVersion:
    title, at, number = name.rpartition("@")
    wanted = int(number) if at and number.isdecimal() else None
    every = recipes.versions(library.db, None, *KINDS)
    for version in every:
        if version.name == name or (version.name == title and version.version == wanted):
            return version
    known = ", ".join(dict.fromkeys(v.name for v in every)) or "none yet"
    raise stop(f'There is no "{name}" in the book. Known: {known}.')


def _told(library: Library, version: RecipeVersion) -> dict[str, object]:
    return {
        "name": version.name,
        "kind": version.kind,
        "version": version.version,
        "set": version.shelf,
        "tags": version.tags.split(),
        "note": "" if version.unreadable else version.recipe.note,
        "used": [f"{use.shoot}, {use.scene}" for use in book.uses(library.db, version.recipe_id)],
        "unreadable": version.unreadable,
    }


@book_app.command("list")
def list_(as_json: Annotated[bool, typer.Option("--json")] = False) -> None:
    """Every recipe and effect, with its newest version."""
    library = the_library()
    found = [_told(library, v) for v in recipes.newest_versions(library.db, *KINDS)]
    if as_json:
        typer.echo(json.dumps(found, indent=2, ensure_ascii=False))
        return
    for one in found:
        where = f", in {one['set']}" if one["set"] else ""
        typer.echo(f"{one['name']} ({one['kind']}, version {one['version']}{where})")
    if not found:
        typer.echo("The book is empty. Save a recipe on the Bench, or import one.")


@book_app.command()
def show(name: Name, as_json: Annotated[bool, typer.Option("--json")] = False) -> None:
    """What one does, step by step, and where it is used."""
    library = the_library()
    version = _found(library, name)
    if as_json:
        typer.echo(json.dumps(_told(library, version), indent=2, ensure_ascii=False))
        return
    typer.echo(f"{version.name}, {version.kind}, version {version.version}")
    with said():
        recipe = version.recipe
    if recipe.note:
        typer.echo(recipe.note)
    for step in recipe.steps:
        typer.echo(f"  {step.name}: {recipe.sentence(step)} – {step.does()}, {round(100 * step.strength)} %")
    for use in book.uses(library.db, version.recipe_id):
        typer.echo(f"on {use.shoot}, {use.scene}: version {use.version}")


@book_app.command()
def diff(old: Name, new: Name) -> None:
    """What is another in one than in the other, in words."""
    library = the_library()
    before, after = _found(library, old), _found(library, new)
    with said():
        told = differences(before.recipe, after.recipe)
    typer.echo("\n".join(told) or "Nothing that shows is another.")


@book_app.command("export")
def export_book(
    out: Annotated[Path, typer.Option(help="The file to write; nothing that is there is replaced.")],
    name: Annotated[str | None, typer.Argument(help="Name of a recipe or an effect, maybe NAME@VERSION.")] = None,
    shelf: Annotated[str | None, typer.Option("--set", help="A whole set instead.")] = None,
    author: Annotated[str, typer.Option(help="By whom the set is.")] = "",
    note: Annotated[str, typer.Option(help="A word about the set.")] = "",
) -> None:
    """One recipe, or a whole set, as a file."""
    library = the_library()
    if (name is None) == (shelf is None):
        raise stop("Name one recipe, or a set with --set.")
    with said():
        if shelf is not None:
            text = set_to_json(shelves.set_of(library, shelf, author, note))
        else:
            text = file_of(library, _found(library, name or ""))
        target = write_beside(out, text.encode())
    typer.echo(str(target))


@book_app.command("import")
def import_book(path: Annotated[Path, typer.Argument(help="A recipe, a set, or a .cube table.")]) -> None:
    """Bring a file into the book."""
    library = the_library()
    if not path.is_file():
        raise stop(f"{path} can't be found.")
    with said():
        taken = shelves.take_file(library, path, path.name)
    if isinstance(taken, TakenSet):
        typer.echo(f"{taken.count} of the set {taken.name}")
        for words in taken.problems:
            typer.secho(words, err=True, fg="yellow")
        return
    what = "an effect, " if taken.kind == "effect" else ""
    typer.echo(f"{taken.name}, {what}version {taken.version}")


@book_app.command()
def delete(name: Annotated[str, typer.Argument(help="Name of a recipe or an effect.")]) -> None:
    """Take one out of the book with all its versions; not while a scene uses it."""
    library = the_library()
    with said():
        shelves.delete(library, _found(library, name).recipe_id)
    typer.echo(f"{name} is deleted.")

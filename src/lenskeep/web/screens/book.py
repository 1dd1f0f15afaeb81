"""The recipe book: recipes and effects in sets, shown on frames of a shoot, kept in order."""

from dataclasses import dataclass
from itertools import pairwise
from typing import Annotated
from urllib.parse import urlencode

from fastapi import APIRouter, File, Form, HTTPException, Query, Request, UploadFile
from fastapi.responses import HTMLResponse, JSONResponse, RedirectResponse, Response

from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.differences import differences
from lenskeep.core.recipes.models import MOST_BYTES, Recipe
from lenskeep.core.tabled import colour_table, fits_a_table
from lenskeep.files.cube import write_cube
from lenskeep.files.recipes import RecipeFile, file_schema
from lenskeep.files.sets import set_to_json
from lenskeep.store import book as order
from lenskeep.store import recipes, scenes, shoots
from lenskeep.store.book import Use
from lenskeep.store.recipes import KINDS, RecipeVersion
from lenskeep.store.shoots import Shoot
from lenskeep.studio.book import choices, line_up, shelves, starters
from lenskeep.studio.book.shelves import TakenSet
from lenskeep.studio.book.take_in import file_of, take_in
from lenskeep.web.present import page
from lenskeep.web.studio_of import Id, InStudio, Studio, frame_or_404, received

router = APIRouter()
MOST_SHOWN = 2


@dataclass(frozen=True)
class Earlier:
    """A version, and what the next one changed of it, in words."""

    version: RecipeVersion
    changed: list[str]


@dataclass(frozen=True)
class Entry:
    """A recipe or an effect: its newest version, those before, whether it can leave as a table, who uses it."""

    newest: RecipeVersion
    tabled: bool
    earlier: list[Earlier]
    used: list[Use]


@dataclass(frozen=True)
class Book:
    """``shown_on`` are the frames that everything is shown on: key frames of the chosen ``shoot``."""

    entries: list[Entry]
    starters: tuple[tuple[str, Recipe], ...]
    sets: list[str]
    shoots: list[Shoot]
    shoot: int | None
    shown_on: list[int]
    said: str


@router.get("/recipes", response_class=HTMLResponse)
def book(
    request: Request,
    studio: InStudio,
    on: Annotated[int | None, Query(ge=1)] = None,
    said: Annotated[str, Query(max_length=600)] = "",
) -> HTMLResponse:
    db = studio.library.db
    entries = [_entry(studio, v) for v in recipes.newest_versions(db, *KINDS)]
    every = shoots.shoots(db)
    chosen = next((s.id for s in every if s.id == on), every[0].id if every else None)
    own = scenes.shown(db, chosen) if chosen else []
    shown_on = [s.key_frame_id for s in own if s.key_frame_id][:MOST_SHOWN]
    sets = sorted({e.newest.shelf for e in entries if e.newest.shelf})
    return page(request, "book/book.html", Book(entries, starters.in_sets(), sets, every, chosen, shown_on, said))


def _entry(studio: Studio, newest: RecipeVersion) -> Entry:
    versions = recipes.versions(studio.library.db, newest.recipe_id)
    earlier = [
        Earlier(old, [] if old.unreadable or new.unreadable else differences(old.recipe, new.recipe))
        for new, old in pairwise(versions)
    ]
    tabled = newest.kind == "recipe" and not newest.unreadable and fits_a_table(newest.recipe)
    return Entry(newest, tabled, earlier, order.uses(studio.library.db, newest.recipe_id))


@router.get("/recipes/schema.json")
def schema() -> JSONResponse:
    return JSONResponse(file_schema())


@router.get("/frames/{frame_id}/recipe.jpg")
def shown(studio: InStudio, frame_id: Id, key: Annotated[str, Query(min_length=1, max_length=120)]) -> Response:
    """A frame with a version of the book (its number), or with a ready recipe ("ready NAME")."""
    frame = frame_or_404(studio, frame_id)
    version = recipes.version_at(studio.library.db, key)
    effect = version if version and version.kind == "effect" else None
    recipe = effect.recipe if effect else choices.recipe_at(studio.library, key)
    data = line_up.picture_of_recipe(studio.stage, frame, recipe)
    return Response(data, media_type="image/jpeg", headers={"Cache-Control": "private, max-age=600"})


@router.get("/recipes/versions/{version_id}.cube")
def as_table(studio: InStudio, version_id: Id) -> Response:
    """A recipe of per-pixel adjustments as a .cube colour table; says why when it can't be one."""
    version = _version_or_404(studio, version_id)
    text = write_cube(colour_table(version.recipe, assets=studio.library.assets), version.name)
    return Response(text, media_type="text/plain", headers=_named(f"{version.name}-v{version.version}", "cube"))


@router.get("/recipes/versions/{version_id}.json")
def export(studio: InStudio, version_id: Id) -> Response:
    version = _version_or_404(studio, version_id)
    headers = _named(f"{version.name}-v{version.version}", "json")
    return Response(file_of(studio.library, version), media_type="application/json", headers=headers)


@router.get("/recipes/sets.json")
def export_set(
    studio: InStudio,
    name: Annotated[str, Query(min_length=1, max_length=80)],
    author: Annotated[str, Query(max_length=200)] = "",
    note: Annotated[str, Query(max_length=2000)] = "",
) -> Response:
    """A set as one file."""
    made = shelves.set_of(studio.library, name, author, note)
    return Response(set_to_json(made), media_type="application/json", headers=_named(name, "json"))


def _version_or_404(studio: Studio, version_id: int) -> RecipeVersion:
    version = recipes.version(studio.library.db, version_id)
    if version is None:
        raise HTTPException(404, "This recipe is not in the book.")
    return version


def _named(name: str, suffix: str) -> dict[str, str]:
    safe = "".join(c if c.isalnum() and c.isascii() else "-" for c in name).strip("-") or "recipe"
    return {"content-disposition": f'attachment; filename="{safe}.{suffix}"'}


def _back(said: str = "", recipe_id: int | None = None) -> RedirectResponse:
    query = f"?{urlencode({'said': said[:600]})}" if said else ""
    return RedirectResponse(f"/recipes{query}" + (f"#recipe-{recipe_id}" if recipe_id else ""), 303)


@router.post("/recipes/versions/{version_id}/remove")
def remove(studio: InStudio, version_id: Id) -> Response:
    """Remove a version that can't be read; others stay, since shoots and jobs may refer to them."""
    if not _version_or_404(studio, version_id).unreadable:
        raise UserProblem("Only versions that can't be read are removed here.")
    if not recipes.remove_version(studio.library.db, version_id):
        raise UserProblem("A shoot has this version as its look. Give the shoot another look first.")
    return _back()


@router.post("/recipes/versions/{version_id}/again")
def give_again(studio: InStudio, version_id: Id) -> Response:
    """An older version as the newest."""
    made = shelves.give_again(studio.library, version_id)
    return _back(f"“{made.name}” is as it was then, as version {made.version}.", made.recipe_id)


@router.post("/recipes/{recipe_id}/rename")
def rename(studio: InStudio, recipe_id: Id, name: Annotated[str, Form(max_length=200)]) -> Response:
    shelves.rename(studio.library, recipe_id, name)
    return _back(recipe_id=recipe_id)


@router.post("/recipes/{recipe_id}/copy")
def copy(studio: InStudio, recipe_id: Id, name: Annotated[str, Form(max_length=200)]) -> Response:
    return _back(recipe_id=shelves.copy(studio.library, recipe_id, name).recipe_id)


@router.post("/recipes/{recipe_id}/file")
def file_under(
    studio: InStudio,
    recipe_id: Id,
    shelf: Annotated[str, Form(max_length=200)] = "",
    tags: Annotated[str, Form(max_length=600)] = "",
    note: Annotated[str, Form(max_length=2000)] = "",
) -> Response:
    """Its set, its tags, and when it serves."""
    shelves.file_under(studio.library, recipe_id, shelf, tags)
    if note.strip() != shelves.newest_of(studio.library, recipe_id).recipe.note.strip():
        shelves.note(studio.library, recipe_id, note)
    return _back(recipe_id=recipe_id)


@router.post("/recipes/{recipe_id}/delete")
def delete(studio: InStudio, recipe_id: Id) -> Response:
    name = shelves.newest_of(studio.library, recipe_id).name
    shelves.delete(studio.library, recipe_id)
    return _back(f"“{name}” is deleted.")


@router.post("/recipes/{recipe_id}/move-on/{scene_id}")
def move_on(studio: InStudio, recipe_id: Id, scene_id: Id) -> Response:
    """Give a scene the newest version."""
    shelves.move_on(studio.library, recipe_id, scene_id)
    studio.runner.wake()
    return _back(recipe_id=recipe_id)


@router.post("/recipes/starters")
def keep_starter(studio: InStudio, name: Annotated[str, Form()]) -> Response:
    """Put a ready starting point into the book, to be changed freely."""
    take_in(studio.library, RecipeFile(starters.starter(name)))
    return _back()


@router.post("/recipes/import")
def bring_in(studio: InStudio, file: Annotated[UploadFile, File()]) -> Response:
    """A recipe file, a set, or a .cube table, which becomes an effect."""
    name = (file.filename or "This file")[-120:]
    with received(studio, file, MOST_BYTES) as path:
        taken = shelves.take_file(studio.library, path, name)
    if isinstance(taken, TakenSet):
        return _back(" ".join([f"{taken.count} of the set “{taken.name}” came in.", *taken.problems]))
    said = f"{name} is in the book as the effect “{taken.name}”." if taken.kind == "effect" else ""
    return _back(said, taken.recipe_id)

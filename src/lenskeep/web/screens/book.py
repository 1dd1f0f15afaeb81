"""The recipe book: every recipe with its versions, where it is used, import and export."""

from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, File, Form, HTTPException, Request, UploadFile
from fastapi.responses import HTMLResponse, JSONResponse, RedirectResponse, Response

from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.models import MOST_BYTES, Recipe
from lenskeep.core.tabled import colour_table, fits_a_table
from lenskeep.files.cube import write_cube
from lenskeep.files.recipes import RecipeFile, file_schema
from lenskeep.store import looks, recipes
from lenskeep.store.recipes import RecipeVersion
from lenskeep.studio import untrusted
from lenskeep.studio.book import starters
from lenskeep.studio.book.take_in import file_of, take_in
from lenskeep.web.present import page
from lenskeep.web.studio_of import Id, InStudio, Studio, received

router = APIRouter()


@dataclass(frozen=True)
class Entry:
    """A recipe: its newest version, all of them, whether it can leave as a table, the shoots that use it."""

    newest: RecipeVersion
    tabled: bool
    versions: list[RecipeVersion]
    used: list[str]


@dataclass(frozen=True)
class Book:
    entries: list[Entry]
    starters: tuple[Recipe, ...]


@router.get("/recipes", response_class=HTMLResponse)
def book(request: Request, studio: InStudio) -> HTMLResponse:
    db = studio.library.db
    entries = [
        Entry(
            newest,
            not newest.unreadable and fits_a_table(newest.recipe),
            recipes.versions(db, newest.recipe_id),
            looks.shoots_using(db, newest.recipe_id),
        )
        for newest in recipes.newest_versions(db)
    ]
    return page(request, "book/book.html", Book(entries, starters.starters()))


@router.get("/recipes/schema.json")
def schema() -> JSONResponse:
    return JSONResponse(file_schema())


@router.get("/recipes/versions/{version_id}.cube")
def as_table(studio: InStudio, version_id: Id) -> Response:
    """A recipe of per-pixel adjustments as a .cube colour table; says why when it can't be one."""
    version = _version_or_404(studio, version_id)
    text = write_cube(colour_table(version.recipe, assets=studio.library.assets), version.name)
    return Response(text, media_type="text/plain", headers=_named(version, "cube"))


@router.get("/recipes/versions/{version_id}.json")
def export(studio: InStudio, version_id: Id) -> Response:
    version = _version_or_404(studio, version_id)
    return Response(file_of(studio.library, version), media_type="application/json", headers=_named(version, "json"))


def _version_or_404(studio: Studio, version_id: int) -> RecipeVersion:
    version = recipes.version(studio.library.db, version_id)
    if version is None:
        raise HTTPException(404, "This recipe is not in the book.")
    return version


def _named(version: RecipeVersion, suffix: str) -> dict[str, str]:
    safe = "".join(c if c.isalnum() and c.isascii() else "-" for c in version.name).strip("-") or "recipe"
    return {"content-disposition": f'attachment; filename="{safe}-v{version.version}.{suffix}"'}


@router.post("/recipes/versions/{version_id}/remove")
def remove(studio: InStudio, version_id: Id) -> Response:
    """Remove a version that can't be read; others stay, since shoots and jobs may refer to them."""
    if not _version_or_404(studio, version_id).unreadable:
        raise UserProblem("Only versions that can't be read are removed here.")
    if not recipes.remove_version(studio.library.db, version_id):
        raise UserProblem("A shoot has this version as its look. Give the shoot another look first.")
    return RedirectResponse("/recipes", 303)


@router.post("/recipes/starters")
def keep_starter(studio: InStudio, name: Annotated[str, Form()]) -> Response:
    """Put a ready starting point into the book, to be changed freely."""
    take_in(studio.library, RecipeFile(starters.starter(name)))
    return RedirectResponse("/recipes", 303)


@router.post("/recipes/import")
def bring_in(studio: InStudio, file: Annotated[UploadFile, File()]) -> Response:
    with received(studio, file, MOST_BYTES) as path:
        taken = untrusted.recipe_of_upload(path, file.filename or "This file")
    take_in(studio.library, taken)
    return RedirectResponse("/recipes", 303)

"""The recipe book: every recipe with its versions, where it is used, import and export."""

from typing import Annotated

from fastapi import APIRouter, File, Form, HTTPException, Request, UploadFile
from fastapi.responses import HTMLResponse, JSONResponse, RedirectResponse, Response

from lenskeep.core.recipe import recipe_schema
from lenskeep.core.tabled import colour_table, fits_a_table
from lenskeep.files.cube import write_cube
from lenskeep.files.recipes import RecipeProblem, recipe_from_json, recipe_to_json
from lenskeep.store import recipes
from lenskeep.store.recipes import RecipeVersion
from lenskeep.studio import starters
from lenskeep.web.present import page
from lenskeep.web.studio_of import InStudio, Studio

router = APIRouter()
MOST_BYTES = 2_000_000


@router.get("/recipes", response_class=HTMLResponse)
def book(request: Request, studio: InStudio) -> HTMLResponse:
    entries = [
        {
            "newest": newest,
            "tabled": fits_a_table(newest.recipe),
            "versions": recipes.versions(studio.library.db, newest.recipe_id),
            "used": recipes.shoots_using(studio.library.db, newest.recipe_id),
        }
        for newest in recipes.newest_versions(studio.library.db)
    ]
    return page(request, "book/book.html", {"entries": entries, "starters": starters.starters()})


@router.get("/recipes/schema.json")
def schema() -> JSONResponse:
    return JSONResponse(recipe_schema())


@router.get("/recipes/versions/{version_id}.cube")
def as_table(studio: InStudio, version_id: int) -> Response:
    """A recipe of per-pixel adjustments as a .cube colour table; says why when it can't be one."""
    version = _version_or_404(studio, version_id)
    text = write_cube(colour_table(version.recipe), version.name)
    return Response(text, media_type="text/plain", headers=_named(version, "cube"))


@router.get("/recipes/versions/{version_id}.json")
def export(studio: InStudio, version_id: int) -> Response:
    version = _version_or_404(studio, version_id)
    return Response(recipe_to_json(version.recipe), media_type="application/json", headers=_named(version, "json"))


def _version_or_404(studio: Studio, version_id: int) -> RecipeVersion:
    version = recipes.version(studio.library.db, version_id)
    if version is None:
        raise HTTPException(404, "This recipe is not in the book.")
    return version


def _named(version: RecipeVersion, suffix: str) -> dict[str, str]:
    safe = "".join(c if c.isalnum() and c.isascii() else "-" for c in version.name).strip("-") or "recipe"
    return {"content-disposition": f'attachment; filename="{safe}-v{version.version}.{suffix}"'}


@router.post("/recipes/starters")
def keep_starter(studio: InStudio, name: Annotated[str, Form()]) -> Response:
    """Put a ready starting point into the book, to be changed freely."""
    recipes.save_recipe(studio.library.db, starters.starter(name))
    return RedirectResponse("/recipes", 303)


@router.post("/recipes/import")
def bring_in(studio: InStudio, file: Annotated[UploadFile, File()]) -> Response:
    data = file.file.read(MOST_BYTES + 1)
    if len(data) > MOST_BYTES:
        raise RecipeProblem("This file is too large for a recipe.")
    try:
        text = data.decode("utf-8")
    except UnicodeDecodeError as error:
        raise RecipeProblem("This file is not text, so it is no recipe.") from error
    recipes.save_recipe(studio.library.db, recipe_from_json(text, file.filename or "This file"))
    return RedirectResponse("/recipes", 303)

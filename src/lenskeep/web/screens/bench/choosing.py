"""Choosing at the Bench by pictures: effects, recipes, blends; taking them in, and keeping what a step does."""

from dataclasses import dataclass
from typing import Annotated, Literal

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse, JSONResponse, Response
from pydantic import BaseModel, Field

from lenskeep.core.ids import Identifier
from lenskeep.core.problems import UserProblem
from lenskeep.store import frames
from lenskeep.studio.bench import draft as bench
from lenskeep.studio.book import choices, effects
from lenskeep.studio.book.choices import Choice, Of, Way
from lenskeep.web.present import page
from lenskeep.web.screens.bench.page import lanes_of
from lenskeep.web.studio_of import Id, InStudio, scene_or_404

router = APIRouter()
Key = Annotated[str, Field(min_length=1, max_length=120)]


@dataclass(frozen=True)
class Shown:
    """What can be chosen, by set, for a frame with the draft in its present ``state``."""

    of: Of
    shelves: dict[str, list[Choice]]
    step: str
    where: str
    way: Way
    state: int
    scene: int
    frame: int


@router.get("/scenes/{scene_id}/bench/choices", response_class=HTMLResponse)
def show(
    request: Request,
    studio: InStudio,
    scene_id: Id,
    of: Of,
    frame: Annotated[int, Query(ge=1)],
    step: str = "",
    way: Way = "after",
) -> HTMLResponse:
    scene_or_404(studio, scene_id)
    recipe = bench.recipe_now(studio.library, scene_id)
    own = next((s for s in recipe.steps if s.id == step), None)
    shelves = choices.by_shelf(choices.choices(studio.library, of))
    where = recipe.sentence(own) if own else "whole frame"
    state = bench.state_now(studio.library, scene_id)
    way = "after" if way == "within" and own is None else way
    shown = Shown(of, shelves, own.id if own else "", where, way, state, scene_id, frame)
    return page(request, "bench/choices.html", shown)


@router.get("/scenes/{scene_id}/bench/choice.jpg")
def picture(
    studio: InStudio,
    scene_id: Id,
    of: Of,
    key: Annotated[str, Query(min_length=1, max_length=120)],
    frame: Annotated[int, Query(ge=1)],
    step: str = "",
    way: Way = "after",
    large: bool = False,
    space: Literal["srgb", "display-p3"] = "srgb",
) -> Response:
    """A frame as it would be with one taken: nothing of it is kept. The address tells the draft's state."""
    scene_or_404(studio, scene_id)
    if frames.summary(studio.library.db, frame) is None:
        raise UserProblem("This frame is no longer in the library.")
    recipe = choices.tried(studio.library, bench.recipe_now(studio.library, scene_id), of, key, step or None, way)
    data = choices.picture(studio.stage, frame, recipe, large, space)
    return Response(data, media_type="image/jpeg", headers={"Cache-Control": "private, max-age=300"})


class Taking(BaseModel):
    """What is taken, one or more; ``own_steps`` makes an effect a step of its own where the step works, ``paint`` one
    that is painted on; it may ``replace`` what the step does.
    """

    of: Of = "effects"
    keys: list[Key] = Field(min_length=1, max_length=24)
    step: Identifier | None = None
    own_steps: bool = False
    paint: bool = False
    replace: bool = False
    on: int | None = None


@router.post("/scenes/{scene_id}/bench/choices", response_class=HTMLResponse)
def take(request: Request, studio: InStudio, scene_id: Id, asked: Taking) -> HTMLResponse:
    """Take what was chosen; answers with the lanes. The first of several steps is on, the others wait, switched off."""
    scene_or_404(studio, scene_id)
    added, on = None, asked.on
    if asked.paint:
        changes = [choices.painted_with(studio.library, asked.keys[0])]
    else:
        changes = choices.changes_to(studio.library, asked.of, asked.keys, asked.step, asked.own_steps, asked.replace)
    for change in changes:
        done = bench.change(studio.library, scene_id, change, on)
        added, on = added or done.added, done.state
    opened = added or asked.step
    return page(request, "bench/lanes.html", lanes_of(studio, scene_id, opened, added))


class TakingIn(BaseModel):
    """A recipe, and how its steps come; ``within`` is the step whose region they are limited to."""

    key: Key
    way: Way = "after"
    within: str = ""
    on: int | None = None


@router.post("/scenes/{scene_id}/bench/take", response_class=HTMLResponse)
def take_recipe(request: Request, studio: InStudio, scene_id: Id, asked: TakingIn) -> HTMLResponse:
    """Take a recipe in; answers with the lanes."""
    scene_or_404(studio, scene_id)
    if asked.way == "replace":
        recipe = choices.recipe_at(studio.library, asked.key)
        bench.check_state(studio.library, scene_id, asked.on)
        bench.load(studio.library, scene_id, recipe, choices.recipe_id_of(studio.library, asked.key))
        return page(
            request, "bench/lanes.html", lanes_of(studio, scene_id, recipe.steps[0].id if recipe.steps else None)
        )
    change = choices.taken(studio.library, asked.key, asked.way, asked.within or None)
    done = bench.change(studio.library, scene_id, change, asked.on)
    return page(request, "bench/lanes.html", lanes_of(studio, scene_id, done.added, done.added))


class Kept(BaseModel):
    step: Identifier
    name: str = Field(min_length=1, max_length=80)


@router.post("/scenes/{scene_id}/bench/effect")
def keep(studio: InStudio, scene_id: Id, asked: Kept) -> JSONResponse:
    """Keep what a step does as an effect in the book."""
    scene_or_404(studio, scene_id)
    made = effects.keep_from_step(studio.library, scene_id, asked.step, asked.name)
    return JSONResponse({"said": f"“{made.name}” is kept as an effect, version {made.version}."})

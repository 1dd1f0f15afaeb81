"""A scene's look as layers: recipes one upon another, each on or off and at a strength; moving on to newer versions."""

from dataclasses import dataclass, field
from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse, JSONResponse, Response
from pydantic import BaseModel, Field

from lenskeep.core.plan import plan_of
from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.differences import differences
from lenskeep.core.recipes.layers import Layer
from lenskeep.store import looks, recipes
from lenskeep.store.looks import Look, LookLayer
from lenskeep.store.recipes import RecipeVersion
from lenskeep.store.scenes import Scene
from lenskeep.studio import looks as giving
from lenskeep.studio.bench import trying
from lenskeep.web.present import page
from lenskeep.web.studio_of import Id, InStudio, frame_or_404, scene_or_404

router = APIRouter()


@dataclass(frozen=True)
class ShownLayer:
    """A layer, the newest version of its recipe where that is another, and what is another in it, in words."""

    layer: LookLayer
    newer: RecipeVersion | None
    changes: list[str] = field(default_factory=list)


@dataclass(frozen=True)
class Layers:
    """``top`` is the uppermost layer first, as one looks down on them; ``key`` is the frame that shows changes."""

    scene: Scene
    top: list[ShownLayer]
    book: list[RecipeVersion]
    key: int | None


class Given(BaseModel):
    """One layer as the page sends it, the strength in per cent."""

    version: int = Field(ge=1, le=2**63 - 1)
    strength: float = Field(ge=0, le=200, allow_inf_nan=False)
    on: bool = True


class Asked(BaseModel):
    """A look, the uppermost layer first, for the scene or for all scenes of its shoot."""

    layers: list[Given] = Field(max_length=32)
    everywhere: bool = False


def _shown(layer: LookLayer, newest: dict[int, RecipeVersion]) -> ShownLayer:
    newer = newest.get(layer.version.recipe_id)
    if newer is None or newer.id == layer.version.id or newer.unreadable or layer.version.unreadable:
        return ShownLayer(layer, None)
    return ShownLayer(layer, newer, differences(layer.version.recipe, newer.recipe))


@router.get("/scenes/{scene_id}/layers", response_class=HTMLResponse)
def show(request: Request, studio: InStudio, scene_id: Id) -> HTMLResponse:
    scene, db = scene_or_404(studio, scene_id), studio.library.db
    book = recipes.newest_versions(db)
    newest = {v.recipe_id: v for v in book}
    look = looks.look(db, scene_id) or Look(())
    top = [_shown(layer, newest) for layer in reversed(look.layers)]
    return page(request, "wall/layers.html", Layers(scene, top, book, scene.key_frame_id))


@router.post("/scenes/{scene_id}/layers")
def give(studio: InStudio, scene_id: Id, asked: Asked) -> JSONResponse:
    """Give the scene these layers, and its frames their pictures."""
    scene = scene_or_404(studio, scene_id)
    layers = [(one.version, one.strength / 100.0, one.on) for one in reversed(asked.layers)]
    own = None if asked.everywhere else [scene_id]
    giving.give_layers(studio.library, scene.shoot_id, layers, scene_ids=own)
    studio.runner.wake()
    return JSONResponse({"shoot": scene.shoot_id})


@router.get("/frames/{frame_id}/with.jpg")
def with_version(studio: InStudio, frame_id: Id, version: Annotated[int, Query(ge=1)]) -> Response:
    """A frame as it would be with another version in place of the one that its look has of the same recipe."""
    frame, db = frame_or_404(studio, frame_id), studio.library.db
    look, chosen = looks.look(db, frame.scene_id), recipes.version(db, version)
    if look is None or chosen is None:
        raise UserProblem("This version of the recipe is gone. Choose another one.")
    layers = [
        Layer(chosen.recipe, e.name, e.enabled, e.strength) if e.version.recipe_id == chosen.recipe_id else e.layer()
        for e in look.layers
    ]
    plan = plan_of(layers, frame.override)
    made = trying.picture_of(studio.stage, frame, plan, frame.own_base, draft=True)
    return Response(made, media_type="image/jpeg", headers={"Cache-Control": "private, max-age=60"})

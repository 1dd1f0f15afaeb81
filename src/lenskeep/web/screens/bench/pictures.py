"""What the Bench draws: frames with the draft and a slider under the finger, regions, measures, places pointed at."""

from dataclasses import asdict
from typing import Literal

from fastapi import APIRouter
from fastapi.responses import JSONResponse, Response
from pydantic import BaseModel, ConfigDict, Field

from lenskeep.core.adjust.light.curve import Curve
from lenskeep.core.measure.guards import GuardName
from lenskeep.core.recipes import edit
from lenskeep.core.recipes.changes import SetValues
from lenskeep.core.recipes.models import Recipe, unmasked
from lenskeep.core.recipes.painted import as_painted
from lenskeep.core.recipes.settings import Setting
from lenskeep.studio.bench import draft as bench
from lenskeep.studio.bench import history, mending, pointing, sharpening, under
from lenskeep.studio.bench import measures as guarding
from lenskeep.studio.bench.lane_colours import colour_of, hexed
from lenskeep.studio.bench.stage import KEY_SIDE, WITNESS_SIDE
from lenskeep.web.studio_of import Id, InStudio, Studio

router = APIRouter()
SIDES = {"key": KEY_SIDE, "witness": WITNESS_SIDE, "thumb": WITNESS_SIDE}
_MOST_ID = 2**63 - 1


class OfStep(BaseModel):
    step: str


@router.post("/scenes/{scene_id}/bench/strokes")
def strokes(studio: InStudio, scene_id: Id, asked: OfStep) -> JSONResponse:
    """The strokes of a step's brushes, as paths in their anchors' coordinates."""
    return JSONResponse({"strokes": bench.strokes(studio.library, scene_id, asked.step)})


class Point(BaseModel):
    """A place on a frame, 0…1."""

    frame: int = Field(ge=0, le=_MOST_ID)
    x: float = Field(ge=0, le=1, allow_inf_nan=False)
    y: float = Field(ge=0, le=1, allow_inf_nan=False)


@router.post("/scenes/{scene_id}/bench/outline")
def outline(studio: InStudio, scene_id: Id, point: Point) -> JSONResponse:
    """The outline of what a click would take."""
    return JSONResponse(pointing.outline_at(studio.stage, point.frame, point.x, point.y))


class Painted(BaseModel):
    """A brush of the step, as if it had painted everything, or nothing: what is laid under the hand."""

    part: str = Field(max_length=40)
    everywhere: bool


class OfDraft(BaseModel):
    """A frame with the draft and values that are not set for good yet (a slider under the finger)."""

    model_config = ConfigDict(allow_inf_nan=False)
    frame: int = Field(ge=0, le=_MOST_ID)
    view: Literal["finished", "original", "tint", "grey"] = "finished"
    step: str | None = None
    space: Literal["srgb", "display-p3"] = "srgb"
    tint: str | None = Field(default=None, pattern="^#[0-9a-fA-F]{6}$")
    values: list[Setting] = Field(default=[], max_length=40)
    painted: Painted | None = None
    pinned: str | None = Field(default=None, max_length=40)
    off: str | None = Field(default=None, max_length=80)
    off_group: str | None = Field(default=None, max_length=80)
    base: bool = False
    """Without the steps that work in a part of the frame."""
    guard: GuardName | None = None
    edges: str | None = Field(default=None, max_length=40)
    """An adjustment of the step that sharpens: where it does."""

    @property
    def tint_colour(self) -> tuple[int, int, int] | None:
        """The tint asked for, 0…255 each; None for the lane's own."""
        if self.tint is None:
            return None
        red, green, blue = bytes.fromhex(self.tint[1:])
        return red, green, blue


class Wanted(OfDraft):
    """A picture of it at one of the Bench's sizes."""

    side: Literal["key", "witness", "thumb"] = "key"
    draft: bool = False


def draft_with(studio: Studio, scene_id: int, wanted: OfDraft) -> Recipe:
    """The draft with what is under the finger. Raises EditProblem where that is gone."""
    if wanted.pinned:
        return history.recipe_of(studio.library, scene_id, wanted.pinned)
    recipe = bench.recipe_now(studio.library, scene_id)
    if wanted.values:
        recipe = SetValues(values=wanted.values).on(recipe)
    if wanted.off:
        recipe = edit.change_step(recipe, wanted.off, enabled=False)
    if wanted.off_group:
        recipe = edit.change_group(recipe, wanted.off_group, enabled=False)
    if wanted.base:
        recipe = unmasked(recipe)
    if wanted.painted and wanted.step:
        return as_painted(recipe, wanted.step, wanted.painted.part, wanted.painted.everywhere)
    return recipe


def step_in(recipe: Recipe, step: str | None) -> str | None:
    """The open step, as long as the recipe has it: the Bench may be a moment behind what was done to it."""
    return step if any(s.id == step for s in recipe.steps) else None


@router.post("/scenes/{scene_id}/bench/picture")
def picture(studio: InStudio, scene_id: Id, wanted: Wanted) -> Response:
    recipe = draft_with(studio, scene_id, wanted)
    step = step_in(recipe, wanted.step)
    side = SIDES[wanted.side]
    if wanted.edges and step and wanted.view == "finished":
        return Response(
            sharpening.shown(studio.stage, wanted.frame, recipe, step, wanted.edges, side), media_type="image/jpeg"
        )
    if wanted.guard:
        return Response(guarding.shown(studio.stage, wanted.frame, recipe, wanted.guard, side), media_type="image/jpeg")
    data = studio.stage.picture(
        wanted.frame, recipe, side, wanted.view, step, wanted.draft, wanted.tint_colour, wanted.space
    )
    return Response(data, media_type="image/jpeg")


@router.post("/scenes/{scene_id}/bench/measures")
def measures(studio: InStudio, scene_id: Id, wanted: Wanted) -> JSONResponse:
    """Histograms and guards of a frame."""
    recipe = draft_with(studio, scene_id, wanted)
    return JSONResponse(asdict(guarding.measures(studio.stage, wanted.frame, recipe, step_in(recipe, wanted.step))))


@router.post("/scenes/{scene_id}/bench/mend")
def mend(studio: InStudio, scene_id: Id, wanted: Wanted) -> JSONResponse:
    """What would make a guard quiet on a frame; nothing is changed."""
    if wanted.guard is None:
        raise edit.EditProblem("Say which guard.")
    recipe = draft_with(studio, scene_id, wanted)
    return JSONResponse(asdict(mending.mend_for(studio.stage, wanted.frame, recipe, wanted.guard)))


@router.post("/scenes/{scene_id}/bench/contours")
def contours(studio: InStudio, scene_id: Id, wanted: Wanted) -> JSONResponse:
    recipe = draft_with(studio, scene_id, wanted)
    if wanted.step is None:
        raise edit.EditProblem("Say which step.")
    if step_in(recipe, wanted.step) is None:
        return JSONResponse({"paths": {}, "colour": hexed(colour_of(0).line)})
    paths = studio.stage.contours(wanted.frame, recipe, SIDES[wanted.side], wanted.step)
    lane = [s.id for s in recipe.steps].index(wanted.step)
    return JSONResponse({"paths": paths, "colour": hexed(colour_of(lane).line)})


@router.post("/scenes/{scene_id}/bench/pull")
def pull(studio: InStudio, scene_id: Id, wanted: Wanted) -> JSONResponse:
    before, after = studio.stage.pulls(wanted.frame, draft_with(studio, scene_id, wanted))
    return JSONResponse(
        {"before": before.model_dump() if before else None, "after": after.model_dump() if after else None}
    )


class Pointer(Point):
    """A place of a frame, and whether one thing or its whole kind is meant; None for what suits it."""

    one: bool | None = None


@router.post("/scenes/{scene_id}/bench/under")
def what_is_under(studio: InStudio, scene_id: Id, point: Pointer) -> JSONResponse:
    """What was found under a point, with its outline; null where nothing was told apart."""
    return JSONResponse(under.under(studio.stage, point.frame, point.x, point.y, point.one))


class OfFrame(BaseModel):
    frame: int = Field(ge=0, le=_MOST_ID)


@router.post("/scenes/{scene_id}/bench/found")
def what_was_found(studio: InStudio, scene_id: Id, asked: OfFrame) -> JSONResponse:
    """Everything that was found on a frame, and on how many frames of the scene each kind is."""
    things = under.everything(studio.stage, asked.frame)
    return JSONResponse({"things": things, **under.frames_with(studio.library, scene_id)})


class CurvePoints(BaseModel):
    """A curve's points, under the hand."""

    points: list[tuple[float, float]] = Field(min_length=2, max_length=12)


@router.post("/curve")
def curve(asked: CurvePoints) -> JSONResponse:
    """A curve as the renderer draws it."""
    return JSONResponse({"samples": edit.checked(Curve, {"points": asked.points}).sampled()})

"""Looking closely: cuts of a frame as they will leave, for the Bench's draft and for a frame's own look."""

from typing import Literal

from fastapi import APIRouter
from fastapi.responses import JSONResponse, Response
from pydantic import BaseModel, ConfigDict, Field

from lenskeep.core.measure.guards import GuardName
from lenskeep.core.plan import Plan
from lenskeep.core.render import Cut
from lenskeep.core.types import SRGB8
from lenskeep.files.writing.jpeg import screen_jpeg
from lenskeep.files.writing.png import FAST, png_bytes
from lenskeep.studio import applying
from lenskeep.studio.bench import measures as guarding
from lenskeep.studio.bench import sharpening
from lenskeep.web.screens.bench.pictures import OfDraft, draft_with, step_in
from lenskeep.web.studio_of import Id, InStudio, frame_or_404

router = APIRouter()
Space = Literal["srgb", "display-p3"]
MOVING_QUALITY = 92


class Part(BaseModel):
    """A part of a frame in its full pixels. While something moves it comes as a JPEG, else without loss."""

    model_config = ConfigDict(allow_inf_nan=False)
    x: int = Field(ge=0, le=1_000_000)
    y: int = Field(ge=0, le=1_000_000)
    width: int = Field(ge=1, le=1_000_000)
    height: int = Field(ge=1, le=1_000_000)
    moving: bool = False
    space: Space = "srgb"

    @property
    def cut(self) -> Cut:
        return Cut(self.x, self.y, self.width, self.height)


class DraftPart(Part, OfDraft):
    """A part of a frame with the draft and values under the finger."""


class OwnPart(Part):
    """A part of a frame with the look it has."""

    view: Literal["finished", "original"] = "finished"


class OfGuard(BaseModel):
    frame: int = Field(ge=0, le=2**63 - 1)
    guard: GuardName


def answer(pixels: SRGB8, part: Part) -> Response:
    """Pixels of a part as a picture."""
    if not part.moving:
        space = None if part.space == "srgb" else part.space
        return Response(png_bytes(pixels, None, space, FAST), media_type="image/png")
    return Response(screen_jpeg(pixels, MOVING_QUALITY, part.space), media_type="image/jpeg")


@router.post("/scenes/{scene_id}/bench/cut")
def draft_cut(studio: InStudio, scene_id: Id, part: DraftPart) -> Response:
    """What the draft makes of a part of a frame, as the delivery would."""
    recipe = draft_with(studio, scene_id, part)
    step = step_in(recipe, part.step)
    if part.edges and step and part.view == "finished":
        frame = frame_or_404(studio, part.frame)
        return answer(sharpening.shown_cut(studio.close, frame, recipe, step, part.edges, part.cut), part)
    pixels = studio.close.cut(part.frame, recipe, part.cut, part.view, step, part.tint_colour, part.space, part.moving)
    if part.guard and part.view == "finished":
        pixels = guarding.striped_cut(studio.stage, part.frame, recipe, part.guard, pixels, part.cut)
    return answer(pixels, part)


@router.post("/scenes/{scene_id}/bench/places")
def places(studio: InStudio, scene_id: Id, asked: OfGuard) -> JSONResponse:
    """Where a guard finds most fault with a frame, the worst first."""
    recipe = draft_with(studio, scene_id, OfDraft(frame=asked.frame))
    return JSONResponse({"places": guarding.places(studio.stage, asked.frame, recipe, asked.guard)})


@router.post("/frames/{frame_id}/cut")
def own_cut(studio: InStudio, frame_id: Id, part: OwnPart) -> Response:
    """A part of a frame with its own look and changes, as the delivery would make it."""
    frame = frame_or_404(studio, frame_id)
    plan = applying.plan_of_frame(studio.library, frame) if part.view == "finished" else Plan(())
    return answer(studio.close.cut(frame_id, plan, part.cut, part.view, space=part.space), part)


@router.post("/frames/{frame_id}/open-ahead")
def open_ahead(studio: InStudio, frame_id: Id) -> Response:
    """Open the frame that will be looked at next."""
    frame_or_404(studio, frame_id)
    studio.close.open_ahead(frame_id)
    return Response(status_code=204)

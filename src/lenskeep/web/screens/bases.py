"""A frame's base on its own page: set, tried while a slider moves, measured, taken from the frame before, undone."""

from dataclasses import dataclass
from typing import Annotated, Literal

from fastapi import APIRouter, Form, Request
from fastapi.responses import HTMLResponse, JSONResponse, Response
from pydantic import BaseModel, ConfigDict

from lenskeep.core.base.models import AMOUNTS, AS_IT_CAME, FrameBase
from lenskeep.core.problems import UserProblem
from lenskeep.store.frames import FrameRow
from lenskeep.studio import applying, basing, deeds
from lenskeep.studio.bench import trying
from lenskeep.web.present import fragment, page
from lenskeep.web.screens.frame import panel, view_of
from lenskeep.web.studio_of import Id, InFields, InStudio, Studio, frame_or_404

router = APIRouter(prefix="/frames/{frame_id}")
MADE = {
    "measure": "balancing a frame by measure",
    "before": "the base of the frame before",
    "came": "a base taken back",
    "neutral": "a click on something neutral",
}


@dataclass(frozen=True)
class Made:
    """What the finished picture of a frame says of itself."""

    frame: FrameRow


class Tried(BaseModel):
    """A base that is not kept yet."""

    model_config = ConfigDict(extra="forbid")
    base: FrameBase
    draft: bool = False
    space: Literal["srgb", "display-p3"] = "srgb"


@router.post("/base/picture")
def tried(studio: InStudio, frame_id: Id, asked: Tried) -> Response:
    frame = frame_or_404(studio, frame_id)
    base = basing.with_curve(studio.library, frame, asked.base)
    made = trying.picture(studio.library, studio.stage, frame, base, asked.draft, asked.space)
    return Response(made, media_type="image/jpeg")


@router.post("/base", response_class=HTMLResponse)
def set_values(request: Request, studio: InStudio, frame_id: Id, fields: InFields, only: str = "all") -> HTMLResponse:
    """Set some values of the base; returns what stands below the sliders, at once; the picture is asked for."""
    frame = frame_or_404(studio, frame_id)
    try:
        values = {name: float(fields[name]) for name in AMOUNTS if name in fields}
    except ValueError as error:
        raise UserProblem("A value of a base is a number.") from error
    basing.set_values(studio.library, frame.shoot_id, [frame_id], values, f"the base of {frame.file_name}")
    applying.ask_for(studio.library, studio.runner, frame_id)
    return page(request, "frame/base_rest.html", view_of(studio, frame_id, only))


@router.post("/finished")
def finished(request: Request, studio: InStudio, frame_id: Id, make: bool = False) -> JSONResponse:
    """The address of the finished picture once it is up to date, with what was found on it; "" while it is not, or
    could not be made. ``waiting`` asks to be asked again; ``make`` has it made where nobody has asked for it yet.
    """
    frame_or_404(studio, frame_id)
    if make:
        applying.have_made(studio.library, studio.runner, frame_id)
    else:
        applying.wait_for_picture(studio.library, studio.runner, frame_id)
    now = frame_or_404(studio, frame_id)
    address = f"/frames/{frame_id}/finished/{now.result_key}.jpg" if now.finished else ""
    made = "" if now.awaited else fragment(request, "frame/made.html", Made(now))
    return JSONResponse({"finished": address, "waiting": now.awaited, "made": made})


@router.post("/base/{how}", response_class=HTMLResponse)
def make(
    request: Request,
    studio: InStudio,
    frame_id: Id,
    how: Literal["measure", "before", "came", "neutral"],
    x: Annotated[float, Form(ge=0, le=1)] = 0.5,
    y: Annotated[float, Form(ge=0, le=1)] = 0.5,
    only: str = "all",
) -> HTMLResponse:
    """The base by measure, as on the frame before, none, or by what was clicked as neutral."""
    frame, library = frame_or_404(studio, frame_id), studio.library
    if how == "measure":
        base = basing.measured(library, frame)
    elif how == "before":
        base = basing.before(library, frame)
    else:
        base = AS_IT_CAME if how == "came" else basing.neutral_at(library, frame, x, y)
    words = MADE[how]
    basing.set_bases(library, frame.shoot_id, {frame_id: base}, words)
    return _shown(request, studio, frame_id, only)


@router.post("/undo", response_class=HTMLResponse)
def undo(request: Request, studio: InStudio, frame_id: Id, only: str = "all") -> HTMLResponse:
    """Take back what was done last to frames of the shoot."""
    said = deeds.undo(studio.library, frame_or_404(studio, frame_id).shoot_id)
    return _shown(request, studio, frame_id, only, said)


@router.post("/redo", response_class=HTMLResponse)
def redo(request: Request, studio: InStudio, frame_id: Id, only: str = "all") -> HTMLResponse:
    """Do again what was undone last."""
    said = deeds.redo(studio.library, frame_or_404(studio, frame_id).shoot_id)
    return _shown(request, studio, frame_id, only, said)


def _shown(request: Request, studio: Studio, frame_id: int, only: str, said: str = "") -> HTMLResponse:
    applying.have_made(studio.library, studio.runner, frame_id)
    return panel(request, studio, frame_id, only, said)

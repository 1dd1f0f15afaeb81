"""A frame's own steps, after its look: given, switched, weakened, taken away."""

from typing import Annotated

from fastapi import APIRouter, Form, Request
from fastapi.responses import HTMLResponse, Response

from lenskeep.core.percent import from_percent
from lenskeep.studio import applying, own_steps
from lenskeep.web.screens.frame import panel
from lenskeep.web.studio_of import Id, InStudio, frame_or_404

router = APIRouter()


@router.get("/frames/{frame_id}/found")
def found(studio: InStudio, frame_id: Id) -> Response:
    """Draw the page anew as soon as the frame's masks are there."""
    there = frame_or_404(studio, frame_id)
    return Response(headers={"HX-Refresh": "true"} if there.facts or there.state == "failed" else None)


@router.post("/frames/{frame_id}/own", response_class=HTMLResponse)
def add(
    request: Request, studio: InStudio, frame_id: Id, version_id: Annotated[int, Form(ge=1)], only: str = "all"
) -> HTMLResponse:
    frame_or_404(studio, frame_id)
    own_steps.add(studio.library, frame_id, version_id)
    applying.bring_up_to_date(studio.library, studio.runner, frame_id)
    return panel(request, studio, frame_id, only)


@router.post("/frames/{frame_id}/own/{place}", response_class=HTMLResponse)
def change(
    request: Request,
    studio: InStudio,
    frame_id: Id,
    place: int,
    strength: Annotated[float, Form(ge=0, le=200)],
    state: Annotated[list[str], Form()],
    only: str = "all",
) -> HTMLResponse:
    """Switched, or at a strength in per cent."""
    frame_or_404(studio, frame_id)
    own_steps.change(studio.library, frame_id, place, "on" in state, from_percent(strength))
    applying.bring_up_to_date(studio.library, studio.runner, frame_id)
    return panel(request, studio, frame_id, only)


@router.post("/frames/{frame_id}/own/{place}/remove", response_class=HTMLResponse)
def remove(request: Request, studio: InStudio, frame_id: Id, place: int, only: str = "all") -> HTMLResponse:
    frame_or_404(studio, frame_id)
    own_steps.remove(studio.library, frame_id, place)
    applying.bring_up_to_date(studio.library, studio.runner, frame_id)
    return panel(request, studio, frame_id, only)

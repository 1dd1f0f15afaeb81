"""A frame's own steps, after its look: given, switched, weakened, taken away."""

from typing import Annotated, Literal

from fastapi import APIRouter, Form, Request
from fastapi.responses import HTMLResponse, Response

from lenskeep.core.percent import from_percent
from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.overrides import GroupOverride
from lenskeep.store import looks as kept
from lenskeep.studio import applying, looks, own_steps
from lenskeep.web.screens.frame import panel, parts_of
from lenskeep.web.studio_of import Id, InStudio, frame_or_404

router = APIRouter()


@router.get("/frames/{frame_id}/found")
def found(studio: InStudio, frame_id: Id) -> Response:
    """Draw the page anew as soon as the frame's masks are there, and its finished picture if it wants one."""
    there = frame_or_404(studio, frame_id)
    ready = there.facts is not None and not there.awaited
    return Response(headers={"HX-Refresh": "true"} if ready or there.state == "failed" else None)


@router.post("/frames/{frame_id}/parts/{kind}/{name}", response_class=HTMLResponse)
def set_part(
    request: Request,
    studio: InStudio,
    frame_id: Id,
    kind: Literal["layers", "groups"],
    name: str,
    strength: Annotated[float, Form(ge=0, le=200)],
    state: Annotated[list[str], Form()],
    only: str = "all",
) -> HTMLResponse:
    """A layer or a group of the look on this frame: switched, or at a strength in per cent of its own."""
    frame = frame_or_404(studio, frame_id)
    parts = parts_of(kept.look(studio.library.db, frame.scene_id), frame.override)
    shown = next((p for p in parts if (p.kind, p.name) == (kind, name)), None)
    if shown is None:
        raise UserProblem("This is no longer in the look. Reload the page.")
    given = from_percent(strength)
    own = GroupOverride(
        enabled=None if ("on" in state) == shown.plain_on else "on" in state,
        strength=None if abs(given - shown.plain_strength) < 1e-6 else given,
    )
    looks.change_part(studio.library, frame_id, kind, name, own)
    applying.have_made(studio.library, studio.runner, frame_id)
    return panel(request, studio, frame_id, only)


@router.post("/frames/{frame_id}/own", response_class=HTMLResponse)
def add(
    request: Request, studio: InStudio, frame_id: Id, version_id: Annotated[int, Form(ge=1)], only: str = "all"
) -> HTMLResponse:
    frame_or_404(studio, frame_id)
    own_steps.add(studio.library, frame_id, version_id)
    applying.have_made(studio.library, studio.runner, frame_id)
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
    applying.have_made(studio.library, studio.runner, frame_id)
    return panel(request, studio, frame_id, only)


@router.post("/frames/{frame_id}/own/{place}/remove", response_class=HTMLResponse)
def remove(request: Request, studio: InStudio, frame_id: Id, place: int, only: str = "all") -> HTMLResponse:
    frame_or_404(studio, frame_id)
    own_steps.remove(studio.library, frame_id, place)
    applying.have_made(studio.library, studio.runner, frame_id)
    return panel(request, studio, frame_id, only)

"""One frame: finished beside the original, why its masks are doubted, and what it alone changes of the look."""

from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Form, HTTPException, Request
from fastapi.responses import HTMLResponse, JSONResponse, RedirectResponse, Response
from pydantic import ValidationError

from lenskeep.core.detect.find import DETECTOR
from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.models import StepOverride
from lenskeep.store import frames, recipes, shoots
from lenskeep.store.frames import FrameRow
from lenskeep.store.recipes import Look
from lenskeep.store.shoots import Shoot
from lenskeep.studio import looks, removing
from lenskeep.studio.standing import is_doubtful
from lenskeep.studio.tasks.found_files import mask_outline
from lenskeep.web.present import page
from lenskeep.web.studio_of import Id, InStudio, Studio, frame_or_404, shoot_or_404

router = APIRouter()


@dataclass(frozen=True)
class OneFrame:
    """A frame among those that are walked through: it is number ``at`` of ``of``, between ``before`` and ``after``."""

    frame: FrameRow
    shoot: Shoot
    look: Look | None
    doubtful: bool
    before: FrameRow | None
    after: FrameRow | None
    at: int
    of: int
    only: str
    neutral_step: StepOverride


def _view(studio: Studio, frame_id: int, only: str) -> OneFrame:
    frame = frame_or_404(studio, frame_id)
    rows = frames.frames(studio.library.db, frame.shoot_id, DETECTOR)
    if only == "doubtful":
        rows = [f for f in rows if is_doubtful(f) or f.id == frame_id]
    at = next((i for i, f in enumerate(rows) if f.id == frame_id), None)
    if at is None:
        raise HTTPException(404, "This frame is not in the library.")
    return OneFrame(
        frame=frame,
        shoot=shoot_or_404(studio, frame.shoot_id),
        look=recipes.look(studio.library.db, frame.shoot_id),
        doubtful=is_doubtful(frame),
        before=rows[at - 1] if at > 0 else None,
        after=rows[at + 1] if at + 1 < len(rows) else None,
        at=at + 1,
        of=len(rows),
        only=only,
        neutral_step=StepOverride(),
    )


@router.get("/frames/{frame_id}", response_class=HTMLResponse)
def show(request: Request, studio: InStudio, frame_id: Id, only: str = "all") -> HTMLResponse:
    return page(request, "frame/frame.html", _view(studio, frame_id, only))


@router.get("/frames/{frame_id}/outline/{mask}")
def outline(studio: InStudio, frame_id: Id, mask: str) -> JSONResponse:
    """The contours of one mask that was found on the frame."""
    frame = frame_or_404(studio, frame_id)
    known = {"subject": 0, "sky": 1, **dict.fromkeys(frame.facts.areas if frame.facts else {}, 2)}
    if frame.facts is None or mask not in known:
        raise HTTPException(404, "This mask was not found on the frame.")
    return JSONResponse({"paths": mask_outline(studio.library.computed(frame.content), mask), "lane": known[mask]})


def _panel(request: Request, studio: Studio, frame_id: int, only: str) -> HTMLResponse:
    return page(request, "frame/panel.html", _view(studio, frame_id, only))


@router.post("/frames/{frame_id}/strength", response_class=HTMLResponse)
def set_strength(
    request: Request,
    studio: InStudio,
    frame_id: Id,
    strength: Annotated[float, Form(ge=0, le=200)],
    only: str = "all",
) -> HTMLResponse:
    """The frame's own strength in per cent."""
    frame_or_404(studio, frame_id)
    looks.change_frame(studio.library, frame_id, strength=strength / 100.0)
    return _panel(request, studio, frame_id, only)


@router.post("/frames/{frame_id}/steps/{step_id}", response_class=HTMLResponse)
def set_step(
    request: Request,
    studio: InStudio,
    frame_id: Id,
    step_id: str,
    state: Annotated[str, Form()] = "on",
    strength: Annotated[float | None, Form(ge=0, le=200)] = None,
    seen: Annotated[str, Form(max_length=200)] = "",
    only: str = "all",
) -> HTMLResponse:
    """One step on this frame: left out, or at a strength in per cent of its own. ``seen`` is what the page showed."""
    frame = frame_or_404(studio, frame_id)
    look = recipes.look(studio.library.db, frame.shoot_id)
    if look is None:
        raise UserProblem("This shoot has no look yet.")
    if all(step.id != step_id for step in look.version.recipe.steps):
        raise UserProblem("This step is no longer in the look. Reload the page.")
    own = look.version.recipe.step(step_id)
    enabled = state == "on"
    changed = StepOverride(
        enabled=None if enabled == own.enabled else enabled,
        strength=None if strength is None or abs(strength / 100.0 - own.strength) < 1e-6 else strength / 100.0,
    )
    looks.change_frame(studio.library, frame_id, step_id=step_id, step=changed, seen=_seen(seen))
    return _panel(request, studio, frame_id, only)


def _seen(text: str) -> StepOverride | None:
    try:
        return StepOverride.model_validate_json(text) if text else None
    except ValidationError as error:
        raise UserProblem("This page is out of date. Reload it and try again.") from error


@router.post("/frames/{frame_id}/reset", response_class=HTMLResponse)
def reset(request: Request, studio: InStudio, frame_id: Id, only: str = "all") -> HTMLResponse:
    frame_or_404(studio, frame_id)
    looks.change_frame(studio.library, frame_id, reset=True)
    return _panel(request, studio, frame_id, only)


@router.post("/frames/{frame_id}/accept", response_class=HTMLResponse)
def accept(
    request: Request, studio: InStudio, frame_id: Id, accepted: Annotated[bool, Form()] = True, only: str = "all"
) -> HTMLResponse:
    """Say that the masks are good enough (or doubt them again)."""
    frame_or_404(studio, frame_id)
    frames.set_accepted(studio.library.db, frame_id, accepted)
    return _panel(request, studio, frame_id, only)


@router.post("/frames/{frame_id}/key")
def make_key(studio: InStudio, frame_id: Id) -> Response:
    """Make this the shoot's key frame and go to the Bench."""
    frame = frame_or_404(studio, frame_id)
    shoots.set_key_frame(studio.library.db, frame.shoot_id, frame_id)
    return RedirectResponse(f"/shoots/{frame.shoot_id}/bench", 303)


@router.post("/frames/{frame_id}/remove")
def remove(studio: InStudio, frame_id: Id) -> Response:
    """Take the frame out of the shoot; the file it came from is not touched."""
    frame = frame_or_404(studio, frame_id)
    removing.remove_frame(studio.library, frame_id)
    studio.runner.wake()
    return RedirectResponse(f"/shoots/{frame.shoot_id}", 303)

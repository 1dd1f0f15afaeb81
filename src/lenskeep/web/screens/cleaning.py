"""Cleaning up one frame: marks healed, covered from elsewhere, freed of colour; taken back; filled from elsewhere."""

from typing import Annotated, Any, Literal

from fastapi import APIRouter
from fastapi.responses import JSONResponse
from pydantic import BaseModel, ConfigDict, Field

from lenskeep.core.clean.models import Healed, Mark
from lenskeep.store.frames import FrameRow
from lenskeep.studio import applying, cleaning
from lenskeep.studio import find as finding
from lenskeep.web.studio_of import Id, InStudio, Studio, frame_or_404

router = APIRouter(prefix="/frames/{frame_id}/clean")
MOST_AT_ONCE = 50


class Made(BaseModel):
    """Marks as the page sends them."""

    model_config = ConfigDict(extra="forbid")
    marks: list[Annotated[Mark, Field(discriminator="kind")]] = Field(min_length=1, max_length=MOST_AT_ONCE)


class Back(BaseModel):
    model_config = ConfigDict(extra="forbid")
    what: Literal["undo", "redo", "another source"]


def _state(studio: Studio, frame: FrameRow) -> JSONResponse:
    """What the page needs to know after a change; the picture that is wanted now is asked for."""
    if frame.stale:
        applying.ask_for(studio.library, studio.runner, frame.id)
    clean = frame.override.clean
    last = clean.done[-1] if clean.done else None
    out: dict[str, Any] = {
        "undo": len(clean.done),
        "redo": len(clean.undone),
        "words": clean.words(),
        "another": isinstance(last, Healed),
        "masks": bool(clean.without_dust().done),
    }
    return JSONResponse(out)


@router.get("")
def state(studio: InStudio, frame_id: Id) -> JSONResponse:
    return _state(studio, frame_or_404(studio, frame_id))


@router.post("")
def make(studio: InStudio, frame_id: Id, made: Made) -> JSONResponse:
    frame_or_404(studio, frame_id)
    return _state(studio, cleaning.mark(studio.library, frame_id, made.marks, studio.close.photo))


@router.post("/back")
def back(studio: InStudio, frame_id: Id, asked: Back) -> JSONResponse:
    """Undo, redo, or fill the last mark from another place."""
    frame_or_404(studio, frame_id)
    to = {"undo": cleaning.undo, "redo": cleaning.redo, "another source": cleaning.other_source}[asked.what]
    return _state(studio, to(studio.library, frame_id, studio.close.photo))


@router.post("/masks")
def masks(studio: InStudio, frame_id: Id) -> JSONResponse:
    """Find the frame's masks anew on its cleaned picture."""
    frame = frame_or_404(studio, frame_id)
    finding.queue_on_cleaned(studio.library, frame_id)
    studio.runner.wake()
    return _state(studio, frame)

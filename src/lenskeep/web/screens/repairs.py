"""Repairing one frame's masks: the masks as pictures, repairs made and taken back, what a click would take."""

from typing import Annotated, Any, Literal

from fastapi import APIRouter, HTTPException
from fastapi.responses import JSONResponse, Response
from pydantic import BaseModel, ConfigDict, Field

from lenskeep.core.repairs.models import Clicked, MaskName, Repair
from lenskeep.store import walls
from lenskeep.store.frames import FrameRow
from lenskeep.studio import repairing
from lenskeep.studio.bench import pointing
from lenskeep.web.studio_of import Id, InStudio, Studio, frame_or_404

router = APIRouter(prefix="/frames/{frame_id}")


class Made(BaseModel):
    """A repair as the page sends it."""

    model_config = ConfigDict(extra="forbid")
    repair: Annotated[Repair, Field(discriminator="kind")]


class Back(BaseModel):
    """Taking repairs back, or making those again that were taken back; ``mask`` where it is "as found"."""

    model_config = ConfigDict(extra="forbid")
    what: Literal["undo", "redo", "as found"]
    mask: MaskName = "subject"


class Over(BaseModel):
    """A place on the frame, 0…1, and what a click there would be for."""

    model_config = ConfigDict(allow_inf_nan=False)
    x: float = Field(ge=0, le=1)
    y: float = Field(ge=0, le=1)
    mask: MaskName = "subject"
    away: bool = False
    alone: bool = False


def _state(studio: Studio, frame: FrameRow) -> JSONResponse:
    """What the page needs to know after a change: how much can be taken back, and which masks are by hand."""
    repairs = frame.override.repairs
    after = walls.neighbours(studio.library.db, frame, "doubtful").after
    out: dict[str, Any] = {
        "key": repairs.key() or "found",
        "undo": len(repairs.done),
        "redo": len(repairs.undone),
        "byHand": list(repairs.masks),
        "doubtful": frame.doubtful,
        "nextDoubtful": after,
    }
    return JSONResponse(out)


@router.get("/repairs")
def state(studio: InStudio, frame_id: Id) -> JSONResponse:
    return _state(studio, frame_or_404(studio, frame_id))


@router.post("/repairs")
def make(studio: InStudio, frame_id: Id, made: Made) -> JSONResponse:
    """Do one repair."""
    frame_or_404(studio, frame_id)
    return _state(studio, repairing.repair(studio.library, frame_id, made.repair))


@router.post("/repairs/back")
def back(studio: InStudio, frame_id: Id, asked: Back) -> JSONResponse:
    """Undo, redo, or take back all of one mask."""
    frame_or_404(studio, frame_id)
    if asked.what == "as found":
        return _state(studio, repairing.as_found(studio.library, frame_id, asked.mask))
    change = repairing.undo if asked.what == "undo" else repairing.redo
    return _state(studio, change(studio.library, frame_id))


@router.get("/masks/{name}.png")
def mask(studio: InStudio, frame_id: Id, name: str) -> Response:
    """One mask as it is now, grey, at proxy size; empty where nothing of it was found."""
    frame = frame_or_404(studio, frame_id)
    if frame.facts is None:
        raise HTTPException(404, "The masks of this frame are still being found.")
    data = repairing.mask_now(studio.library, frame, name)
    return Response(data, media_type="image/png", headers={"cache-control": "no-store"})


@router.post("/piece")
def piece(studio: InStudio, frame_id: Id, point: Over) -> JSONResponse:
    """The outline of what a click would take."""
    frame = frame_or_404(studio, frame_id)
    click = Clicked(mask=point.mask, away=point.away, x=point.x, y=point.y)
    if not point.alone and (path := repairing.gap_outline(studio.library, frame, click)):
        return JSONResponse({"kind": "island" if point.away else "hole", "path": path, "label": 0})
    return JSONResponse(pointing.outline_at(studio.stage, frame_id, point.x, point.y))

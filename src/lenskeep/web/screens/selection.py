"""What is done to frames that were selected on the wall, and what else can be selected."""

from typing import Annotated, Literal

from fastapi import APIRouter
from fastapi.responses import JSONResponse
from pydantic import BaseModel, Field

from lenskeep.store import deeds as kept
from lenskeep.studio import deeds, many
from lenskeep.studio.many import Doing
from lenskeep.web.studio_of import Id, InStudio, Studio, frame_or_404, shoot_or_404

router = APIRouter()
MOST = 20_000


class Asked(BaseModel):
    """Frames, and what is done to them."""

    frames: list[Annotated[int, Field(ge=1, le=2**63 - 1)]] = Field(min_length=1, max_length=MOST)
    do: Doing


class Back(BaseModel):
    way: Literal["undo", "redo"]


def _answer(studio: Studio, shoot_id: int, said: str) -> JSONResponse:
    studio.runner.wake()
    last, back = kept.last_done(studio.library.db, shoot_id), kept.last_undone(studio.library.db, shoot_id)
    return JSONResponse({"said": said, "undo": last.words if last else "", "redo": back.words if back else ""})


@router.post("/shoots/{shoot_id}/do")
def do(studio: InStudio, shoot_id: Id, asked: Asked) -> JSONResponse:
    shoot_or_404(studio, shoot_id)
    return _answer(studio, shoot_id, many.do(studio.library, shoot_id, asked.frames, asked.do))


@router.post("/shoots/{shoot_id}/back")
def back(studio: InStudio, shoot_id: Id, asked: Back) -> JSONResponse:
    """Take back what was done last to frames of the shoot, or do it again."""
    shoot_or_404(studio, shoot_id)
    go = deeds.undo if asked.way == "undo" else deeds.redo
    return _answer(studio, shoot_id, go(studio.library, shoot_id))


@router.get("/shoots/{shoot_id}/ids")
def ids(studio: InStudio, shoot_id: Id, show: str = "all") -> JSONResponse:
    """Every frame of the shoot in the wall's order, by scene."""
    shoot_or_404(studio, shoot_id)
    return JSONResponse({"scenes": many.ordered_ids(studio.library, shoot_id, show)})


@router.get("/frames/{frame_id}/like")
def like(studio: InStudio, frame_id: Id) -> JSONResponse:
    """The frames that look like this one."""
    frame_or_404(studio, frame_id)
    return JSONResponse({"frames": many.like(studio.library, frame_id)})

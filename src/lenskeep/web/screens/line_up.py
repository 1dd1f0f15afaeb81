"""The line-up: frames down, recipes across; kept, dropped, mixed, given to the scene."""

from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse, JSONResponse, Response
from pydantic import BaseModel, Field

from lenskeep.core.percent import from_percent
from lenskeep.store import frames
from lenskeep.store.frames import FrameSummary
from lenskeep.store.scenes import Scene
from lenskeep.store.shoots import Shoot
from lenskeep.studio.book import choices, line_up
from lenskeep.studio.book.choices import Choice
from lenskeep.studio.book.line_up import MOST_COLUMNS, Column
from lenskeep.web.present import page
from lenskeep.web.screens.close import Part, answer
from lenskeep.web.studio_of import Id, InStudio, frame_or_404, scene_or_404, shoot_or_404

router = APIRouter()
STARTS_WITH = 5
Frames = Annotated[list[int], Query(max_length=200)]
Key = Annotated[str, Field(max_length=120)]
PerCent = Annotated[float, Field(ge=0, le=200, allow_inf_nan=False)]


@dataclass(frozen=True)
class Shown:
    """The frames down, what can stand across by set, and what stands there first."""

    shoot: Shoot
    scene: Scene
    rows: list[FrameSummary]
    shelves: dict[str, list[Choice]]
    first: list[Choice]
    most: int = MOST_COLUMNS


@router.get("/scenes/{scene_id}/line-up", response_class=HTMLResponse)
def show(request: Request, studio: InStudio, scene_id: Id, frame: Frames = []) -> HTMLResponse:  # noqa: B006
    scene = scene_or_404(studio, scene_id)
    rows = line_up.frames_of(studio.library, scene_id, frame)
    every = choices.choices(studio.library, "recipes")
    shown = Shown(shoot_or_404(studio, scene.shoot_id), scene, rows, choices.by_shelf(every), every[:STARTS_WITH])
    return page(request, "line_up/line_up.html", shown)


class Layered(BaseModel):
    """A recipe at a strength in per cent."""

    key: Key
    strength: PerCent = 100.0


class OneColumn(BaseModel):
    """What is mixed, the bottom first."""

    parts: list[Layered] = Field(default=[], max_length=MOST_COLUMNS)

    def column(self) -> Column:
        return Column(tuple((part.key, from_percent(part.strength)) for part in self.parts))


class Cell(OneColumn):
    large: bool = False


class Measuring(OneColumn):
    frames: list[Annotated[int, Field(ge=1, le=2**63 - 1)]] = Field(min_length=1, max_length=line_up.MOST_FRAMES)


@router.post("/frames/{frame_id}/lined")
def cell(studio: InStudio, frame_id: Id, asked: Cell) -> Response:
    """One cell: a frame with recipes at their strengths, nothing of which is kept."""
    frame = frame_or_404(studio, frame_id)
    data = line_up.picture(studio.library, studio.stage, frame, asked.column(), asked.large)
    return Response(data, media_type="image/jpeg")


class LinedPart(Part, OneColumn):
    """A part of a frame in its full pixels, with a column's recipes."""


@router.post("/frames/{frame_id}/lined-cut")
def cell_cut(studio: InStudio, frame_id: Id, part: LinedPart) -> Response:
    """A part of one cell as the delivery would make it."""
    frame_or_404(studio, frame_id)
    return answer(studio.close.cut(frame_id, line_up.plan_for(studio.library, part.column()), part.cut), part)


@router.get("/line-up/versions")
def versions(studio: InStudio, key: Key) -> JSONResponse:
    """The other versions of a recipe, as columns."""
    return JSONResponse([{"key": each.key, "name": each.name} for each in choices.earlier(studio.library, key)])


@router.post("/line-up/measures")
def measures(studio: InStudio, asked: Measuring) -> JSONResponse:
    """What a column does to its frames, in figures."""
    rows = [row for i in asked.frames if (row := frames.frame(studio.library.db, i)) and row.found]
    found = line_up.measured(studio.library, studio.stage, rows, asked.column())
    pull = found.pull.model_dump() if found.pull else None
    return JSONResponse({"pull": pull, "apart": found.apart, "warned": dict(found.warned)})


@router.post("/scenes/{scene_id}/line-up/give")
def give(studio: InStudio, scene_id: Id, asked: OneColumn) -> JSONResponse:
    """Give the scene the look, and its frames their pictures."""
    scene = scene_or_404(studio, scene_id)
    line_up.give(studio.library, scene_id, asked.column())
    studio.runner.wake()
    return JSONResponse({"address": f"/shoots/{scene.shoot_id}#scene-{scene_id}"})

"""The check: frames that need an eye, one by one, the worst first, by keys."""

from dataclasses import dataclass
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, JSONResponse, Response
from pydantic import BaseModel, ConfigDict, Field

from lenskeep.core.measure.guards import GUARDS, GuardName
from lenskeep.store import checks, jobs, shoots
from lenskeep.store.shoots import Shoot
from lenskeep.studio import applying, basing, checking, deeds
from lenskeep.studio.checking import REGIONS, Entry, Fault
from lenskeep.studio.tasks.render import nothing_rendered
from lenskeep.studio.where import stripes_over
from lenskeep.web.present import guard_words, page
from lenskeep.web.studio_of import Id, InStudio, frame_or_404, shoot_or_404

router = APIRouter()
AHEAD = 6
"""Frames whose finished pictures are made before they are looked at."""


@dataclass(frozen=True)
class Check:
    """The page. ``left`` frames need an eye, ``done`` have had one."""

    shoot: Shoot
    left: int
    done: int
    regions: tuple[str, ...] = REGIONS


def told(entry: Entry) -> dict[str, Any]:
    """What the page needs of a frame."""
    f = entry.frame
    steps = [{"id": b.id, "name": b.name, "strength": round(100 * b.strength), "on": b.on} for b in entry.steps]
    original = f"/frames/{f.id}/base/{f.picture_key}.jpg"
    finished = f"/frames/{f.id}/finished/{f.result_key}.jpg" if f.result_key else original
    small = f"/frames/{f.id}/tile/{f.result_key}.jpg" if f.result_key else f"/frames/{f.id}/thumb/{f.picture_key}.jpg"
    faults = [
        {"kind": fault.kind, "words": _words(fault.kind, fault.words), "where": _where(entry, fault)}
        for fault in entry.faults
    ]
    return {
        "id": f.id, "name": f.file_name, "width": f.width, "height": f.height,
        "picture": finished, "small": small, "original": original,
        "stale": f.stale, "faults": faults, "base": f.own_base.amounts(),
        "steps": steps,
    }  # fmt: skip


def _where(entry: Entry, fault: Fault) -> str:
    """What shows where it is: the contours of a mask, or a picture; "" where it has no place."""
    frame = entry.frame
    if fault.mask:
        return f"/frames/{frame.id}/outline/{fault.mask}"
    return f"/frames/{frame.id}/where/{fault.kind}.png?of={frame.result_key}" if fault.kind in GUARDS else ""


def _words(kind: str, words: str) -> str:
    said = guard_words(kind)
    return words if said == kind else f"{said[:1].upper()}{said[1:]}: {words}"


@router.get("/shoots/{shoot_id}/check", response_class=HTMLResponse)
def show(request: Request, studio: InStudio, shoot_id: Id) -> HTMLResponse:
    shoot = shoot_or_404(studio, shoot_id)
    left, done = checks.counts(studio.library.db, shoot_id)
    studio.runner.expect(nothing_rendered)
    return page(request, "check/check.html", Check(shoot, left, done))


@router.get("/shoots/{shoot_id}/check.json")
def order(studio: InStudio, shoot_id: Id) -> JSONResponse:
    """Every frame that needs an eye, in the order they are looked at."""
    shoot_or_404(studio, shoot_id)
    return JSONResponse({"frames": [told(e) for e in checking.entries(studio.library, shoot_id)]})


@router.get("/frames/{frame_id}/where/{guard}.png")
def where(studio: InStudio, frame_id: Id, guard: GuardName) -> Response:
    """Stripes, to be laid over the finished picture, where a guard finds fault."""
    picture = stripes_over(studio.library, frame_or_404(studio, frame_id), guard)
    return Response(picture, media_type="image/png", headers={"cache-control": "no-store"})


class Ahead(BaseModel):
    """Frames that come next."""

    frames: list[Annotated[int, Field(ge=1, le=2**63 - 1)]] = Field(max_length=AHEAD)


@router.post("/shoots/{shoot_id}/check/ahead")
def ahead(studio: InStudio, shoot_id: Id, asked: Ahead) -> JSONResponse:
    """Have the pictures of the next frames made now, those that want another one than they have."""
    shoot_or_404(studio, shoot_id)
    shoots.note_opened(studio.library.db, shoot_id)
    if applying.queue_stale(studio.library, shoot_id, asked.frames, jobs.NOW) is not None:
        studio.runner.wake()
    return JSONResponse({})


class Doing(BaseModel):
    """One key: what is done to the frame that is looked at."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    what: Literal["accept", "back", "weaken", "leave out", "region", "base", "undo", "look"]
    region: str = Field(default="", max_length=40)
    step: str = Field(default="", max_length=80)
    values: dict[str, float] = Field(default={}, max_length=5)


@router.post("/frames/{frame_id}/check")
def do(studio: InStudio, frame_id: Id, asked: Doing) -> JSONResponse:
    """Returns the frame as it is then; its new picture follows (``look``)."""
    frame, library = frame_or_404(studio, frame_id), studio.library
    studio.runner.expect(nothing_rendered)
    said = ""
    if asked.what == "accept":
        checking.accept(library, frame_id)
    elif asked.what == "back":
        checking.back(library, frame_id)
    elif asked.what == "weaken":
        checking.weaken(library, frame_id, asked.step)
    elif asked.what == "leave out":
        checking.leave_out(library, frame_id, asked.step)
    elif asked.what == "region":
        checking.other_region(library, frame_id, asked.region, asked.step)
    elif asked.what == "base":
        basing.set_values(library, frame.shoot_id, [frame_id], asked.values, f"the base of {frame.file_name}")
    elif asked.what == "undo":
        said = deeds.undo(library, frame.shoot_id)
    if asked.what == "look":
        applying.wait_for_picture(library, studio.runner, frame_id)
    else:
        applying.ask_for(library, studio.runner, frame_id)
    left, done = checks.counts(library.db, frame.shoot_id)
    entry = checking.entry(library, frame_id)
    return JSONResponse(told(entry) | {"said": said, "left": left, "done": done})

"""Dust of a shoot: a map of the sensor, each speck with its evidence, confirmed or dropped, healed on every frame."""

from dataclasses import dataclass
from typing import Annotated, Literal

from fastapi import APIRouter, Form, Request
from fastapi.responses import HTMLResponse, Response
from pydantic import BaseModel, ConfigDict, Field

from lenskeep.store import deeds as kept
from lenskeep.store import dust, frames, jobs
from lenskeep.store.dust import Dust
from lenskeep.store.jobs import Job
from lenskeep.store.shoots import Shoot
from lenskeep.studio import deeds, dusting
from lenskeep.web.present import page
from lenskeep.web.studio_of import Id, InStudio, Studio, frame_or_404, shoot_or_404

router = APIRouter()
SHOWN = 4


@dataclass(frozen=True)
class OneSpeck:
    """A speck as the page lists it: its number on the map, and (frame, its name) where it shows most."""

    number: int
    dust: Dust
    shows: list[tuple[int, str]]


@dataclass(frozen=True)
class DustPage:
    """``job`` is the search or the healing that runs, ``last`` what the one before said."""

    shoot: Shoot
    cameras: list[tuple[str, list[OneSpeck]]]
    job: Job | None
    last: str
    searched: bool
    confirmed: int
    undo: str
    said: str = ""


def view_of(studio: Studio, shoot_id: int, said: str = "") -> DustPage:
    db = studio.library.db
    shoot = shoot_or_404(studio, shoot_id)
    found = dusting.of_shoot(studio.library, shoot_id)
    names = {f.id: f.file_name for f in frames.some(db, {i for d in found for i in d.shows})}
    past = [j for j in jobs.jobs(db, shoot_id) if j.kind in (dusting.SEARCH, dusting.HEAL)]
    numbered = [OneSpeck(n, d, [(i, names[i]) for i in d.shows if i in names][:SHOWN]) for n, d in enumerate(found, 1)]
    by_camera = [
        (camera, [one for one in numbered if one.dust.camera == camera]) for camera in dust.cameras(db, shoot_id)
    ]
    last = kept.last_done(db, shoot_id)
    return DustPage(
        shoot,
        by_camera,
        next((j for j in past if j.active), None),
        past[0].message if past and not past[0].active else "",
        any(j.kind == dusting.SEARCH for j in past),
        sum(d.state == "confirmed" for d in found),
        last.words if last and "dust" in last.words else "",
        said,
    )


@router.get("/shoots/{shoot_id}/dust", response_class=HTMLResponse)
def show(request: Request, studio: InStudio, shoot_id: Id) -> HTMLResponse:
    return page(request, "dust/dust.html", view_of(studio, shoot_id))


@router.get("/shoots/{shoot_id}/dust/rows", response_class=HTMLResponse)
def rows(request: Request, studio: InStudio, shoot_id: Id) -> HTMLResponse:
    return page(request, "dust/rows.html", view_of(studio, shoot_id))


@router.post("/shoots/{shoot_id}/dust/{what}", response_class=HTMLResponse)
def do(
    request: Request,
    studio: InStudio,
    shoot_id: Id,
    what: Literal["search", "heal", "confirm", "drop", "undo"],
    ids: Annotated[list[int], Form()] = [],  # noqa: B006
) -> HTMLResponse:
    """Look for it, decide on some of it, heal it, take that back."""
    shoot_or_404(studio, shoot_id)
    said = ""
    if what == "search":
        dusting.queue_search(studio.library, shoot_id)
    elif what == "heal":
        dusting.queue_heal(studio.library, shoot_id)
    elif what == "undo":
        said = deeds.undo(studio.library, shoot_id)
    else:
        own = {d.id for d in dusting.of_shoot(studio.library, shoot_id)}
        dust.set_state(studio.library.db, own & set(ids), "confirmed" if what == "confirm" else "dropped")
    studio.runner.wake()
    return page(request, "dust/rows.html", view_of(studio, shoot_id, said))


class Seen(BaseModel):
    """A place of a frame where somebody saw a speck."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    x: float = Field(ge=0, le=1)
    y: float = Field(ge=0, le=1)


@router.post("/frames/{frame_id}/dust")
def add(studio: InStudio, frame_id: Id, seen: Seen) -> Response:
    """A speck by hand: confirmed, for every frame of its camera."""
    frame_or_404(studio, frame_id)
    dusting.add_by_hand(studio.library, frame_id, seen.x, seen.y)
    return Response(status_code=204)


@router.get("/frames/{frame_id}/dust/{dust_id}.jpg")
def crop(studio: InStudio, frame_id: Id, dust_id: Id) -> Response:
    """What a frame shows at a speck's place, with its contrast raised."""
    data = dusting.crop(studio.library, frame_or_404(studio, frame_id), dust_id)
    return Response(data, media_type="image/jpeg", headers={"cache-control": "private, max-age=3600"})

"""The wall of a shoot: its frames as a contact sheet, where it stands, and giving it a look."""

from dataclasses import dataclass
from typing import Annotated, Literal

from fastapi import APIRouter, Form, Query, Request, Response
from fastapi.responses import HTMLResponse, JSONResponse, RedirectResponse

from lenskeep.core.detect.find import DETECTOR
from lenskeep.store import frames, jobs, recipes, shoots
from lenskeep.store.frames import FrameRow
from lenskeep.store.jobs import Job
from lenskeep.store.recipes import Look, RecipeVersion
from lenskeep.store.shoots import Refusal, Shoot
from lenskeep.studio import find as finding
from lenskeep.studio import looks
from lenskeep.studio.removing import Goes, what_goes
from lenskeep.studio.standing import Standing, is_doubtful, standing_of
from lenskeep.web.present import page
from lenskeep.web.studio_of import Id, InStudio, Studio, shoot_or_404

router = APIRouter()
FILTERS = {"all": "All", "doubtful": "Doubtful", "changed": "Changed by hand"}


@dataclass(frozen=True)
class Tiles:
    """The contact sheet: ``all`` frames and those that are shown; ids of those changed by hand."""

    shoot: Shoot
    frames: list[FrameRow]
    all: list[FrameRow]
    standing: Standing
    changed: set[int]
    show: str
    filters: dict[str, str]
    counts: dict[str, int]


@dataclass(frozen=True)
class Header:
    """Where the shoot stands. ``job`` is under way, ``last`` was the one before; ``goes`` is what removing takes."""

    shoot: Shoot
    standing: Standing
    job: Job | None
    last: Job | None
    look: Look | None
    refusals: list[Refusal]
    delivered: bool
    recipes: list[RecipeVersion]
    raws: int
    goes: Goes
    trouble: str


@dataclass(frozen=True)
class Wall(Header, Tiles):
    """The whole page."""


Read = tuple[list[FrameRow], Look | None, Standing]
"""A shoot's frames, its look and where it stands: read once for a page."""


def _rows(studio: Studio, shoot_id: int) -> Read:
    rows, look = frames.frames(studio.library.db, shoot_id, DETECTOR), recipes.look(studio.library.db, shoot_id)
    return rows, look, standing_of(rows, look)


def _tiles(studio: Studio, shoot_id: int, show: str, read: Read | None = None) -> Tiles:
    rows, _, standing = read or _rows(studio, shoot_id)
    changed = {f.id for f in rows if not f.override.is_neutral}
    shown = {"doubtful": standing.doubtful, "changed": changed}.get(show)
    return Tiles(
        shoot=shoot_or_404(studio, shoot_id),
        frames=[f for f in rows if shown is None or f.id in shown],
        all=rows,
        standing=standing,
        changed=changed,
        show=show,
        filters=FILTERS,
        counts={"all": len(rows), "doubtful": len(standing.doubtful), "changed": len(changed)},
    )


def _header(studio: Studio, shoot_id: int, read: Read | None = None) -> Header:
    db = studio.library.db
    past = jobs.jobs(db, shoot_id)
    _, look, standing = read or _rows(studio, shoot_id)
    return Header(
        shoot=shoot_or_404(studio, shoot_id),
        standing=standing,
        job=jobs.active_job(db, shoot_id),
        last=past[0] if past else None,
        look=look,
        refusals=shoots.refusals(db, shoot_id),
        delivered=any(j.kind == "export" and j.state == "done" for j in past),
        recipes=recipes.newest_versions(db),
        raws=frames.count_raws(db, shoot_id),
        goes=what_goes(studio.library, shoot_id),
        trouble=studio.runner.trouble,
    )


@router.get("/shoots/{shoot_id}.json")
def wall_json(studio: InStudio, shoot_id: Id) -> JSONResponse:
    shoot = shoot_or_404(studio, shoot_id)
    rows = frames.frames(studio.library.db, shoot_id, DETECTOR)
    out = [
        {
            "id": f.id, "file": f.file_name, "taken": f.taken_at, "state": f.state, "problem": f.problem,
            "render_problem": f.render_problem,
            "trust": f.facts.trust if f.facts else None, "reasons": f.facts.reasons if f.facts else [],
            "doubtful": is_doubtful(f), "override": f.override.model_dump(), "result": f.result_key,
        }
        for f in rows
    ]  # fmt: skip
    return JSONResponse({"id": shoot.id, "name": shoot.name, "frames": out})


@router.get("/shoots/{shoot_id}", response_class=HTMLResponse)
def wall(request: Request, studio: InStudio, shoot_id: Id, show: str = "all") -> HTMLResponse:
    read = _rows(studio, shoot_id)
    view = Wall(**(vars(_tiles(studio, shoot_id, show, read)) | vars(_header(studio, shoot_id, read))))
    return page(request, "wall/wall.html", view)


@router.get("/shoots/{shoot_id}/tiles", response_class=HTMLResponse)
def tiles(request: Request, studio: InStudio, shoot_id: Id, show: str = "all") -> HTMLResponse:
    return page(request, "wall/tiles.html", _tiles(studio, shoot_id, show))


@router.get("/shoots/{shoot_id}/standing", response_class=HTMLResponse)
def standing(request: Request, studio: InStudio, shoot_id: Id, seen: Annotated[str, Query()] = "") -> Response:
    """The header with progress; tells the tiles to renew themselves whenever something was finished since."""
    view = _header(studio, shoot_id)
    now = f"{view.job.id}-{view.job.done + view.job.failed}" if view.job else "idle"
    response = page(request, "wall/standing.html", view)
    if now != seen:
        response.headers["HX-Trigger"] = "tiles-changed"
    return response


def _back(studio: Studio, shoot_id: int) -> Response:
    studio.runner.wake()
    return RedirectResponse(f"/shoots/{shoot_id}", 303)


@router.post("/shoots/{shoot_id}/look")
def give_look(
    studio: InStudio, shoot_id: Id, version_id: Annotated[int, Form()], strength: Annotated[float, Form()] = 100.0
) -> Response:
    """Give the shoot a recipe at a strength in per cent, and start rendering every frame."""
    shoot_or_404(studio, shoot_id)
    looks.give_look(studio.library, shoot_id, version_id, strength / 100.0)
    return _back(studio, shoot_id)


@router.post("/shoots/{shoot_id}/raw-base")
def raw_base(studio: InStudio, shoot_id: Id, base: Annotated[Literal["soft", "neutral"], Form()]) -> Response:
    """Bring the shoot's raw files to pictures in another way; masks and look follow."""
    shoot_or_404(studio, shoot_id)
    finding.set_raw_base(studio.library, shoot_id, base)
    return _back(studio, shoot_id)


@router.post("/shoots/{shoot_id}/refusals/clear")
def clear_refusals(studio: InStudio, shoot_id: Id) -> Response:
    shoots.clear_refusals(studio.library.db, shoot_id)
    return RedirectResponse(f"/shoots/{shoot_id}", 303)


@router.post("/shoots/{shoot_id}/find-again")
def find_again(studio: InStudio, shoot_id: Id) -> Response:
    """Find the masks of every frame anew."""
    shoot_or_404(studio, shoot_id)
    finding.queue_finding(studio.library, shoot_id, everything=True)
    return _back(studio, shoot_id)


@router.post("/shoots/{shoot_id}/try-again")
def try_again(studio: InStudio, shoot_id: Id) -> Response:
    """Try once more what failed on single frames, and find masks whose files are gone."""
    shoot_or_404(studio, shoot_id)
    finding.try_again(studio.library, shoot_id)
    return _back(studio, shoot_id)

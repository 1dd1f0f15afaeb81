"""The wall of a shoot: its frames as a contact sheet, where it stands, and giving it a look."""

from typing import Annotated, Literal

from fastapi import APIRouter, Form, Query, Request, Response
from fastapi.responses import HTMLResponse, JSONResponse, RedirectResponse

from lenskeep.core.detect.find import DETECTOR
from lenskeep.core.facts import DOUBTFUL_BELOW
from lenskeep.store import frames, jobs, recipes, shoots
from lenskeep.store.frames import FrameRow
from lenskeep.studio import finding, looks
from lenskeep.web.present import page
from lenskeep.web.studio_of import InStudio, Studio, shoot_or_404

router = APIRouter()
FILTERS = {"all": "All", "doubtful": "Doubtful", "changed": "Changed by hand"}


def is_doubtful(frame: FrameRow) -> bool:
    """Whether somebody should look at the frame's masks."""
    lost = bool(frame.missing)
    return not frame.accepted and (
        frame.state == "failed" or (frame.facts is not None and (frame.facts.doubtful or lost))
    )


def _tiles(studio: Studio, shoot_id: int, show: str) -> dict[str, object]:
    rows = frames.frames(studio.library.db, shoot_id, DETECTOR)
    doubtful = {f.id for f in rows if is_doubtful(f)}
    changed = {f.id for f in rows if not f.override.is_neutral}
    shown = {"doubtful": doubtful, "changed": changed}.get(show)
    look = recipes.look(studio.library.db, shoot_id)
    stale = {f.id for f in rows if look and f.facts and f.result_key != looks.wanted(f, look).key}
    return {
        "frames": [f for f in rows if shown is None or f.id in shown],
        "all": rows,
        "doubtful": doubtful,
        "changed": changed,
        "stale": stale,
        "show": show,
        "filters": FILTERS,
        "counts": {"all": len(rows), "doubtful": len(doubtful), "changed": len(changed)},
    }


def _standing(studio: Studio, shoot_id: int) -> dict[str, object]:
    db = studio.library.db
    last = jobs.jobs(db, shoot_id, 1)
    return {
        "shoot": shoot_or_404(studio, shoot_id),
        "job": jobs.active_job(db, shoot_id),
        "last": last[0] if last else None,
        "look": recipes.look(db, shoot_id),
        "tally": shoots.tally(db, shoot_id, DETECTOR, DOUBTFUL_BELOW),
        "refusals": shoots.refusals(db, shoot_id),
        "delivered": any(j.kind == "export" and j.state == "done" for j in jobs.jobs(db, shoot_id)),
        "recipes": recipes.newest_versions(db),
        "raws": frames.count_raws(db, shoot_id),
    }


@router.get("/shoots/{shoot_id}.json")
def wall_json(studio: InStudio, shoot_id: int) -> JSONResponse:
    shoot = shoot_or_404(studio, shoot_id)
    rows = frames.frames(studio.library.db, shoot_id, DETECTOR)
    out = [
        {
            "id": f.id, "file": f.file_name, "taken": f.taken_at, "state": f.state, "problem": f.problem,
            "trust": f.facts.trust if f.facts else None, "reasons": f.facts.reasons if f.facts else [],
            "doubtful": is_doubtful(f), "override": f.override.model_dump(), "result": f.result_key,
        }
        for f in rows
    ]  # fmt: skip
    return JSONResponse({"id": shoot.id, "name": shoot.name, "frames": out})


@router.get("/shoots/{shoot_id}", response_class=HTMLResponse)
def wall(request: Request, studio: InStudio, shoot_id: int, show: str = "all") -> HTMLResponse:
    return page(request, "wall/wall.html", {**_standing(studio, shoot_id), **_tiles(studio, shoot_id, show)})


@router.get("/shoots/{shoot_id}/tiles", response_class=HTMLResponse)
def tiles(request: Request, studio: InStudio, shoot_id: int, show: str = "all") -> HTMLResponse:
    context = {"shoot": shoot_or_404(studio, shoot_id), **_tiles(studio, shoot_id, show)}
    return page(request, "wall/tiles.html", context)


@router.get("/shoots/{shoot_id}/standing", response_class=HTMLResponse)
def standing(request: Request, studio: InStudio, shoot_id: int, seen: Annotated[str, Query()] = "") -> Response:
    """The header with progress; tells the tiles to renew themselves whenever something was finished since."""
    context = _standing(studio, shoot_id)
    job = context["job"]
    now = f"{job.id}-{job.done + job.failed}" if isinstance(job, jobs.Job) else "idle"
    response = page(request, "wall/standing.html", context)
    if now != seen:
        response.headers["HX-Trigger"] = "tiles-changed"
    return response


@router.post("/shoots/{shoot_id}/look")
def give_look(
    studio: InStudio, shoot_id: int, version_id: Annotated[int, Form()], strength: Annotated[float, Form()] = 100.0
) -> Response:
    """Give the shoot a recipe at a strength in per cent, and start rendering every frame."""
    shoot_or_404(studio, shoot_id)
    looks.give_look(studio.library, shoot_id, version_id, strength / 100.0)
    studio.runner.wake()
    return RedirectResponse(f"/shoots/{shoot_id}", 303)


@router.post("/shoots/{shoot_id}/raw-base")
def raw_base(studio: InStudio, shoot_id: int, base: Annotated[Literal["soft", "neutral"], Form()]) -> Response:
    """Bring the shoot's raw files to pictures in another way; masks and look follow."""
    shoot_or_404(studio, shoot_id)
    finding.set_raw_base(studio.library, shoot_id, base)
    studio.runner.wake()
    return RedirectResponse(f"/shoots/{shoot_id}", 303)


@router.post("/shoots/{shoot_id}/refusals/clear")
def clear_refusals(studio: InStudio, shoot_id: int) -> Response:
    shoots.clear_refusals(studio.library.db, shoot_id)
    return RedirectResponse(f"/shoots/{shoot_id}", 303)


@router.post("/shoots/{shoot_id}/find-again")
def find_again(studio: InStudio, shoot_id: int) -> Response:
    """Try the frames on which finding failed once more."""
    shoot_or_404(studio, shoot_id)
    finding.queue_finding(studio.library, shoot_id)
    studio.runner.wake()
    return RedirectResponse(f"/shoots/{shoot_id}", 303)

"""Hand over: what leaves, in which form, with the proof that it was looked at."""

from typing import Annotated

from fastapi import APIRouter, Form, HTTPException, Request
from fastapi.responses import FileResponse, HTMLResponse, RedirectResponse, Response

from lenskeep.core.colour.spaces import OutputSpace
from lenskeep.core.detect.find import DETECTOR
from lenskeep.core.facts import DOUBTFUL_BELOW
from lenskeep.store import frames, jobs, recipes, shoots
from lenskeep.studio import deliver
from lenskeep.web.present import page
from lenskeep.web.screens.wall import is_doubtful
from lenskeep.web.studio_of import InStudio, Studio, shoot_or_404

router = APIRouter()


def _deliveries(studio: Studio, shoot_id: int) -> dict[str, object]:
    db = studio.library.db
    past = [j for j in jobs.jobs(db, shoot_id) if j.kind == deliver.KIND]
    return {
        "shoot": shoot_or_404(studio, shoot_id),
        "deliveries": past,
        "failures": {j.id: jobs.failures(db, j.id) for j in past if j.failed},
        "zips": {j.id: deliver.zip_of(studio.library, j) for j in past if j.state == "done"},
        "busy": any(j.active for j in past),
    }


@router.get("/shoots/{shoot_id}/hand-over", response_class=HTMLResponse)
def show(request: Request, studio: InStudio, shoot_id: int) -> HTMLResponse:
    db = studio.library.db
    rows = frames.frames(db, shoot_id, DETECTOR)
    context = {
        **_deliveries(studio, shoot_id),
        "look": recipes.look(db, shoot_id),
        "tally": shoots.tally(db, shoot_id, DETECTOR, DOUBTFUL_BELOW),
        "doubtful": [f for f in rows if is_doubtful(f)],
        "leaving": [f for f in rows if f.facts is not None],
        "largest": max((max(f.width, f.height) for f in rows), default=0),
    }
    return page(request, "hand_over/hand_over.html", context)


@router.get("/shoots/{shoot_id}/deliveries", response_class=HTMLResponse)
def deliveries(request: Request, studio: InStudio, shoot_id: int) -> HTMLResponse:
    return page(request, "hand_over/deliveries.html", _deliveries(studio, shoot_id))


@router.post("/shoots/{shoot_id}/hand-over")
def start(
    studio: InStudio,
    shoot_id: int,
    quality: Annotated[int, Form(ge=40, le=100)] = 92,
    size: Annotated[str, Form()] = "full",
    long_side: Annotated[int, Form(ge=200, le=20000)] = 2048,
    space: Annotated[OutputSpace, Form()] = "srgb",
    form: Annotated[str, Form()] = "zip",
    folder: Annotated[str, Form()] = "",
) -> Response:
    shoot_or_404(studio, shoot_id)
    if form == "folder" and not folder.strip():
        raise ValueError("Say into which folder the files should go.")
    options = deliver.DeliveryOptions(
        quality=quality,
        long_side=long_side if size == "limited" else None,
        space=space,
        folder=folder.strip() if form == "folder" else None,
    )
    deliver.queue_delivery(studio.library, shoot_id, options)
    studio.runner.wake()
    return RedirectResponse(f"/shoots/{shoot_id}/hand-over", 303)


@router.get("/deliveries/{job_id}.zip")
def download(studio: InStudio, job_id: int) -> FileResponse:
    job = jobs.job(studio.library.db, job_id)
    path = deliver.zip_of(studio.library, job) if job and job.kind == deliver.KIND else None
    if path is None or not path.is_file():
        raise HTTPException(404, "This hand-over is not ready, or its ZIP was removed.")
    return FileResponse(path, filename=path.name, media_type="application/zip")

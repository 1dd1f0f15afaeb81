"""Activity: running and past jobs, with progress, cancel and resume."""

from fastapi import APIRouter, HTTPException, Request
from fastapi.responses import HTMLResponse

from lenskeep.store import jobs, shoots
from lenskeep.web.present import page
from lenskeep.web.studio_of import InStudio, Studio

router = APIRouter()
KINDS = {"find": "Finding masks", "apply": "Applying the look", "export": "Handing over"}


def _context(studio: Studio) -> dict[str, object]:
    db = studio.library.db
    listed = jobs.jobs(db)
    return {
        "jobs": listed,
        "names": {s.id: s.name for s in shoots.shoots(db)},
        "kinds": KINDS,
        "failures": {j.id: jobs.failures(db, j.id) for j in listed if j.failed},
        "busy": any(j.active for j in listed),
    }


@router.get("/activity", response_class=HTMLResponse)
def activity(request: Request, studio: InStudio) -> HTMLResponse:
    return page(request, "activity/activity.html", _context(studio))


@router.get("/activity/list", response_class=HTMLResponse)
def listing(request: Request, studio: InStudio) -> HTMLResponse:
    return page(request, "activity/list.html", _context(studio))


def _job(studio: Studio, job_id: int) -> jobs.Job:
    job = jobs.job(studio.library.db, job_id)
    if job is None:
        raise HTTPException(404, "This job is gone.")
    return job


@router.post("/jobs/{job_id}/cancel", response_class=HTMLResponse)
def cancel(request: Request, studio: InStudio, job_id: int) -> HTMLResponse:
    jobs.cancel(studio.library.db, _job(studio, job_id).id)
    return listing(request, studio)


@router.post("/jobs/{job_id}/resume", response_class=HTMLResponse)
def resume(request: Request, studio: InStudio, job_id: int) -> HTMLResponse:
    jobs.resume(studio.library.db, _job(studio, job_id).id)
    studio.runner.wake()
    return listing(request, studio)

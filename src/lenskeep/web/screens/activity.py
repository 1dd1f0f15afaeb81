"""Activity: running and past jobs, with progress, cancel and resume."""

from dataclasses import dataclass

from fastapi import APIRouter, HTTPException, Request
from fastapi.responses import HTMLResponse

from lenskeep.store import jobs, shoots
from lenskeep.store.jobs import Job
from lenskeep.studio import resuming, tidy
from lenskeep.web.present import page
from lenskeep.web.studio_of import Id, InStudio, Studio

router = APIRouter()


@dataclass(frozen=True)
class Activity:
    """Jobs, the newest first; shoots' names by id; (file, reason) of what failed, by job; what holds the queue up."""

    jobs: list[Job]
    names: dict[int, str]
    failures: dict[int, list[tuple[str, str]]]
    busy: bool
    trouble: str


@dataclass(frozen=True)
class RoomTaken:
    """(what, how much) in words."""

    rows: list[tuple[str, str]]


def _view(studio: Studio) -> Activity:
    db = studio.library.db
    listed = jobs.jobs(db)
    return Activity(
        jobs=listed,
        names={s.id: s.name for s in shoots.shoots(db)},
        failures={j.id: jobs.failures(db, j.id) for j in listed if j.failed},
        busy=any(j.active for j in listed),
        trouble=studio.runner.trouble,
    )


@router.get("/activity", response_class=HTMLResponse)
def activity(request: Request, studio: InStudio) -> HTMLResponse:
    return page(request, "activity/activity.html", _view(studio))


@router.get("/activity/room", response_class=HTMLResponse)
def room(request: Request, studio: InStudio) -> HTMLResponse:
    """What takes how much room; every file is looked at, so the page asks for it when it stands."""
    return page(request, "activity/room.html", RoomTaken(tidy.room_words(tidy.room(studio.library))))


@router.get("/activity/list", response_class=HTMLResponse)
def listing(request: Request, studio: InStudio) -> HTMLResponse:
    return page(request, "activity/list.html", _view(studio))


def _job(studio: Studio, job_id: int) -> Job:
    job = jobs.job(studio.library.db, job_id)
    if job is None:
        raise HTTPException(404, "This job is gone.")
    return job


@router.post("/jobs/{job_id}/cancel", response_class=HTMLResponse)
def cancel(request: Request, studio: InStudio, job_id: Id) -> HTMLResponse:
    jobs.cancel(studio.library.db, _job(studio, job_id).id)
    return listing(request, studio)


@router.post("/jobs/{job_id}/resume", response_class=HTMLResponse)
def resume(request: Request, studio: InStudio, job_id: Id) -> HTMLResponse:
    resuming.resume(studio.library, _job(studio, job_id))
    studio.runner.wake()
    return listing(request, studio)

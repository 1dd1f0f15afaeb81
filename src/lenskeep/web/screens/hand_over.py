"""Hand over: what leaves, in which form, with the proof that it was looked at."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Annotated
from urllib.parse import quote

from fastapi import APIRouter, Form, HTTPException, Request
from fastapi.responses import FileResponse, HTMLResponse, RedirectResponse, Response, StreamingResponse

from lenskeep.core.colour.spaces import OutputSpace
from lenskeep.core.problems import UserProblem
from lenskeep.files.archive import zip_bytes, zip_stream
from lenskeep.files.writing import FORMS
from lenskeep.files.writing import Form as OutputForm
from lenskeep.store import frames, jobs, walls
from lenskeep.store.frames import FrameSummary
from lenskeep.store.jobs import Job
from lenskeep.store.looks import Look
from lenskeep.store.shoots import Shoot
from lenskeep.studio.hand_over import deliver
from lenskeep.studio.looks import look_of_shoot
from lenskeep.studio.standing import Standing, standing_of
from lenskeep.web.present import page
from lenskeep.web.studio_of import Id, InStudio, Studio, shoot_or_404

router = APIRouter()
SHOWN = 16


@dataclass(frozen=True)
class Deliveries:
    """Hand-overs of a shoot, the newest first; (file, reason) of what failed, by job; what holds the queue up."""

    shoot: Shoot
    deliveries: list[Job]
    failures: dict[int, list[tuple[str, str]]]
    busy: bool
    trouble: str


@dataclass(frozen=True)
class HandOver(Deliveries):
    """The whole page. ``check`` is the first doubtful frame, ``leaving`` a few of those that leave, besides ``more``;
    ``largest`` is the longest side of any frame.
    """

    look: Look | None
    standing: Standing
    check: int | None
    leaving: list[FrameSummary]
    more: int
    largest: int
    rejected: int
    forms: Mapping[str, OutputForm] = field(default_factory=lambda: FORMS)


def _deliveries(studio: Studio, shoot_id: int) -> Deliveries:
    db = studio.library.db
    past = [j for j in jobs.jobs(db, shoot_id) if j.kind == deliver.KIND]
    failures = {j.id: jobs.failures(db, j.id) for j in past if j.failed}
    busy = any(j.active for j in past)
    return Deliveries(shoot_or_404(studio, shoot_id), past, failures, busy, studio.runner.trouble)


@router.get("/shoots/{shoot_id}/hand-over", response_class=HTMLResponse)
def show(request: Request, studio: InStudio, shoot_id: Id) -> HTMLResponse:
    past = _deliveries(studio, shoot_id)
    db, look = studio.library.db, look_of_shoot(studio.library, shoot_id)
    counts = walls.counts(db, shoot_id)
    doubtful = walls.page(db, shoot_id, "doubtful", "", 0, 1)
    view = HandOver(
        **vars(past),
        look=look,
        standing=standing_of(counts, look),
        check=doubtful[0].id if doubtful else None,
        leaving=walls.covers(db, shoot_id, SHOWN),
        more=max(counts.found - SHOWN, 0),
        largest=frames.longest_side(db, shoot_id),
        rejected=walls.marked(db, shoot_id, "rejected"),
    )
    return page(request, "hand_over/hand_over.html", view)


@router.get("/shoots/{shoot_id}/deliveries", response_class=HTMLResponse)
def deliveries(request: Request, studio: InStudio, shoot_id: Id) -> HTMLResponse:
    return page(request, "hand_over/deliveries.html", _deliveries(studio, shoot_id))


@router.post("/shoots/{shoot_id}/hand-over")
def start(
    studio: InStudio,
    shoot_id: Id,
    quality: Annotated[int, Form(ge=40, le=100)] = 92,
    size: Annotated[str, Form()] = "full",
    long_side: Annotated[int, Form(ge=200, le=20000)] = 2048,
    space: Annotated[OutputSpace, Form()] = "srgb",
    kind: Annotated[str, Form()] = "jpeg",
    form: Annotated[str, Form()] = "zip",
    folder: Annotated[str, Form()] = "",
    rejected: Annotated[bool, Form()] = False,
) -> Response:
    shoot_or_404(studio, shoot_id)
    if form == "folder" and not folder.strip():
        raise UserProblem("Say into which folder the files should go.")
    options = deliver.DeliveryOptions(
        quality=quality,
        long_side=long_side if size == "limited" else None,
        space=space,
        form=kind,
        folder=folder.strip() if form == "folder" else None,
        rejected=rejected,
    )
    deliver.queue_delivery(studio.library, shoot_id, options)
    studio.runner.wake()
    return RedirectResponse(f"/shoots/{shoot_id}/hand-over", 303)


@router.get("/deliveries/{job_id}.zip")
def download(studio: InStudio, job_id: Id) -> Response:
    """A finished hand-over as a ZIP, packed while it is sent."""
    job = jobs.job(studio.library.db, job_id)
    if job is None or job.kind != deliver.KIND or job.state != "done" or job.options.get("folder"):
        raise HTTPException(404, "This hand-over is not ready, or its files were removed.")
    old = deliver.old_zip(studio.library, job)
    if old is not None:
        return FileResponse(old, filename=old.name, media_type="application/zip")
    files, name = deliver.packed(studio.library, job), deliver.zip_name(job)
    headers = {"content-disposition": f"attachment; filename*=UTF-8''{quote(name)}"}
    length = zip_bytes(files)
    if length is not None:
        headers["content-length"] = str(length)
    return StreamingResponse(zip_stream(files), headers=headers, media_type="application/zip")

"""Shoots: every shoot with its covers and where it stands; bringing in new ones."""

import tempfile
from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, File, Form, Request, UploadFile
from fastapi.responses import HTMLResponse, JSONResponse, RedirectResponse, Response

from lenskeep.core.detect.find import DETECTOR
from lenskeep.core.facts import DOUBTFUL_BELOW
from lenskeep.files.photo import FORMATS
from lenskeep.files.raw import SUFFIXES
from lenskeep.store import frames, jobs, recipes, shoots
from lenskeep.studio import bring_in, finding
from lenskeep.web.present import page
from lenskeep.web.studio_of import InStudio, Studio, shoot_or_404

router = APIRouter()
COVERS = 7
ACCEPTED = [".jpg", ".jpeg", *FORMATS.values(), ".tiff", ".heif", ".hif", ".zip", *sorted(SUFFIXES)]
_CHUNK = 1 << 20


def _cards(studio: Studio) -> list[dict[str, object]]:
    db = studio.library.db
    out = []
    for shoot in shoots.shoots(db):
        rows = frames.frames(db, shoot.id, DETECTOR)
        ready = [f for f in rows if f.facts is not None]
        step = max(1, len(ready) // COVERS)
        delivered = any(j.kind == "export" and j.state == "done" for j in jobs.jobs(db, shoot.id))
        out.append(
            {
                "shoot": shoot,
                "covers": ready[::step][:COVERS],
                "tally": shoots.tally(db, shoot.id, DETECTOR, DOUBTFUL_BELOW),
                "look": recipes.look(db, shoot.id),
                "first": rows[0].taken_at if rows else None,
                "busy": jobs.active_job(db, shoot.id),
                "delivered": delivered,
            }
        )
    return out


@router.get("/", response_class=HTMLResponse)
def home(request: Request, studio: InStudio) -> HTMLResponse:
    return page(request, "home/home.html", {**_listed(studio), "accepted": ",".join(ACCEPTED)})


@router.get("/cards", response_class=HTMLResponse)
def cards(request: Request, studio: InStudio) -> HTMLResponse:
    """The list of shoots alone, for the page to renew while something is under way."""
    return page(request, "home/cards.html", _listed(studio))


def _listed(studio: Studio) -> dict[str, object]:
    listed = _cards(studio)
    return {"cards": listed, "busy": any(card["busy"] for card in listed)}


@router.get("/shoots.json")
def shoots_json(studio: InStudio) -> JSONResponse:
    data = []
    for card in _cards(studio):
        shoot, tally = card["shoot"], card["tally"]
        assert isinstance(shoot, shoots.Shoot) and isinstance(tally, shoots.Tally)
        data.append({"id": shoot.id, "name": shoot.name, **tally.__dict__, "delivered": card["delivered"]})
    return JSONResponse(data)


@router.post("/shoots")
def create(studio: InStudio, name: Annotated[str, Form()]) -> JSONResponse:
    """A new shoot, for the uploader; its files follow one by one."""
    shoot_id = bring_in.create_shoot(studio.library, name)
    return JSONResponse({"id": shoot_id, "url": f"/shoots/{shoot_id}"}, 201)


@router.post("/shoots/{shoot_id}/files")
def receive(studio: InStudio, shoot_id: int, file: Annotated[UploadFile, File()]) -> JSONResponse:
    """Take one file, a photograph or a ZIP."""
    shoot_or_404(studio, shoot_id)
    name = Path((file.filename or "unnamed").replace("\\", "/")).name or "unnamed"
    with tempfile.NamedTemporaryFile(dir=studio.library.incoming(), suffix=Path(name).suffix[:8]) as scratch:
        while chunk := file.file.read(_CHUNK):
            scratch.write(chunk)
        scratch.flush()
        received = bring_in.receive(studio.library, shoot_id, Path(scratch.name), name)
    return JSONResponse({"added": len(received.frame_ids), "known": received.known, "refused": received.refused})


@router.post("/shoots/{shoot_id}/find")
def find(studio: InStudio, shoot_id: int) -> JSONResponse:
    """Start finding masks on what came in."""
    shoot_or_404(studio, shoot_id)
    job = finding.queue_finding(studio.library, shoot_id)
    studio.runner.wake()
    return JSONResponse({"job": job, "url": f"/shoots/{shoot_id}"})


@router.post("/shoots/{shoot_id}/rename")
def rename(studio: InStudio, shoot_id: int, name: Annotated[str, Form()]) -> Response:
    shoot_or_404(studio, shoot_id)
    name = " ".join(name.split())
    if not 1 <= len(name) <= 120:
        raise ValueError("Give the shoot a name of 1 to 120 characters.")
    shoots.rename_shoot(studio.library.db, shoot_id, name)
    return RedirectResponse(f"/shoots/{shoot_id}", 303)


@router.post("/shoots/{shoot_id}/remove")
def remove(studio: InStudio, shoot_id: int) -> Response:
    shoot_or_404(studio, shoot_id)
    for job in jobs.jobs(studio.library.db, shoot_id):
        jobs.cancel(studio.library.db, job.id)
    shoots.remove_shoot(studio.library.db, shoot_id)
    return RedirectResponse("/", 303)

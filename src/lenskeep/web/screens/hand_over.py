"""Hand over: what leaves, in which form, with the proof that it was looked at."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Annotated, get_args
from urllib.parse import quote

from fastapi import APIRouter, Depends, File, Form, HTTPException, Request, UploadFile
from fastapi.responses import (
    FileResponse,
    HTMLResponse,
    PlainTextResponse,
    RedirectResponse,
    Response,
    StreamingResponse,
)

from lenskeep.core.adjust.finish.text_mark import Place
from lenskeep.core.colour.spaces import OutputSpace
from lenskeep.core.problems import UserProblem
from lenskeep.files.archive import zip_bytes, zip_stream
from lenskeep.files.writing import FORMS
from lenskeep.files.writing import Form as OutputForm
from lenskeep.files.writing.fields import Said
from lenskeep.store import frames as kept
from lenskeep.store import jobs, scenes, walls
from lenskeep.store import ways as kept_ways
from lenskeep.store.frames import FrameSummary
from lenskeep.store.jobs import Job
from lenskeep.store.looks import Look
from lenskeep.store.scenes import Scene
from lenskeep.store.shoots import Shoot
from lenskeep.studio.hand_over import coming_back, deliver, logos
from lenskeep.studio.hand_over import ways as naming
from lenskeep.studio.hand_over.names import FIELDS, PLAIN, check_pattern, stem_of
from lenskeep.studio.hand_over.options import DeliveryOptions, Sharpening
from lenskeep.studio.hand_over.said import keep_said, said_of
from lenskeep.studio.hand_over.targets import check_target
from lenskeep.studio.looks import look_of_shoot
from lenskeep.studio.standing import Standing, standing_of
from lenskeep.web.present import page
from lenskeep.web.studio_of import Id, InStudio, Studio, received, shoot_or_404

router = APIRouter()
SHOWN = 16
MOST_LOGO = 20_000_000


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
    scenes: list[Scene]
    example: str
    said: Said
    told: str = ""
    ways: tuple[tuple[str, str], ...] = ()
    places: tuple[str, ...] = get_args(Place)
    logos: Mapping[str, str] = field(default_factory=dict)
    fields: Mapping[str, str] = field(default_factory=lambda: FIELDS)
    forms: Mapping[str, OutputForm] = field(default_factory=lambda: FORMS)


def _deliveries(studio: Studio, shoot_id: int) -> Deliveries:
    db = studio.library.db
    past = [j for j in jobs.jobs(db, shoot_id) if j.kind == deliver.KIND]
    failures = {j.id: jobs.failures(db, j.id) for j in past if j.failed}
    busy = any(j.active for j in past)
    return Deliveries(shoot_or_404(studio, shoot_id), past, failures, busy, studio.runner.trouble)


@router.get("/shoots/{shoot_id}/hand-over", response_class=HTMLResponse)
def show(request: Request, studio: InStudio, shoot_id: Id, told: str = "") -> HTMLResponse:
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
        largest=kept.longest_side(db, shoot_id),
        rejected=walls.marked(db, shoot_id, "rejected"),
        scenes=scenes.shown(db, shoot_id),
        example=_example(studio, shoot_id, PLAIN),
        said=said_of(studio.library, shoot_id),
        told=told[:300],
        ways=tuple((name, naming.words(way)) for name, way in naming.ways(studio.library).items()),
        logos=logos.known(studio.library),
    )
    return page(request, "hand_over/hand_over.html", view)


@router.get("/shoots/{shoot_id}/deliveries", response_class=HTMLResponse)
def deliveries(request: Request, studio: InStudio, shoot_id: Id) -> HTMLResponse:
    return page(request, "hand_over/deliveries.html", _deliveries(studio, shoot_id))


async def said_in(request: Request) -> Said | None:
    """What the form says of the pictures; None where it has no such fields."""
    form = await request.form()
    told = {name: str(form[f"said_{name}"])[:300] for name in Said.model_fields if f"said_{name}" in form}
    if "author" not in told:
        return None
    return Said.model_validate(told | {"gps": "said_gps" in form})


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
    frames: Annotated[str, Form(pattern="^[0-9,]*$", max_length=300_000)] = "",
    scene: Annotated[int, Form(ge=0, le=2**63 - 1)] = 0,
    rating: Annotated[int, Form(ge=0, le=5)] = 0,
    trusted: Annotated[bool, Form()] = False,
    names: Annotated[str, Form()] = PLAIN,
    sharpen: Annotated[Sharpening, Form()] = "",
    gallery: Annotated[bool, Form()] = False,
    contact: Annotated[bool, Form()] = False,
    masks: Annotated[bool, Form()] = False,
    mark: Annotated[str, Form(max_length=80)] = "",
    mark_place: Annotated[Place, Form()] = "bottom right",
    logo: Annotated[str, Form(pattern="^([0-9a-f]{64})?$")] = "",
    logo_file: Annotated[UploadFile | None, File()] = None,
    logo_place: Annotated[Place, Form()] = "bottom left",
    logo_size: Annotated[float, Form(ge=0.5, le=30.0)] = 6.0,
    ways: Annotated[list[str], Form()] = [],  # noqa: B006
    keep_as: Annotated[str, Form()] = "",
    said: Annotated[Said | None, Depends(said_in)] = None,
) -> Response:
    shoot_or_404(studio, shoot_id)
    if form == "folder" and not folder.strip():
        raise UserProblem("Say into which folder the files should go.")
    if form == "folder":
        check_target(folder.strip())
    own = _logo(studio, logo, logo_file)
    told = said or said_of(studio.library, shoot_id)
    keep_said(studio.library, shoot_id, told)
    options = DeliveryOptions(
        quality=quality,
        long_side=long_side if size == "limited" else None,
        space=space,
        form=kind,
        folder=folder.strip() if form == "folder" else None,
        rejected=rejected,
        frames=[int(one) for one in frames.split(",") if one and len(one) < 19] or None,
        scenes=[scene] if scene else None,
        rating=rating,
        trusted=trusted,
        names=check_pattern(names),
        sharpen=sharpen,
        gallery=gallery,
        contact=contact,
        masks=masks,
        mark=mark.strip(),
        mark_place=mark_place,
        logo=own[0],
        logo_name=own[1],
        logo_place=logo_place,
        logo_size=logo_size,
        said=told,
    )
    if keep_as.strip():
        naming.keep(studio.library, keep_as, options)
    if ways:
        naming.queue(studio.library, shoot_id, ways, options)
    else:
        deliver.queue_delivery(studio.library, shoot_id, options)
    studio.runner.wake()
    return RedirectResponse(f"/shoots/{shoot_id}/hand-over", 303)


def _logo(studio: Studio, key: str, file: UploadFile | None) -> tuple[str, str]:
    """(key, name) of the logo that was brought in, or else chosen; both "" for none."""
    if file is not None and file.filename:
        with received(studio, file, MOST_LOGO) as path:
            return logos.take(studio.library, path, file.filename[-120:])
    if key and key not in (there := logos.known(studio.library)):
        raise UserProblem("This logo is not in the library any more. Choose its file again.")
    return (key, there[key]) if key else ("", "")


@router.get("/shoots/{shoot_id}/hand-over/example", response_class=PlainTextResponse)
def example(studio: InStudio, shoot_id: Id, names: str = PLAIN) -> str:
    """What the first file would be called; what is wrong with the pattern, in words."""
    shoot_or_404(studio, shoot_id)
    try:
        return _example(studio, shoot_id, check_pattern(names[:500]))
    except UserProblem as problem:
        return str(problem)


def _example(studio: Studio, shoot_id: int, pattern: str) -> str:
    db = studio.library.db
    first = walls.covers(db, shoot_id, 1)
    shoot = shoot_or_404(studio, shoot_id)
    if not first:
        return ""
    scene = scenes.scene(db, first[0].scene_id)
    return f"such as {stem_of(pattern, first[0], 1, shoot.name, scene.name if scene else '')}"


@router.post("/ways/forget")
def forget(studio: InStudio, name: Annotated[str, Form(max_length=80)]) -> Response:
    """A named way of delivery is not kept any longer."""
    kept_ways.forget(studio.library.db, name)
    return Response(headers={"HX-Refresh": "true"})


@router.post("/shoots/{shoot_id}/lists")
def lists(studio: InStudio, shoot_id: Id, file: Annotated[UploadFile, File()]) -> Response:
    """A client's list, as ratings; or a hand-over's, as what its frames change of themselves."""
    shoot_or_404(studio, shoot_id)
    name = (file.filename or "This file")[-120:]
    with received(studio, file, coming_back.MOST_BYTES) as path:
        told = coming_back.take(studio.library, shoot_id, path, name)
    return RedirectResponse(f"/shoots/{shoot_id}/hand-over?told={quote(told)}", 303)


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

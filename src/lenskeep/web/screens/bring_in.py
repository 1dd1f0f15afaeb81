"""Bringing in: files as they arrive, one request each, and folders of this machine by their path."""

import hashlib
import io
from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, File, Form, Query, Request, UploadFile
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import JSONResponse

from lenskeep.core.problems import UserProblem
from lenskeep.studio import bring_in, card
from lenskeep.studio import find as finding
from lenskeep.studio.bring_in import Received
from lenskeep.studio.space import check_room
from lenskeep.web.studio_of import Id, InStudio, Studio, received, shoot_or_404

router = APIRouter()
PIECE = 4 << 20
"""Bytes that are written at a time."""


@router.post("/shoots")
def create(studio: InStudio, name: Annotated[str, Form()]) -> JSONResponse:
    """A new shoot, for the uploader; its files follow one by one."""
    shoot_id = bring_in.create_shoot(studio.library, name)
    return JSONResponse({"id": shoot_id, "url": f"/shoots/{shoot_id}"}, 201)


@router.post("/shoots/from-folder")
def from_folder(studio: InStudio, folder: Annotated[str, Form()], name: Annotated[str, Form()] = "") -> JSONResponse:
    """A new shoot out of a folder of this machine."""
    shoot_id = card.shoot_of_folder(studio.library, folder, name)
    studio.runner.wake()
    return JSONResponse({"id": shoot_id, "url": f"/shoots/{shoot_id}"}, 201)


@router.post("/shoots/{shoot_id}/file")
async def arrive(
    request: Request, studio: InStudio, shoot_id: Id, name: Annotated[str, Query(max_length=1000)] = ""
) -> JSONResponse:
    """Take one file, a photograph or a ZIP: its bytes are the request's body. It is written once, and its sum is taken
    while it arrives.
    """
    await run_in_threadpool(shoot_or_404, studio, shoot_id)
    length = request.headers.get("content-length", "")
    size = int(length) if length.isdigit() and len(length) < 16 else 0
    await run_in_threadpool(check_room, studio.library.home, size, f"taking {name or 'this file'}")
    scratch = studio.library.scratch()
    folder = await run_in_threadpool(scratch.__enter__)
    try:
        path, digest, got = folder / "upload", hashlib.sha256(), 0
        with path.open("wb", buffering=0) as sink:
            piece = bytearray()
            async for chunk in request.stream():
                piece += chunk
                got += len(chunk)
                if len(piece) >= PIECE:
                    await run_in_threadpool(_keep, sink, digest, bytes(piece))
                    piece.clear()
            await run_in_threadpool(_keep, sink, digest, bytes(piece))
        if size and got != size:
            raise UserProblem(f"{name or 'This file'} did not arrive whole. Bring it in again.")
        taken = await run_in_threadpool(
            bring_in.receive, studio.library, shoot_id, path, _own_name(name), digest.hexdigest(), True
        )
    finally:
        await run_in_threadpool(scratch.__exit__, None, None, None)
    return _told(studio, taken)


def _keep(sink: io.FileIO, digest: "hashlib._Hash", piece: bytes) -> None:
    digest.update(piece)
    view = memoryview(piece)
    while view:
        view = view[sink.write(view) :]


@router.post("/shoots/{shoot_id}/files")
def receive(studio: InStudio, shoot_id: Id, file: Annotated[UploadFile, File()]) -> JSONResponse:
    """The same for a form's file."""
    shoot_or_404(studio, shoot_id)
    with received(studio, file) as path:
        taken = bring_in.receive(studio.library, shoot_id, path, _own_name(file.filename or ""), ours=True)
    return _told(studio, taken)


def _own_name(name: str) -> str:
    return Path(name.replace("\\", "/").replace("\0", "")).name or "unnamed"


def _told(studio: Studio, taken: Received) -> JSONResponse:
    studio.runner.wake()
    return JSONResponse({"added": len(taken.frame_ids), "known": taken.known, "refused": taken.refused})


@router.post("/shoots/{shoot_id}/find")
def find(studio: InStudio, shoot_id: Id) -> JSONResponse:
    """See that everything that came in is found; what arrived is queued by itself."""
    shoot_or_404(studio, shoot_id)
    job = finding.queue_finding(studio.library, shoot_id)
    studio.runner.wake()
    return JSONResponse({"job": job, "url": f"/shoots/{shoot_id}"})

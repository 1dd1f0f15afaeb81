"""Pictures from the library: thumbnails, untouched and finished frames, tiles."""

from pathlib import Path

from fastapi import APIRouter, HTTPException
from fastapi.responses import FileResponse

from lenskeep.web.studio_of import InStudio, frame_or_404

router = APIRouter()
FOREVER = {"cache-control": "private, max-age=31536000, immutable"}


def _file(path: Path) -> FileResponse:
    if not path.is_file():
        raise HTTPException(404, "This picture is not ready yet.")
    return FileResponse(path, headers=FOREVER, media_type="image/jpeg")


@router.get("/frames/{frame_id}/thumb/{sha}.jpg")
def thumb(studio: InStudio, frame_id: int, sha: str) -> FileResponse:
    """The untouched picture, small; while a raw file is being brought to it in another way, as it was before."""
    frame = frame_or_404(studio, frame_id)
    own = studio.library.computed(frame.content).thumb
    return _file(own if own.is_file() else studio.library.computed(frame.sha256).thumb)


@router.get("/frames/{frame_id}/base/{sha}.jpg")
def base(studio: InStudio, frame_id: int, sha: str) -> FileResponse:
    return _file(studio.library.computed(frame_or_404(studio, frame_id).content).base)


@router.get("/frames/{frame_id}/tile/{key}.jpg")
def tile(studio: InStudio, frame_id: int, key: str) -> FileResponse:
    return _file(studio.library.tile(frame_or_404(studio, frame_id).result_key or "none"))


@router.get("/frames/{frame_id}/finished/{key}.jpg")
def finished(studio: InStudio, frame_id: int, key: str) -> FileResponse:
    return _file(studio.library.result(frame_or_404(studio, frame_id).result_key or "none"))

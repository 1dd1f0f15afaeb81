"""Pictures from the library: thumbnails, untouched and finished frames, tiles. Their addresses name what they show."""

import re
from pathlib import Path

from fastapi import APIRouter, HTTPException
from fastapi.responses import Response

from lenskeep.web.studio_of import Id, InStudio, Studio, frame_or_404

router = APIRouter()
FOREVER = {"cache-control": "private, max-age=31536000, immutable"}
_KEY = re.compile("[0-9a-f]{32}")


def _file(path: Path, for_good: bool = True) -> Response:
    """Read at once: a file that is exchanged for another while it leaves would be cut at the length of the first."""
    try:
        data = path.read_bytes()
    except FileNotFoundError as gone:
        raise HTTPException(404, "This picture is not ready yet.") from gone
    headers = FOREVER if for_good else {"cache-control": "no-store"}
    return Response(data, headers=headers, media_type="image/jpeg")


@router.get("/frames/{frame_id}/thumb/{key}.jpg")
def thumb(studio: InStudio, frame_id: Id, key: str) -> Response:
    """The untouched picture, small; while a raw file is being brought to it in another way, as it was before."""
    frame = frame_or_404(studio, frame_id)
    own = studio.library.computed(frame.content).thumb
    if own.is_file():
        return _file(own, key == frame.picture_key)
    return _file(studio.library.computed(frame.sha256).thumb, for_good=False)


@router.get("/frames/{frame_id}/base/{key}.jpg")
def base(studio: InStudio, frame_id: Id, key: str) -> Response:
    """The untouched picture at screen size."""
    frame = frame_or_404(studio, frame_id)
    return _file(studio.library.computed(frame.content).base, key == frame.picture_key)


def _of_frame(studio: Studio, frame_id: int, key: str) -> str:
    """A result's key, as long as the frame is there; files are named by what made them, so they never change."""
    frame_or_404(studio, frame_id)
    if not _KEY.fullmatch(key):
        raise HTTPException(404, "This picture is not ready yet.")
    return key


@router.get("/frames/{frame_id}/tile/{key}.jpg")
def tile(studio: InStudio, frame_id: Id, key: str) -> Response:
    """The finished picture of this key, small."""
    return _file(studio.library.tile(_of_frame(studio, frame_id, key)))


@router.get("/frames/{frame_id}/finished/{key}.jpg")
def finished(studio: InStudio, frame_id: Id, key: str) -> Response:
    """The finished picture of this key, at screen size."""
    return _file(studio.library.result(_of_frame(studio, frame_id, key)))

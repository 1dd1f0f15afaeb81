"""What every screen works with: the library, its runner and its stage."""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Annotated

from fastapi import Depends, HTTPException, Request, UploadFile
from fastapi import Path as InPath
from starlette.datastructures import FormData

from lenskeep.core.problems import UserProblem
from lenskeep.store import frames, scenes, shoots
from lenskeep.store.frames import FrameRow
from lenskeep.store.scenes import Scene
from lenskeep.store.shoots import Shoot
from lenskeep.studio.bench.stage import Stage
from lenskeep.studio.close.view import CloseView
from lenskeep.studio.library import Library
from lenskeep.studio.preparing import Preparation
from lenskeep.studio.space import check_room
from lenskeep.work.runner import Runner

Id = Annotated[int, InPath(ge=1, le=2**63 - 1)]
"""A number of a row; SQLite knows no larger ones."""
_CHUNK = 1 << 20


@dataclass
class Studio:
    library: Library
    runner: Runner
    stage: Stage
    close: CloseView
    preparation: Preparation


def studio_of(request: Request) -> Studio:
    studio: Studio = request.app.state.studio
    return studio


InStudio = Annotated[Studio, Depends(studio_of)]


async def _fields(request: Request) -> dict[str, str]:
    return {name: str(value) for name, value in (await request.form()).items() if isinstance(value, str)}


async def _form(request: Request) -> FormData:
    return await request.form()


InForm = Annotated[FormData, Depends(_form)]
"""A form whose fields may come several times."""
InFields = Annotated[dict[str, str], Depends(_fields)]
"""The fields of a form, whatever they are called."""


def shoot_or_404(studio: Studio, shoot_id: int) -> Shoot:
    shoot = shoots.shoot(studio.library.db, shoot_id)
    if shoot is None:
        raise HTTPException(404, "This shoot is not in the library.")
    return shoot


def scene_or_404(studio: Studio, scene_id: int) -> Scene:
    scene = scenes.scene(studio.library.db, scene_id)
    if scene is None:
        raise HTTPException(404, "This scene is not in the library.")
    return scene


def frame_or_404(studio: Studio, frame_id: int) -> FrameRow:
    frame = frames.frame(studio.library.db, frame_id)
    if frame is None:
        raise HTTPException(404, "This frame is not in the library.")
    return frame


@contextmanager
def received(studio: Studio, file: UploadFile, most: int | None = None) -> Iterator[Path]:
    """An uploaded file as one on the library's disk. Raises UserProblem when it is larger than ``most`` bytes."""
    if most is not None and (file.size or 0) > most:
        raise UserProblem(
            f"{file.filename or 'This file'} is too large: at most {most // 1_000_000} MB are taken here."
        )
    check_room(studio.library.home, file.size or 0, f"taking {file.filename or 'this file'}")
    with studio.library.scratch() as folder:
        path = folder / "upload"
        with path.open("wb") as sink:
            while chunk := file.file.read(_CHUNK):
                sink.write(chunk)
        yield path

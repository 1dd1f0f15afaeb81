"""What every screen works with: the library, its runner and its stage."""

from dataclasses import dataclass
from typing import Annotated

from fastapi import Depends, HTTPException, Request

from lenskeep.core.detect.find import DETECTOR
from lenskeep.store import frames, shoots
from lenskeep.store.frames import FrameRow
from lenskeep.store.shoots import Shoot
from lenskeep.studio.library import Library
from lenskeep.studio.stage import Stage
from lenskeep.work.runner import Runner


@dataclass
class Studio:
    library: Library
    runner: Runner
    stage: Stage


def studio_of(request: Request) -> Studio:
    studio: Studio = request.app.state.studio
    return studio


InStudio = Annotated[Studio, Depends(studio_of)]


def shoot_or_404(studio: Studio, shoot_id: int) -> Shoot:
    shoot = shoots.shoot(studio.library.db, shoot_id)
    if shoot is None:
        raise HTTPException(404, "This shoot is not in the library.")
    return shoot


def frame_or_404(studio: Studio, frame_id: int) -> FrameRow:
    frame = frames.frame(studio.library.db, frame_id, DETECTOR)
    if frame is None:
        raise HTTPException(404, "This frame is not in the library.")
    return frame

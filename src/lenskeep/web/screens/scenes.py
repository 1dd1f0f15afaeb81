"""What is done to a shoot's scenes by hand: named, joined, cut, found again, given the look of another."""

from typing import Annotated

from fastapi import APIRouter, Form
from fastapi.responses import RedirectResponse, Response

from lenskeep.core.percent import from_percent
from lenskeep.store import scenes
from lenskeep.studio import looks, placing
from lenskeep.web.studio_of import Id, InStudio, Studio, frame_or_404, scene_or_404, shoot_or_404

router = APIRouter()


def _back(studio: Studio, shoot_id: int, scene_id: int | None = None) -> Response:
    studio.runner.wake()
    return RedirectResponse(f"/shoots/{shoot_id}" + (f"#scene-{scene_id}" if scene_id else ""), 303)


@router.post("/scenes/{scene_id}/rename")
def rename(studio: InStudio, scene_id: Id, name: Annotated[str, Form()]) -> Response:
    scene = scene_or_404(studio, scene_id)
    placing.rename(studio.library, scene_id, name)
    return _back(studio, scene.shoot_id, scene_id)


@router.post("/scenes/{scene_id}/join")
def join(studio: InStudio, scene_id: Id) -> Response:
    """Join a scene to the one before it."""
    scene = scene_or_404(studio, scene_id)
    placing.join(studio.library, scene_id)
    return _back(studio, scene.shoot_id)


@router.post("/scenes/{scene_id}/look-of/{other_id}")
def same_look(studio: InStudio, scene_id: Id, other_id: Id) -> Response:
    """Give a scene the look of another, and its frames their pictures."""
    scene, other = scene_or_404(studio, scene_id), scene_or_404(studio, other_id)
    looks.give_same(studio.library, scene, other)
    return _back(studio, scene.shoot_id, scene_id)


@router.post("/scenes/{scene_id}/look")
def give_look(
    studio: InStudio, scene_id: Id, version_id: Annotated[int, Form()], strength: Annotated[float, Form()] = 100.0
) -> Response:
    """Give one scene a recipe at a strength in per cent."""
    scene = scene_or_404(studio, scene_id)
    looks.give_look(studio.library, scene.shoot_id, version_id, from_percent(strength), scene_ids=[scene_id])
    return _back(studio, scene.shoot_id, scene_id)


@router.post("/frames/{frame_id}/begin-scene")
def cut(studio: InStudio, frame_id: Id) -> Response:
    """Begin a scene with a frame."""
    frame = frame_or_404(studio, frame_id)
    placing.cut(studio.library, frame_id)
    return _back(studio, frame.shoot_id, frame_or_404(studio, frame_id).scene_id)


@router.post("/shoots/{shoot_id}/scenes-again")
def find_again(studio: InStudio, shoot_id: Id) -> Response:
    """Find the scenes anew; what was done by hand stays."""
    shoot_or_404(studio, shoot_id)
    placing.place(studio.library, shoot_id, again=True)
    return _back(studio, shoot_id)


@router.get("/shoots/{shoot_id}/bench")
def first_bench(studio: InStudio, shoot_id: Id) -> Response:
    """The Bench of a shoot's first scene."""
    shoot_or_404(studio, shoot_id)
    own = scenes.shown(studio.library.db, shoot_id)
    return RedirectResponse(f"/scenes/{own[0].id}/bench", 303)

"""The history of a Bench: a list in words, going to any state, names, and a new beginning."""

from dataclasses import dataclass

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse
from pydantic import BaseModel, Field

from lenskeep.store.scenes import Scene
from lenskeep.studio.bench import history as going
from lenskeep.web.present import page
from lenskeep.web.screens.bench.page import lanes_of
from lenskeep.web.studio_of import Id, InStudio, scene_or_404

router = APIRouter()


@dataclass(frozen=True)
class Shown:
    scene: Scene
    history: going.History


class Going(BaseModel):
    """A state by its number, or a named one by its id; and the state that is on the screen."""

    of: int = Field(ge=0, le=2**63 - 1)
    on: int | None = None


class Anew(BaseModel):
    on: int | None = None


class Name(BaseModel):
    words: str = Field(max_length=200)


@router.get("/scenes/{scene_id}/bench/history", response_class=HTMLResponse)
def show(request: Request, studio: InStudio, scene_id: Id) -> HTMLResponse:
    """Everything that was done, the newest first, and the named states."""
    scene = scene_or_404(studio, scene_id)
    return page(request, "bench/history.html", Shown(scene, going.history_of(studio.library, scene_id)))


@router.post("/scenes/{scene_id}/bench/history/go", response_class=HTMLResponse)
def go(request: Request, studio: InStudio, scene_id: Id, asked: Going) -> HTMLResponse:
    """Make a state the present one; answers with the lanes."""
    going.go(studio.library, scene_id, asked.of, asked.on)
    return page(request, "bench/lanes.html", lanes_of(studio, scene_id))


@router.post("/scenes/{scene_id}/bench/history/come-back", response_class=HTMLResponse)
def come_back(request: Request, studio: InStudio, scene_id: Id, asked: Going) -> HTMLResponse:
    """Put a named state on the Bench; answers with the lanes."""
    going.come_back(studio.library, scene_id, asked.of, asked.on)
    return page(request, "bench/lanes.html", lanes_of(studio, scene_id))


@router.post("/scenes/{scene_id}/bench/history/anew", response_class=HTMLResponse)
def anew(request: Request, studio: InStudio, scene_id: Id, asked: Anew) -> HTMLResponse:
    """Start from nothing; answers with the lanes."""
    going.begin_anew(studio.library, scene_id, asked.on)
    return page(request, "bench/lanes.html", lanes_of(studio, scene_id))


@router.post("/scenes/{scene_id}/bench/history/name", response_class=HTMLResponse)
def name(request: Request, studio: InStudio, scene_id: Id, asked: Name) -> HTMLResponse:
    """Give the present state a name; answers with the list."""
    going.name(studio.library, scene_id, asked.words)
    return show(request, studio, scene_id)


@router.post("/scenes/{scene_id}/bench/history/forget", response_class=HTMLResponse)
def forget(request: Request, studio: InStudio, scene_id: Id, asked: Going) -> HTMLResponse:
    """Forget a named state; answers with the list."""
    going.forget(studio.library, scene_id, asked.of)
    return show(request, studio, scene_id)

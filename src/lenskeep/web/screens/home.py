"""Shoots: every shoot with its covers and where it stands; bringing in new ones."""

from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Form, Request
from fastapi.responses import HTMLResponse, JSONResponse, RedirectResponse, Response

from lenskeep.files.reading.photo import FORMATS
from lenskeep.files.reading.raw import SUFFIXES
from lenskeep.store import jobs, shoots, walls
from lenskeep.store.frames import FrameSummary
from lenskeep.store.jobs import Job
from lenskeep.store.looks import Look
from lenskeep.store.shoots import Shoot
from lenskeep.store.walls import Counts
from lenskeep.studio import bring_in, removing
from lenskeep.studio.card import folders_words
from lenskeep.studio.looks import look_of_shoot
from lenskeep.studio.standing import NOTHING, Standing, standing_of
from lenskeep.web.present import page
from lenskeep.web.studio_of import Id, InStudio, Studio, shoot_or_404

router = APIRouter()
COVERS = 7
ACCEPTED = [".jpg", ".jpeg", *FORMATS.values(), ".tiff", ".heif", ".hif", ".zip", *sorted(SUFFIXES)]


@dataclass(frozen=True)
class Card:
    """One shoot in the list. ``first`` is when its first frame was taken, ``busy`` what is under way for it."""

    shoot: Shoot
    covers: list[FrameSummary]
    standing: Standing
    look: Look | None
    first: str | None
    busy: Job | None
    delivered: bool


@dataclass(frozen=True)
class Cards:
    cards: list[Card]
    busy: bool
    preparing: str


@dataclass(frozen=True)
class Home(Cards):
    """The whole page; ``accepted`` are the endings that the file dialog offers, ``folders`` says what may be read."""

    accepted: str
    folders: str


def _card(studio: Studio, shoot: Shoot, counts: Counts) -> Card:
    db = studio.library.db
    look = look_of_shoot(studio.library, shoot.id)
    return Card(
        shoot=shoot,
        covers=walls.covers(db, shoot.id, COVERS),
        standing=standing_of(counts, look),
        look=look,
        first=counts.first,
        busy=jobs.active_job(db, shoot.id),
        delivered=jobs.has_done(db, shoot.id, "export"),
    )


def _cards(studio: Studio) -> Cards:
    counts = walls.all_counts(studio.library.db)
    cards = [_card(studio, s, counts.get(s.id, NOTHING)) for s in shoots.shoots(studio.library.db)]
    return Cards(cards, any(card.busy for card in cards), studio.preparation.words)


@router.get("/", response_class=HTMLResponse)
def home(request: Request, studio: InStudio) -> HTMLResponse:
    return page(
        request, "home/home.html", Home(**vars(_cards(studio)), accepted=",".join(ACCEPTED), folders=folders_words())
    )


@router.get("/cards", response_class=HTMLResponse)
def cards(request: Request, studio: InStudio) -> HTMLResponse:
    """The list of shoots alone, for the page to renew while something is under way."""
    return page(request, "home/cards.html", _cards(studio))


@router.get("/shoots.json")
def shoots_json(studio: InStudio) -> JSONResponse:
    data = [
        {
            "id": card.shoot.id, "name": card.shoot.name, "frames": card.standing.frames, "found": card.standing.found,
            "failed": card.standing.failed, "doubtful": card.standing.doubtful,
            "finished": card.standing.finished, "delivered": card.delivered,
        }
        for card in _cards(studio).cards
    ]  # fmt: skip
    return JSONResponse(data)


@router.post("/shoots/{shoot_id}/rename")
def rename(studio: InStudio, shoot_id: Id, name: Annotated[str, Form()]) -> Response:
    shoot_or_404(studio, shoot_id)
    shoots.rename_shoot(studio.library.db, shoot_id, bring_in.checked_shoot_name(name))
    return RedirectResponse(f"/shoots/{shoot_id}", 303)


@router.post("/shoots/{shoot_id}/remove")
def remove(studio: InStudio, shoot_id: Id) -> Response:
    """Remove a shoot with all that only it needs."""
    shoot_or_404(studio, shoot_id)
    removing.remove_shoot(studio.library, shoot_id)
    studio.runner.wake()
    return RedirectResponse("/", 303)

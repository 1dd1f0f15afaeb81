"""A frame's repairs offered to its burst: the other frames side by side as they are and as they would be."""

from dataclasses import dataclass
from typing import Literal

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from lenskeep.core.repairs.models import MaskName
from lenskeep.store.frames import FrameRow
from lenskeep.studio import applying, carrying
from lenskeep.studio.carrying import Offer
from lenskeep.web.present import page
from lenskeep.web.studio_of import Id, InStudio, frame_or_404

router = APIRouter(prefix="/frames/{frame_id}/carry")


@dataclass(frozen=True)
class Offered:
    """What the dialog shows: the frame, the masks that it repairs, and what each of its burst is offered."""

    frame: FrameRow
    masks: tuple[str, ...]
    offers: list[Offer]


@dataclass(frozen=True)
class OneOffer:
    """One row of it."""

    frame: FrameRow
    masks: tuple[str, ...]
    offer: Offer


@router.get("", response_class=HTMLResponse)
def show(request: Request, studio: InStudio, frame_id: Id) -> HTMLResponse:
    frame = frame_or_404(studio, frame_id)
    offers = carrying.offers(studio.library, frame_id)
    return page(request, "frame/carry.html", Offered(frame, frame.override.repairs.masks, offers))


@router.get("/{other_id}/{mask}/{which}.jpg")
def picture(studio: InStudio, frame_id: Id, other_id: Id, mask: MaskName, which: Literal["now", "then"]) -> Response:
    """One frame of the burst under the tint of one mask, as it is or as it would be."""
    frame_or_404(studio, frame_id)
    frame_or_404(studio, other_id)
    data = carrying.picture(studio.library, frame_id, other_id, mask, which == "then")
    return Response(data, media_type="image/jpeg", headers={"cache-control": "no-store"})


@router.post("/{other_id}", response_class=HTMLResponse)
def take_over(request: Request, studio: InStudio, frame_id: Id, other_id: Id) -> HTMLResponse:
    """Take the repairs over on one frame of the burst."""
    frame = frame_or_404(studio, frame_id)
    frame_or_404(studio, other_id)
    other = carrying.take_over(studio.library, frame_id, other_id)
    applying.queue_now(studio.library, other_id)
    studio.runner.wake()
    offer = Offer(other, 0.0, taken=True, others=False)
    return page(request, "frame/offer.html", OneOffer(frame, frame.override.repairs.masks, offer))

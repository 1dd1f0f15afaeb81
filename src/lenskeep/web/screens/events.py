"""What changes on a wall while it is open, sent as it happens (server-sent events, HTML Living Standard, 9.2)."""

import asyncio
import json
from collections.abc import AsyncIterator
from dataclasses import dataclass

from fastapi import APIRouter, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import StreamingResponse

from lenskeep.store import jobs, shoots, walls
from lenskeep.store.frames import FrameSummary
from lenskeep.store.walls import Mark
from lenskeep.web.present import fragment
from lenskeep.web.screens.wall import SceneHead, filters, header, heads, layout_of, marked
from lenskeep.web.studio_of import Id, InStudio, Studio, shoot_or_404

router = APIRouter()
EVERY_SECONDS = 0.5
ALIVE_SECONDS = 15.0
MOST_TILES = 200


@dataclass(frozen=True)
class OneTile:
    f: FrameSummary
    show: Mark = "all"


@dataclass(frozen=True)
class OneHead:
    head: SceneHead


@dataclass(frozen=True)
class _Seen:
    """What was sent last: the newest change of a frame, what the header was made from, and which scenes are drawn."""

    touched: int
    state: tuple[object, ...]
    layout: str = ""


def _step(
    studio: Studio, request: Request, shoot_id: int, seen: _Seen, show: Mark = "all"
) -> tuple[_Seen, list[str]] | None:
    """The events since, as text; None when the shoot is gone."""
    db = studio.library.db
    shoot = shoots.shoot(db, shoot_id)
    if shoot is None:
        return None
    changed = walls.touched_since(db, shoot_id, seen.touched, MOST_TILES)
    touched = changed[-1].touched if changed else seen.touched
    job = jobs.active_job(db, shoot_id)
    drawn = layout_of(studio, shoot_id)
    holds_up = (studio.runner.trouble, studio.preparation.words)
    state = (job and (job.id, job.state, job.done, job.failed), holds_up, touched, shoot.name)
    events = []
    if changed:
        tiles = [{"id": f.id, "html": fragment(request, "wall/tile.html", OneTile(f, show))} for f in changed]
        events.append(_event("tiles", json.dumps({"touched": touched, "tiles": tiles})))
    if state != seen.state:
        html = fragment(request, "wall/standing.html", header(studio, shoot))
        over = {
            one.scene.id: fragment(request, "wall/scene_head.html", OneHead(one)) for one in heads(studio, shoot_id)
        }
        by_mark = fragment(request, "wall/filters.html", filters(studio, shoot, show, walls.counts(db, shoot_id)))
        events.append(_event("standing", json.dumps({"html": html, "heads": over, "filters": by_mark})))
    if seen.layout and drawn != seen.layout:
        events.append(_event("layout", json.dumps({})))
    return _Seen(touched, state, drawn), events


def _event(kind: str, data: str) -> str:
    return f"event: {kind}\ndata: {data}\n\n"


@router.get("/shoots/{shoot_id}/events")
async def events(
    request: Request, studio: InStudio, shoot_id: Id, since: int = 0, show: str = "all", layout: str = ""
) -> StreamingResponse:
    """Tiles that changed after ``since``, as a wall of one mark shows them, and the header and counts whenever they
    changed.
    """
    await run_in_threadpool(shoot_or_404, studio, shoot_id)
    return StreamingResponse(
        _changes(studio, request, shoot_id, _Seen(min(max(since, 0), 2**63 - 1), (), layout), marked(show)),
        media_type="text/event-stream",
    )


async def _changes(
    studio: Studio, request: Request, shoot_id: int, seen: _Seen, show: Mark = "all"
) -> AsyncIterator[str]:
    quiet = 0.0
    yield "retry: 2000\n\n"
    while not studio.runner.stopping and not await request.is_disconnected():
        done = await run_in_threadpool(_step, studio, request, shoot_id, seen, show)
        if done is None:
            return
        seen, found = done
        for event in found:
            yield event
        quiet = 0.0 if found else quiet + EVERY_SECONDS
        if quiet >= ALIVE_SECONDS:
            quiet = 0.0
            yield ": still here\n\n"
        await asyncio.sleep(EVERY_SECONDS)

"""What changes on a wall is sent as it happens: tiles that changed, the header, and nothing twice."""

import asyncio
import json
import re

import pytest
from starlette.requests import Request

from lenskeep.store import claims, frames, jobs, shoots, walls
from lenskeep.studio import looks, many
from lenskeep.web.screens import events
from lenskeep.web.screens.wall import PAGE
from tools.made_up import ready_shoot


@pytest.fixture
def listen(visitor):
    """The events that a page would have got, a step at a time."""
    studio = visitor.app.state.studio
    request = Request({"type": "http", "method": "GET", "path": "/", "headers": [], "query_string": b"", "state": {}})

    def listener(shoot, since):
        seen = events._Seen(since, ())

        def step():
            nonlocal seen
            done = events._step(studio, request, shoot, seen)
            if done is None:
                return None
            seen, found = done
            return [(e.split("\n")[0][7:], json.loads(e.split("\n")[1][6:])) for e in found]

        return step

    return listener


def test_the_header_comes_first_and_then_only_what_changes(visitor, shoot, listen):
    step = listen(shoot, walls.counts(visitor.library.db, shoot).touched)
    [(kind, header)] = step()
    assert kind == "standing" and 'id="standing"' in header["html"]
    assert step() == []
    first, second, *_ = frames.summaries(visitor.library.db, shoot)
    frames.set_accepted(visitor.library.db, second.id, not second.accepted)
    (kind, news), (other, _) = step()
    assert (kind, other) == ("tiles", "standing")
    assert [t["id"] for t in news["tiles"]] == [second.id] and f'id="tile-{second.id}"' in news["tiles"][0]["html"]
    assert step() == []
    looks.change_frame(visitor.library, first.id, strength=0.5)
    assert "changed by hand" in step()[0][1]["tiles"][0]["html"]


def test_how_many_frames_have_a_mark_is_told_with_the_header(visitor, shoot, listen):
    step = listen(shoot, walls.counts(visitor.library.db, shoot).touched)
    before = step()[0][1]["filters"]
    assert "Rejected" not in before and 'id="filters"' in before
    first, *rest = frames.summaries(visitor.library.db, shoot)
    many.do(visitor.library, shoot, [first.id], many.Reject(what="reject"))
    after = dict(step())["standing"]["filters"]
    assert re.search(rf"All\s*<span[^>]*>{1 + len(rest)}<", after) and re.search(r"Rejected\s*<span[^>]*>1<", after)


def test_progress_of_a_job_is_told_and_many_changes_come_in_parts(visitor, listen, tmp_path, monkeypatch):
    monkeypatch.setattr(events, "MOST_TILES", 4)
    shoot = ready_shoot(visitor.library, tmp_path / "many", 9)
    step = listen(shoot, 0)
    sizes = []
    for found in iter(step, []):
        sizes += [len(news["tiles"]) for kind, news in found if kind == "tiles"]
    assert sizes == [4, 4, 1]
    job = jobs.add_job(visitor.library.db, "find", shoot, [f.id for f in frames.summaries(visitor.library.db, shoot)])
    [(_, header)] = step()
    assert 'id="job"' in header["html"] and ">9</span>" in header["html"]
    jobs.cancel(visitor.library.db, job)
    assert 'id="job"' not in step()[0][1]["html"]


def test_a_shoot_that_is_removed_ends_its_events(visitor, shoot, listen):
    step = listen(shoot, 0)
    assert step()
    shoots.remove_shoot(visitor.library.db, shoot)
    assert step() is None
    assert visitor.get(f"/shoots/{shoot}/events").status_code == 404


def test_the_stream_says_that_it_lives_and_ends_with_the_server(visitor, shoot):
    studio = visitor.app.state.studio
    request = Request({"type": "http", "method": "GET", "path": "/", "headers": [], "query_string": b"", "state": {}})

    async def never():
        return False

    request.is_disconnected = never

    async def read():
        out = []
        async for part in events._changes(studio, request, shoot, events._Seen(0, ())):
            out.append(part)
            if len(out) == 3:
                studio.runner.begin_stop()
        return out

    parts = asyncio.run(asyncio.wait_for(read(), 10))
    assert parts[0].startswith("retry:") and any(p.startswith("event: tiles") for p in parts)


def test_the_wall_comes_a_page_at_a_time_and_says_where_the_others_begin(visitor, tmp_path):
    shoot = ready_shoot(visitor.library, tmp_path / "many", PAGE + 7)
    page = visitor.get(f"/shoots/{shoot}").text
    assert page.count('class="tile"') == PAGE and page.count("data-place=") == 1 and 'data-count="7"' in page
    [place] = walls.pages(visitor.library.db, shoot, "all", PAGE)[1:]
    rest = visitor.get(f"/shoots/{shoot}/tiles", params={"place": place.place, "frame": place.id}).text
    assert rest.count('class="tile"') == 7 and f'id="tile-{place.id}"' in rest
    assert visitor.get(f"/shoots/{shoot}/tiles?show=nonsense&frame=-5").status_code == 200


def test_what_is_on_screen_is_brought_forward_for_its_own_shoot(visitor, shoot, tmp_path):
    db = visitor.library.db
    other = ready_shoot(visitor.library, tmp_path / "other", 2)
    ids = {s: [f.id for f in frames.summaries(db, s)] for s in (shoot, other)}
    job = jobs.add_job(db, "find", shoot, ids[shoot])
    elsewhere = jobs.add_job(db, "find", other, ids[other])
    seen = [ids[shoot][-1], *ids[other]]
    assert visitor.post(f"/shoots/{shoot}/on-screen", json={"frames": seen}).status_code == 204
    lanes = {row["frame_id"]: row["lane"] for row in db.reader.execute("SELECT frame_id, lane FROM job_items")}
    assert [lanes[i] for i in seen] == [jobs.NEXT, jobs.BATCH, jobs.BATCH]
    jobs.start_queued(db)
    assert (
        claims.claim(db, job)[0].frame_id == ids[shoot][-1] and claims.claim(db, elsewhere)[0].frame_id == ids[other][0]
    )
    assert visitor.post(f"/shoots/{shoot}/on-screen", json={"frames": ["x"]}).status_code == 422

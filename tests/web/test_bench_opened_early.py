"""A Bench that was opened while masks were still being found, and frames came to its scene or went to others."""

import re

import pytest

from lenskeep.store import frames, jobs
from lenskeep.studio import find, placing

ASKS = 'hx-get="'
TOLD = "Masks were found on more frames meanwhile"


@pytest.fixture
def opened(visitor, shoot):
    """What a Bench that is open shows, and how it asks whether that is still so."""
    ids = [frame.id for frame in frames.frames(visitor.library.db, shoot)]
    find.queue_new(visitor.library, shoot, ids)
    whole = visitor.get(f"/scenes/{shoot}/bench").text
    return re.search(r'hx-get="(/scenes/\d+/bench/newer\?shown=[\d,]*)"', whole)[1]


def test_it_asks_on_until_the_masks_are_found(visitor, shoot, opened):
    going_on = visitor.get(opened).text
    assert ASKS in going_on and TOLD not in going_on
    [job] = jobs.active_jobs(visitor.library.db, shoot, "find")
    jobs.cancel(visitor.library.db, job.id)
    over = visitor.get(opened).text
    assert ASKS not in over and TOLD not in over
    assert ASKS + f"/scenes/{shoot}/bench/newer" not in visitor.get(f"/scenes/{shoot}/bench").text


def test_it_says_when_scenes_took_frames_of_it(visitor, shoot, opened):
    placing.cut(visitor.library, frames.frames(visitor.library.db, shoot)[2].id)
    told = visitor.get(opened).text
    assert TOLD in told and f'href="/scenes/{shoot}/bench"' in told
    anew = visitor.get(f"/scenes/{shoot}/bench").text
    assert anew.count('class="witness"') == 1 and TOLD not in anew


def test_an_empty_one_is_drawn_as_soon_as_there_is_a_frame(visitor):
    shoot = visitor.post("/shoots", data={"name": "Harbour"}).json()["url"]
    empty = visitor.get(visitor.get(f"{shoot}/bench").headers["location"]).text
    ask = re.search(r'hx-get="(/scenes/(\d+)/bench/newer\?shown=)"', empty)
    assert "HX-Refresh" not in visitor.get(ask[1]).headers and ASKS in visitor.get(ask[1]).text


def test_an_empty_one_with_a_frame_is_refreshed_whole(visitor, shoot):
    assert visitor.get(f"/scenes/{shoot}/bench/newer?shown=").headers["HX-Refresh"] == "true"


def test_of_a_scene_that_is_gone(visitor):
    assert visitor.get("/scenes/99999/bench/newer").status_code == 404

"""Renaming, removing, finding again and trying again are on the pages, with what goes; times are the machine's own."""

import re
import time

import pytest

from lenskeep.store import frames, jobs, recipes, scenes, shoots
from lenskeep.studio import looks
from lenskeep.studio.bench import draft as bench
from lenskeep.web.present import moment
from tests.asked import plain_setting
from tools.made_up import look_recipe


def rows(visitor, shoot):
    return frames.frames(visitor.library.db, shoot)


def test_the_wall_offers_renaming_finding_again_and_removing_with_what_goes(visitor, shoot):
    wall = visitor.get(f"/shoots/{shoot}").text
    for address in ("rename", "find-again", "remove"):
        assert f'action="/shoots/{shoot}/{address}"' in wall
    goes = visitor.get(f"/shoots/{shoot}/goes").text
    assert "4 frames with their masks" in goes and "so do your own files" in goes and "/goes" in wall
    assert visitor.post(f"/shoots/{shoot}/rename", data={"name": "  Lena\u0000 and  Tom "}).status_code == 303
    assert '<h1 class="text-2xl">Lena and Tom</h1>' in visitor.get(f"/shoots/{shoot}").text
    assert visitor.post(f"/shoots/{shoot}/find-again").status_code == 303
    [job] = jobs.jobs(visitor.library.db, shoot)
    assert (job.kind, job.total) == ("find", 4)
    assert visitor.post(f"/shoots/{shoot}/remove").status_code == 303
    assert shoots.shoots(visitor.library.db) == []
    visitor.work()
    assert not [p for p in (visitor.library.home / "originals").rglob("*") if p.is_file()]
    assert "Tidying up" in visitor.get("/activity").text


def test_what_failed_is_said_on_the_wall_and_can_be_tried_again(visitor, shoot):
    version = recipes.save_recipe(visitor.library.db, look_recipe())
    second = rows(visitor, shoot)[1]
    base = visitor.library.computed(second.content).working
    good = base.read_bytes()
    base.write_bytes(b"spoilt")
    looks.give_look(visitor.library, shoot, version.id, 1.0)
    visitor.work()
    wall = visitor.get(f"/shoots/{shoot}").text
    assert "1 frame could not be done" in wall and f'action="/shoots/{shoot}/try-again"' in wall
    assert "could not be finished" in visitor.get(f"/frames/{second.id}").text
    base.write_bytes(good)
    assert visitor.post(f"/shoots/{shoot}/try-again").status_code == 303
    visitor.work()
    assert "could not be done" not in visitor.get(f"/shoots/{shoot}").text
    assert rows(visitor, shoot)[1].result_key


def test_a_late_change_on_a_frame_is_refused_and_the_other_stays(visitor, shoot):
    version = recipes.save_recipe(visitor.library.db, look_recipe())
    looks.give_look(visitor.library, shoot, version.id, 1.0)
    visitor.work()
    frame = rows(visitor, shoot)[0].id
    seen = re.search(r'name="seen" value="([^"]*)"', visitor.get(f"/frames/{frame}").text)[1].replace("&#34;", '"')
    first = visitor.post(f"/frames/{frame}/steps/sky", data={"state": "on", "strength": "40", "seen": seen})
    late = visitor.post(f"/frames/{frame}/steps/sky", data={"state": "off", "strength": "100", "seen": seen})
    assert (first.status_code, late.status_code) == (200, 409) and "changed on this frame meanwhile" in late.text
    assert rows(visitor, shoot)[0].override.steps["sky"].strength == 0.4
    other = visitor.post(f"/frames/{frame}/steps/subject", data={"state": "off", "seen": seen})
    assert other.status_code == 200 and set(rows(visitor, shoot)[0].override.steps) == {"sky", "subject"}
    assert visitor.post(f"/frames/{frame}/steps/sky", data={"seen": "{"}).status_code == 422


def test_two_windows_of_one_bench(visitor, shoot):
    bench.load(visitor.library, shoot, look_recipe())
    lanes = visitor.get(f"/scenes/{shoot}/bench/lanes").text
    seen = int(re.search(r'data-state="(\d+)"', lanes)[1])
    assert visitor.get(f"/scenes/{shoot}/bench/state").json() == {"state": seen}

    def set_value(path, value, on):
        return visitor.post(f"/scenes/{shoot}/bench/set", json={"values": plain_setting({path: value}), "on": on})

    first = set_value("steps/sky/strength", 0.5, seen).json()
    second = set_value("steps/subject/strength", 0.25, seen).json()
    assert (first["late"], second["late"]) == (False, True) and second["state"] > first["state"] > seen
    assert {s.id: s.strength for s in bench.draft(visitor.library, shoot).recipe.steps} == {
        "subject": 0.25, "background": 1.0, "sky": 0.5,
    }  # fmt: skip
    for op in ("undo", "redo"):
        refused = visitor.post(f"/scenes/{shoot}/bench/edit", data={"op": op, "on": seen})
        assert refused.status_code == 409 and "another window" in refused.text
    gone = {"op": "remove-step", "step": "sky", "on": second["state"]}
    assert visitor.post(f"/scenes/{shoot}/bench/edit", data=gone).status_code == 200
    assert set_value("steps/sky/strength", 0.1, second["state"]).status_code == 409
    save = {"name": "Evening", "steps": "subject", "on": second["state"]}
    assert visitor.post(f"/scenes/{shoot}/bench/save", data=save).status_code == 409


def test_the_key_frame_is_chosen_by_a_change_and_of_the_own_shoot_only(visitor, shoot, tmp_path):
    second = rows(visitor, shoot)[1].id
    assert visitor.post(f"/scenes/{shoot}/bench/key", data={"frame": second}).status_code == 303
    assert scenes.first_scene(visitor.library.db, shoot).key_frame_id == second
    assert visitor.get(f"/scenes/{shoot}/bench?key={rows(visitor, shoot)[2].id}").status_code == 200
    assert scenes.first_scene(visitor.library.db, shoot).key_frame_id == second
    assert visitor.post(f"/scenes/{shoot}/bench/key", data={"frame": 999}).status_code == 404


@pytest.mark.parametrize(("zone", "shown"), [("Europe/Vienna", "20:41"), ("America/Lima", "13:41"), ("UTC", "18:41")])
def test_times_are_shown_in_the_machines_own_zone_and_a_cameras_as_it_is(monkeypatch, zone, shown):
    monkeypatch.setenv("TZ", zone)
    time.tzset()
    try:
        assert moment("2026-09-12T18:41:07.123+00:00") == f"12 Sep 2026, {shown}"
        assert moment("2026-09-12T18:41:07") == "12 Sep 2026, 18:41"
    finally:
        monkeypatch.undo()
        time.tzset()
    assert moment(None) == "time unknown" and moment("nonsense") == "nonsense"

"""Scenes, selections, evening and the check over HTTP: their states, what they refuse, and what they answer."""

import json

import pytest

from lenskeep.store import evenness, frames, jobs, looks, recipes, scenes
from lenskeep.store.evenness import Need
from lenskeep.studio import evening, placing
from lenskeep.studio import looks as giving
from tools.made_up import look_recipe, ready_shoot


@pytest.fixture
def placed(library, shoot):
    placing.place(library, shoot)
    return shoot


def rows(visitor, shoot):
    return frames.summaries(visitor.library.db, shoot)


def scene(visitor, shoot):
    return scenes.shown(visitor.library.db, shoot)[0].id


def look(visitor, shoot, name="Evening", ev=0.5):
    version = recipes.save_recipe(visitor.library.db, look_recipe(name, ev))
    giving.give_look(visitor.library, shoot, version.id, 1.0)
    visitor.work()
    return version


def test_the_wall_shows_scene_by_scene_with_their_looks(visitor, placed):
    look(visitor, placed)
    placing.cut(visitor.library, rows(visitor, placed)[2].id)
    visitor.work()
    first, second = scenes.shown(visitor.library.db, placed)
    version = recipes.save_recipe(visitor.library.db, look_recipe("Other"))
    giving.give_look(visitor.library, placed, version.id, 0.5, scene_ids=[second.id])
    page = visitor.get(f"/shoots/{placed}").text
    assert page.count('class="scene-head"') == 2 and "2 looks, scene by scene" in page
    assert page.index(f'id="scene-{first.id}"') < page.index("IMG_000") < page.index(f'id="scene-{second.id}"')
    assert page.index(f'id="scene-{second.id}"') < page.index("IMG_002")
    assert "Join to" in page and "The same look as" in page


def test_an_empty_shoot_and_an_empty_filter_say_so(visitor, library):
    from lenskeep.studio import bring_in

    empty = bring_in.create_shoot(library, "Empty")
    assert "no frames yet" in visitor.get(f"/shoots/{empty}").text
    assert "No frames here" in visitor.get(f"/shoots/{empty}?show=rejected").text
    assert "Nothing needs an eye" not in visitor.get(f"/shoots/{empty}/check").text
    assert visitor.get(f"/shoots/{empty}/check.json").json() == {"frames": []}


def test_scenes_are_named_joined_and_given_the_same_look(visitor, placed):
    look(visitor, placed)
    visitor.post(f"/frames/{rows(visitor, placed)[2].id}/begin-scene")
    first, second = scenes.shown(visitor.library.db, placed)
    assert visitor.post(f"/scenes/{second.id}/rename", data={"name": "The boat"}).status_code == 303
    assert visitor.post(f"/scenes/{second.id}/rename", data={"name": " "}).status_code == 422
    other = recipes.save_recipe(visitor.library.db, look_recipe("Other"))
    visitor.post(f"/scenes/{second.id}/look", data={"version_id": other.id, "strength": 40})
    assert looks.look(visitor.library.db, second.id).strength == 0.4
    visitor.post(f"/scenes/{second.id}/look-of/{first.id}")
    assert looks.look(visitor.library.db, second.id).version.name == "Evening"
    assert visitor.post(f"/scenes/{first.id}/join").status_code == 422
    visitor.post(f"/scenes/{second.id}/join")
    assert len(scenes.shown(visitor.library.db, placed)) == 1
    assert visitor.post(f"/shoots/{placed}/scenes-again").status_code == 303
    for gone in ("/scenes/99/rename", "/scenes/99/join", "/scenes/99/measure", "/scenes/99/layers"):
        assert visitor.post(gone, data={"name": "x"}, json=None).status_code in (404, 422)


def test_what_is_done_to_a_selection_is_answered_in_words(visitor, placed):
    ids = [f.id for f in rows(visitor, placed)]
    answer = visitor.post(f"/shoots/{placed}/do", json={"frames": ids[:2], "do": {"what": "rate", "rating": 5}}).json()
    assert answer["said"] == "Done: rating 2 frames 5." and answer["undo"] == "rating 2 frames 5"
    back = visitor.post(f"/shoots/{placed}/back", json={"way": "undo"}).json()
    assert back["said"].startswith("Undone") and back["redo"] == "rating 2 frames 5"
    assert visitor.post(f"/shoots/{placed}/back", json={"way": "undo"}).status_code == 422
    assert visitor.get(f"/shoots/{placed}/ids").json() == {"scenes": [[scene(visitor, placed), ids]]}
    assert ids[0] in visitor.get(f"/frames/{ids[0]}/like").json()["frames"]


@pytest.mark.parametrize(
    "body",
    [
        {"frames": [], "do": {"what": "accept"}},
        {"frames": [1], "do": {"what": "eat"}},
        {"frames": [0], "do": {"what": "accept"}},
        {"frames": [1], "do": {"what": "base", "values": {"ev": "NaN"}}},
        {"frames": list(range(1, 20_050)), "do": {"what": "accept"}},
        {"frames": [1]},
    ],
)
def test_what_means_nothing_is_refused(visitor, placed, body):
    assert visitor.post(f"/shoots/{placed}/do", json=body).status_code == 422
    assert not any(f.accepted for f in rows(visitor, placed))


def test_evenness_goes_from_unknown_over_measuring_to_known(visitor, placed):
    here = f"/scenes/{scene(visitor, placed)}"
    assert "Measure evenness" in visitor.get(f"{here}/evenness").text
    running = visitor.post(f"{here}/measure").text
    assert "of <span" in running and "Stop" in running and "hx-trigger" in running
    visitor.work()
    known = visitor.get(f"{here}/evenness").text
    assert "even-chart" in known and ("stand off" in known or "are even" in known or "stands off" in known)
    assert visitor.get(f"{here}/even").status_code == 200


def test_measuring_that_was_stopped_can_be_begun_again(visitor, placed):
    here = f"/scenes/{scene(visitor, placed)}"
    visitor.post(f"{here}/measure")
    job = jobs.active_jobs(visitor.library.db, placed)[-1]
    visitor.post(f"/jobs/{job.id}/cancel")
    assert "Measure evenness" in visitor.get(f"{here}/evenness").text
    visitor.post(f"{here}/measure")
    visitor.work()
    assert len(evenness.needs(visitor.library.db, scene(visitor, placed))) == 4


def told(visitor, shoot, **needs):
    ids = [f.id for f in rows(visitor, shoot)]
    kept = [Need(i, *needs.get(f"n{n}", (0.0, 0.0, 0.0, True))) for n, i in enumerate(ids)]
    evenness.keep(visitor.library.db, scene(visitor, shoot), ids[0], kept)
    return ids


def test_proposals_are_accepted_by_frame_and_value(visitor, placed):
    ids = told(visitor, placed, n1=(0.7, 10.0, 0.0, True), n3=(-0.5, 0.0, 0.0, False))
    here = f"/scenes/{scene(visitor, placed)}/even"
    page = visitor.get(here).text
    assert "1 of 2 are sure and ticked" in page and "Not sure" in page
    assert visitor.get(f"{here}?frame={ids[3]}").text.count("data-row=") == 1
    form = {"frame": [str(ids[1])], f"use-ev-{ids[1]}": "on", f"ev-{ids[1]}": "0.6", f"mired-{ids[1]}": "10"}
    assert visitor.post(here, data=form).status_code == 303
    assert (
        rows(visitor, placed)[1].own_base.amounts() | {"ev": 0.6, "mired": 0.0}
        == rows(visitor, placed)[1].own_base.amounts()
    )
    visitor.post(f"{here}/undo")
    assert not any(f.changed for f in rows(visitor, placed))


@pytest.mark.parametrize("value", ["9", "much", ""])
def test_a_value_that_is_none_is_refused_in_words(visitor, placed, value):
    ids = told(visitor, placed, n1=(0.7, 0.0, 0.0, True))
    form = {"frame": [str(ids[1])], f"use-ev-{ids[1]}": "on", f"ev-{ids[1]}": value}
    answer = visitor.post(f"/scenes/{scene(visitor, placed)}/even", data=form)
    assert answer.status_code == 422 and not any(f.changed for f in rows(visitor, placed))
    assert visitor.post(f"/scenes/{scene(visitor, placed)}/even", data={}).status_code == 422


def test_a_scene_that_is_even_and_one_of_a_single_frame_say_so(visitor, placed, library, tmp_path):
    told(visitor, placed)
    assert (
        "Every measured frame stands with its key frame" in visitor.get(f"/scenes/{scene(visitor, placed)}/even").text
    )
    alone = ready_shoot(library, tmp_path / "one", 1)
    assert "evenness-" not in visitor.get(f"/shoots/{alone}").text.split('class="wall"')[0].split("scene-head")[-1]


def test_the_check_tells_frames_and_does_what_a_key_asks(visitor, placed):
    look(visitor, placed)
    entries = visitor.get(f"/shoots/{placed}/check.json").json()["frames"]
    assert entries and entries[0]["faults"] and {"picture", "small", "original", "steps", "base"} <= entries[0].keys()
    first = entries[0]["id"]
    answer = visitor.post(f"/frames/{first}/check", json={"what": "base", "values": {"ev": 0.4}}).json()
    assert answer["base"]["ev"] == 0.4 and answer["stale"] and answer["left"] == len(entries)
    looked = visitor.post(f"/frames/{first}/check", json={"what": "look"}).json()
    assert not looked["stale"] and looked["picture"] != entries[0]["picture"]
    assert visitor.post(f"/frames/{first}/check", json={"what": "accept"}).json()["left"] == len(entries) - 1
    assert visitor.post(f"/frames/{first}/check", json={"what": "base", "values": {"ev": 40}}).status_code == 422
    assert visitor.post(f"/frames/{first}/check", json={"what": "explode"}).status_code == 422
    assert visitor.post("/frames/999/check", json={"what": "accept"}).status_code == 404
    assert visitor.post(f"/shoots/{placed}/check/ahead", json={"frames": [first]}).status_code == 200


def test_layers_are_given_from_above_and_what_is_wrong_changes_nothing(visitor, placed):
    first = look(visitor, placed)
    other = recipes.save_recipe(visitor.library.db, look_recipe("Other"))
    here = f"/scenes/{scene(visitor, placed)}/layers"
    give = [{"version": other.id, "strength": 50, "on": False}, {"version": first.id, "strength": 100}]
    assert visitor.post(here, json={"layers": give}).status_code == 200
    bottom, top = looks.look(visitor.library.db, scene(visitor, placed)).layers
    assert (bottom.version.id, top.version.id, top.strength, top.enabled) == (first.id, other.id, 0.5, False)
    newer = recipes.save_recipe(visitor.library.db, look_recipe("Evening", 0.9))
    page = visitor.get(here).text
    assert "Move" in page and "exposure +0.9\u00a0EV" in page
    key = rows(visitor, placed)[0].id
    old, new = (visitor.get(f"/frames/{key}/with.jpg?version={v.id}").content for v in (first, newer))
    assert old[:2] == new[:2] == b"\xff\xd8" and old != new
    for wrong in ([{"version": 999, "strength": 100}], [{"version": first.id, "strength": 300}]):
        assert visitor.post(here, json={"layers": wrong}).status_code == 422
    assert len(looks.look(visitor.library.db, scene(visitor, placed)).layers) == 2
    assert visitor.post(here, json={"layers": [], "everywhere": True}).status_code == 200
    assert looks.look(visitor.library.db, scene(visitor, placed)) is None
    assert all(f.wanted_key == "" for f in rows(visitor, placed))


def test_a_base_over_http_and_its_trial(visitor, placed):
    first, second = (f.id for f in rows(visitor, placed)[:2])
    trial = visitor.post(f"/frames/{first}/base/picture", json={"base": {"ev": 1.0}, "draft": True})
    assert trial.headers["content-type"] == "image/jpeg" and not any(f.changed for f in rows(visitor, placed))
    assert "own" in visitor.post(f"/frames/{first}/base", data={"ev": "0.5"}).text
    assert "own" in visitor.post(f"/frames/{second}/base/before").text
    assert rows(visitor, placed)[1].own_base.ev == 0.5
    assert visitor.post(f"/frames/{first}/base/before").status_code == 422
    assert visitor.post(f"/frames/{first}/base", data={"ev": "a lot"}).status_code == 422
    assert visitor.post(f"/frames/{first}/base/neutral", data={"x": 2, "y": 0}).status_code == 422
    assert "Undone" in visitor.post(f"/frames/{second}/undo").text
    assert "Done again" in visitor.post(f"/frames/{second}/redo").text
    told_again = json.loads(visitor.post(f"/frames/{second}/finished").text)
    assert told_again["finished"].startswith(f"/frames/{second}/finished/")


def test_the_wall_is_drawn_anew_when_its_scenes_change(visitor, placed):
    from lenskeep.web.screens.wall import layout_of

    studio = visitor.app.state.studio
    before = layout_of(studio, placed)
    placing.cut(visitor.library, rows(visitor, placed)[2].id)
    assert layout_of(studio, placed) != before
    evening.sweep_described(visitor.library)

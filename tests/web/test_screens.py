"""The screens' own logic: what each answers to changes, good and bad."""

import io
import json
import re
import threading
import zipfile

import numpy as np
import pytest
from PIL import Image

from lenskeep.files.written import write_whole
from lenskeep.store import frames, jobs, recipes
from lenskeep.studio import looks
from lenskeep.studio.bench import draft as bench
from lenskeep.studio.looks import look_of_shoot
from tests.asked import asked, plain_setting
from tools.made_up import look_recipe, write_photo


def rows(visitor, shoot):
    return frames.frames(visitor.library.db, shoot)


def pixels(answer):
    assert answer.status_code == 200, answer.text
    return np.asarray(Image.open(io.BytesIO(answer.content)).convert("RGB"), float)


def brightness(answer):
    return float(pixels(answer).mean())


def test_files_arrive_one_by_one_and_bad_ones_are_listed(visitor, tmp_path):
    made = visitor.post("/shoots", data={"name": "Harbour"}).json()
    address = f"{made['url']}/files"
    good = visitor.post(address, files={"file": ("a.jpg", write_photo(tmp_path / "a.jpg").read_bytes())}).json()
    bad = visitor.post(address, files={"file": ("../../b.jpg", b"words")}).json()
    assert good == {"added": 1, "known": [], "refused": []}
    assert bad["added"] == 0 and bad["refused"][0][0] == "b.jpg"
    wall = visitor.get(made["url"]).text
    assert "b.jpg is not a JPEG" in wall and "Harbour" in wall and "waiting" in wall
    thumb = re.search(r'src="(/frames/\d+/thumb/[\w-]+\.jpg)"', wall)
    assert brightness(visitor.get(thumb[1])) > 10, "a frame is seen before its masks are found"
    assert visitor.post("/shoots", data={"name": "   "}).status_code == 422


def test_every_screen_of_a_shoot_opens_before_and_after_a_look(visitor, shoot):
    addresses = ["/", f"/shoots/{shoot}", f"/shoots/{shoot}?show=doubtful", f"/scenes/{shoot}/bench"]
    addresses += [f"/shoots/{shoot}/hand-over", "/recipes", "/activity", f"/frames/{rows(visitor, shoot)[0].id}"]
    for _ in range(2):
        for address in addresses:
            answer = visitor.get(address)
            assert answer.status_code == 200 and "Undefined" not in answer.text, address
        saved = recipes.save_recipe(visitor.library.db, look_recipe())
        visitor.post(f"/shoots/{shoot}/look", data={"version_id": saved.id, "strength": 80})
        visitor.work()
    assert look_of_shoot(visitor.library, shoot).strength == pytest.approx(0.8)


def test_the_page_of_a_frame_knows_the_way_back(visitor, shoot):
    second = rows(visitor, shoot)[1]
    for came_from, back in (("check", f"/shoots/{shoot}/check"), ("bench", f"/scenes/{second.scene_id}/bench")):
        shown = visitor.get(f"/frames/{second.id}?only=doubtful&from={came_from}").text
        assert f'href="{back}"' in shown and f"?only=doubtful&amp;from={came_from}" in shown, "and so do its neighbours"
    astray = visitor.get(f"/frames/{second.id}?from=%22%3E%3Cscript%3E").text
    assert f'href="/shoots/{shoot}"' in astray and "from=" not in astray


def test_a_look_that_was_given_is_changed_at_the_bench_or_for_another(visitor, shoot):
    saved = recipes.save_recipe(visitor.library.db, look_recipe())
    to_the_bench = f'Its steps are changed <a class="underline" href="/shoots/{shoot}/bench">'
    assert to_the_bench not in visitor.get(f"/shoots/{shoot}").text
    visitor.post(f"/shoots/{shoot}/look", data={"version_id": saved.id, "strength": 80})
    assert to_the_bench in visitor.get(f"/shoots/{shoot}").text
    assert visitor.get(f"/shoots/{shoot}/bench", follow_redirects=True).status_code == 200


def test_the_doubtful_filter_shows_only_what_needs_a_look(visitor, shoot):
    tiles = visitor.get(f"/shoots/{shoot}/tiles?show=doubtful").text
    assert "IMG_002" in tiles and "IMG_001" not in tiles
    frame = rows(visitor, shoot)[2]
    assert "overlap" in visitor.get(f"/frames/{frame.id}").text
    visitor.post(f"/frames/{frame.id}/accept", data={"accepted": "true"})
    assert "IMG_002" not in visitor.get(f"/shoots/{shoot}/tiles?show=doubtful").text


def test_a_slider_under_the_finger_changes_the_picture_but_not_the_draft(visitor, shoot):
    frame = rows(visitor, shoot)[0].id
    visitor.post(f"/scenes/{shoot}/bench/edit", data={"op": "add-step", "where": "subject", "what": "exposure"})
    [step] = bench.draft(visitor.library, shoot).recipe.steps
    path = f"steps/{step.id}/adjustments/a1/ev"
    ask = {"frame": frame, "side": "witness", "values": plain_setting({path: 1.5})}
    plain, lifted = (
        brightness(visitor.post(f"/scenes/{shoot}/bench/picture", json=body)) for body in ({**ask, "values": []}, ask)
    )
    assert lifted > plain + 3
    assert bench.draft(visitor.library, shoot).recipe.steps[0].adjustments[0].ev == 0.0
    said = visitor.post(
        f"/scenes/{shoot}/bench/set", json={"values": plain_setting({path: 1.5}), "did": "exposure"}
    ).json()
    assert said["undo"] == "exposure" and bench.draft(visitor.library, shoot).recipe.steps[0].adjustments[0].ev == 1.5
    lanes = visitor.post(f"/scenes/{shoot}/bench/edit", data={"op": "undo"})
    assert lanes.status_code == 200 and bench.draft(visitor.library, shoot).recipe.steps[0].adjustments[0].ev == 0.0


def test_a_steps_region_as_grey_tint_and_contour(visitor, shoot):
    frame = rows(visitor, shoot)[0].id
    bench.change(visitor.library, shoot, asked("add-step", {"where": "subject", "what": ""}))
    [step] = bench.draft(visitor.library, shoot).recipe.steps
    ask = {"frame": frame, "side": "witness", "step": step.id}
    views = {
        view: pixels(visitor.post(f"/scenes/{shoot}/bench/picture", json={**ask, "view": view}))
        for view in ("finished", "tint", "grey")
    }
    share = (views["grey"] > 127).mean()
    tinted = (np.abs(views["tint"] - views["finished"]).max(axis=-1) > 8).mean()
    assert 0.03 < share < 0.2 and tinted == pytest.approx(share, abs=0.04)
    paths = visitor.post(f"/scenes/{shoot}/bench/contours", json=ask).json()["paths"]
    assert paths["50"].startswith("M") and paths["50"].endswith("Z")


@pytest.mark.parametrize(
    ("values", "words"),
    [
        ({"of": "step", "step": "none", "field": "strength", "value": 1.0}, "no longer"),
        ({"of": "recipe", "field": "strength", "value": 9}, "strength"),
        ({"of": "recipe", "field": "steps", "value": "x"}, "no steps to set"),
        ({"of": "everything", "field": "steps", "value": "x"}, "of a kind that is not known"),
    ],
)
def test_a_change_that_cannot_be_says_why_and_leaves_the_draft(visitor, shoot, values, words):
    bench.load(visitor.library, shoot, look_recipe())
    answer = visitor.post(f"/scenes/{shoot}/bench/set", json={"values": [values]})
    assert answer.status_code == 422 and words in answer.text
    assert bench.draft(visitor.library, shoot).recipe == look_recipe()


def test_saving_needs_a_ticked_step_and_can_go_on_to_apply(visitor, shoot):
    bench.load(visitor.library, shoot, look_recipe())
    refused = visitor.post(f"/scenes/{shoot}/bench/save", data={"name": "Evening"})
    assert refused.status_code == 422 and "Tick at least one step" in refused.text
    data = {"name": "Evening", "steps": ["subject", "sky"], "strength": "70", "then": "apply"}
    assert visitor.post(f"/scenes/{shoot}/bench/save", data=data).status_code == 303
    visitor.work()
    assert all(f.result_key for f in rows(visitor, shoot))
    look = look_of_shoot(visitor.library, shoot)
    assert [s.id for s in look.version.recipe.steps] == ["subject", "sky"] and look.version.recipe.strength == 0.7


def test_a_saved_recipe_can_be_taken_onto_the_bench_and_undone(visitor, shoot):
    saved = recipes.save_recipe(visitor.library.db, look_recipe("From the book"))
    bench.change(visitor.library, shoot, asked("add-step", {"where": "sky", "what": "haze"}))
    assert "From the book" in visitor.get(f"/scenes/{shoot}/bench").text
    assert visitor.post(f"/scenes/{shoot}/bench/load", data={"version_id": saved.id}).status_code == 303
    assert bench.draft(visitor.library, shoot).recipe == saved.recipe
    visitor.post(f"/scenes/{shoot}/bench/edit", data={"op": "undo"})
    assert [s.region.sentence() for s in bench.draft(visitor.library, shoot).recipe.steps] == ["sky"]


def test_one_step_on_one_frame(visitor, shoot):
    saved = recipes.save_recipe(visitor.library.db, look_recipe())
    looks.give_look(visitor.library, shoot, saved.id, 1.0)
    visitor.work()
    frame = rows(visitor, shoot)[0].id
    assert visitor.post(f"/frames/{frame}/steps/sky", data={"state": "off"}).status_code == 200
    assert visitor.post(f"/frames/{frame}/strength", data={"strength": "40"}).status_code == 200
    override = rows(visitor, shoot)[0].override
    assert override.strength == 0.4 and override.steps["sky"].enabled is False
    assert "IMG_000" in visitor.get(f"/shoots/{shoot}/tiles?show=changed").text
    assert "no longer in the look" in visitor.post(f"/frames/{frame}/steps/none", data={"state": "off"}).text
    visitor.post(f"/frames/{frame}/reset")
    assert rows(visitor, shoot)[0].override.is_neutral


def test_a_hand_over_can_be_downloaded_cancelled_and_resumed(visitor, shoot):
    assert visitor.post(f"/shoots/{shoot}/hand-over", data={"quality": 80}).status_code == 303
    first = jobs.jobs(visitor.library.db, shoot)[0].id
    visitor.post(f"/jobs/{first}/cancel")
    assert jobs.job(visitor.library.db, first).state == "cancelled"
    assert visitor.get(f"/deliveries/{first}.zip").status_code == 404
    visitor.post(f"/jobs/{first}/resume")
    visitor.work()
    with zipfile.ZipFile(io.BytesIO(visitor.get(f"/deliveries/{first}.zip").content)) as bundle:
        assert len(bundle.namelist()) == 6
    refused = visitor.post(f"/shoots/{shoot}/hand-over", data={"form": "folder", "folder": "not/from/the/root"})
    assert refused.status_code == 422 and "whole path" in refused.text


def test_recipes_go_out_and_come_in_as_files(visitor, shoot):
    saved = recipes.save_recipe(visitor.library.db, look_recipe())
    answer = visitor.get(f"/recipes/versions/{saved.id}.json")
    data = json.loads(answer.text) | {"name": "From a friend"}
    assert "Evening-v1.json" in answer.headers["content-disposition"]
    assert visitor.post("/recipes/import", files={"file": ("r.json", json.dumps(data))}).status_code == 303
    assert {v.name for v in recipes.newest_versions(visitor.library.db)} == {"Evening", "From a friend"}
    for bad, words in ((b"\xff\xfe", "not text"), (b"{", "not JSON"), (b'{"format": "x"}', "not a Lens Keep recipe")):
        refused = visitor.post("/recipes/import", files={"file": ("r.json", bad)})
        assert refused.status_code == 422 and words in refused.text


def test_what_is_gone_says_so_on_a_page(visitor):
    answer = visitor.get("/shoots/99", headers={"accept": "text/html"})
    assert answer.status_code == 404 and "not in the library" in answer.text and "<html" in answer.text


def test_removing_a_shoot_keeps_the_originals(visitor, shoot):
    row = rows(visitor, shoot)[0]
    assert visitor.post(f"/shoots/{shoot}/remove").status_code == 303
    assert visitor.get("/shoots.json").json() == []
    assert visitor.library.original(row.sha256, row.suffix).is_file()


def test_the_list_of_shoots_renews_itself_while_something_is_under_way(visitor, shoot):
    quiet = visitor.get("/cards").text
    assert 'id="cards"' in quiet and "hx-trigger" not in quiet and "<html" not in quiet
    jobs.add_job(visitor.library.db, "find", shoot, [f.id for f in rows(visitor, shoot)])
    for address in ("/", "/cards"):
        text = visitor.get(address).text
        assert 'hx-get="/cards" hx-trigger="every 2s"' in text and "Finding masks 0 of" in text


def test_steps_of_one_frame_alone_and_turning_it(visitor, shoot):
    saved = recipes.save_recipe(visitor.library.db, look_recipe())
    first = rows(visitor, shoot)[0]
    added = visitor.post(f"/frames/{first.id}/own", data={"version_id": saved.id}).text
    assert "Own steps, after the look" in added and f"/frames/{first.id}/own/0" in added
    visitor.post(f"/frames/{first.id}/own/0", data={"state": ["off", "on"], "strength": 45})
    assert rows(visitor, shoot)[0].override.own[0].strength == pytest.approx(0.45)
    visitor.post(f"/frames/{first.id}/own/0", data={"state": "off", "strength": 45})
    assert not rows(visitor, shoot)[0].override.own[0].enabled
    assert visitor.post(f"/frames/{first.id}/own/3", data={"state": "on", "strength": 45}).status_code == 422
    visitor.post(f"/frames/{first.id}/own/0/remove")
    assert rows(visitor, shoot)[0].override.is_neutral
    assert visitor.get(f"/frames/{first.id}/found").headers.get("HX-Refresh") == "true"
    answer = visitor.post(f"/frames/{first.id}/turn", data={"way": "right"})
    assert answer.status_code == 303 and rows(visitor, shoot)[0].width == first.height
    waiting = visitor.get(f"/frames/{first.id}").text
    assert f"/frames/{first.id}/found" in waiting
    assert "HX-Refresh" not in visitor.get(f"/frames/{first.id}/found").headers
    assert visitor.post(f"/frames/{first.id}/turn", data={"way": "up"}).status_code == 422


def test_layers_and_groups_of_the_look_on_one_frame(visitor, shoot):
    grouped = look_recipe("Grouped").model_dump(mode="json")
    grouped["groups"] = {"g": {"name": "All of it"}}
    for step in grouped["steps"]:
        step["group"] = "g"
    library = visitor.library
    versions = [
        recipes.save_recipe(library.db, type(look_recipe()).model_validate(grouped)),
        recipes.save_recipe(library.db, look_recipe()),
    ]
    first = rows(visitor, shoot)[0]
    looks.give_layers(library, shoot, [(v.id, 1.0) for v in versions])
    page = visitor.get(f"/frames/{first.id}").text
    names = re.findall(rf"/frames/{first.id}/parts/(layers|groups)/([\w.]+)\?", page)
    assert [kind for kind, _ in names] == ["layers", "groups", "layers"]
    for kind, name in names:
        answer = visitor.post(f"/frames/{first.id}/parts/{kind}/{name}", data={"state": ["off", "on"], "strength": 45})
        assert answer.status_code == 200 and "45" in answer.text
    own = rows(visitor, shoot)[0].override
    assert {o.strength for o in [*own.layers.values(), *own.groups.values()]} == {0.45} and len(own.layers) == 2
    visitor.post(f"/frames/{first.id}/parts/groups/{names[1][1]}", data={"state": "off", "strength": 100})
    assert rows(visitor, shoot)[0].override.groups[names[1][1]].enabled is False
    for kind, name in names:
        visitor.post(f"/frames/{first.id}/parts/{kind}/{name}", data={"state": ["off", "on"], "strength": 100})
    assert rows(visitor, shoot)[0].override.is_neutral, "as the look has it is nothing of its own"
    assert visitor.post(f"/frames/{first.id}/parts/layers/l999", data={"state": "on", "strength": 1}).status_code == 422


def test_a_picture_that_is_exchanged_while_it_leaves_is_the_one_or_the_other(visitor, shoot):
    frame = frames.frames(visitor.library.db, shoot)[0]
    path = visitor.library.computed(frame.content).thumb
    one = path.read_bytes()
    either, over = (one, one + bytes(70_000)), threading.Event()

    def exchanging():
        while not over.is_set():
            for data in either:
                write_whole(path, data)

    other = threading.Thread(target=exchanging)
    other.start()
    try:
        got = [visitor.get(f"/frames/{frame.id}/thumb/{frame.picture_key}.jpg") for _ in range(150)]
    finally:
        over.set()
        other.join()
    assert all(a.status_code == 200 and a.content in either for a in got)
    assert all(int(a.headers["content-length"]) == len(a.content) for a in got)

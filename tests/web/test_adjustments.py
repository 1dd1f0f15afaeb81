"""Adjustments over the wire: measures, guards, curves, files, blend modes, starting points, tables and colours out."""

import io
import zipfile

import numpy as np
import pytest
from PIL import Image, ImageCms

from lenskeep.core.adjust import KINDS
from lenskeep.core.recipes.models import Recipe
from lenskeep.files.cube import read_cube, write_cube
from lenskeep.store import jobs, recipes
from lenskeep.studio.bench import draft as bench
from lenskeep.studio.book import starters
from tests.asked import plain_setting
from tests.core.adjustments import strong, warm_table
from tests.web.hands import at_the_bench


def draft(visitor, shoot):
    return bench.draft(visitor.library, shoot).recipe


EVERY = {"id": "a", "name": "All", "adjustments": [strong(kind) for kind in list(KINDS)[:24]]}
REST = {"id": "b", "name": "Rest", "adjustments": [strong(kind) for kind in list(KINDS)[24:]]}


def test_every_number_and_field_has_an_editor_with_its_range_unit_and_help(visitor, shoot):
    at_the_bench(visitor, shoot, EVERY, REST)
    page = visitor.get(f"/scenes/{shoot}/bench").text
    for at, kind in enumerate(KINDS):
        path = f"steps/{'a' if at < 24 else 'b'}/adjustments/a{at % 24 + 1}"
        for control in KINDS[kind].controls():
            assert f'data-path="{path}/{control.name}"' in page, (kind, control.name)
        for extra in KINDS[kind].extras():
            marks = {"curve": "data-curve=", "table": 'data-file="table"', "picture": 'data-file="picture"'}
            mark = marks.get(extra.editor, f'data-path="{path}/{extra.name}"')
            assert mark in page, (kind, extra.name)
    assert "−" not in KINDS["exposure"].help and KINDS["exposure"].help in page


def test_measures_come_with_the_step_that_causes_a_warning(visitor, shoot):
    burnt = {"id": "b", "name": "Far too much", "adjustments": [{"kind": "exposure", "ev": 4}]}
    key = at_the_bench(visitor, shoot, {"id": "a", "adjustments": [strong("tint")]}, burnt)
    found = visitor.post(f"/scenes/{shoot}/bench/measures", json={"frame": key, "step": "a"}).json()
    assert len(found["histogram"]["light"]) == 64 and sum(found["region"]["red"]) == pytest.approx(1, abs=1e-2)
    guards = {g["name"]: g for g in found["guards"]}
    assert guards["clipped"]["warns"] and guards["clipped"]["cause"] == "Far too much"
    assert guards["clipped"]["figure"] > guards["clipped"]["before"]
    plain = visitor.post(f"/scenes/{shoot}/bench/picture", json={"frame": key})
    striped = visitor.post(f"/scenes/{shoot}/bench/picture", json={"frame": key, "guard": "clipped"})
    seen = [np.asarray(Image.open(io.BytesIO(r.content))).mean() for r in (plain, striped)]
    assert seen[1] < seen[0] - 5
    assert visitor.post(f"/scenes/{shoot}/bench/picture", json={"frame": key, "guard": "taste"}).status_code == 422


def test_a_curves_points_are_set_as_a_whole_and_bad_ones_change_nothing(visitor, shoot):
    at_the_bench(visitor, shoot, {"id": "a", "adjustments": [{"kind": "curve"}]})
    path, address = "steps/a/adjustments/a1/points", f"/scenes/{shoot}/bench/set"
    assert (
        visitor.post(address, json={"values": plain_setting({path: [[0, 0], [0.4, 0.6], [1, 1]]})}).status_code == 200
    )
    assert draft(visitor, shoot).steps[0].adjustments[0].points[1] == (0.4, 0.6)
    for bad in ([[0, 0]], [[0.5, 0], [0.2, 1]], "straight", 3):
        place = {"of": "adjustment", "step": "a", "adjustment": "a1", "field": "points"}
        assert visitor.post(address, json={"values": [place | {"value": bad}]}).status_code == 422
    whole = {"of": "recipe", "field": "steps", "value": [[0, 0], [1, 1]]}
    assert visitor.post(address, json={"values": [whole]}).status_code == 422
    assert visitor.post("/curve", json={"points": [[0, 0], [0.5, 0.5], [1, 1]]}).json()["samples"][50] == 0.5
    assert visitor.post("/curve", json={"points": [[0.5, 0], [0.2, 1]]}).status_code == 422
    assert len(draft(visitor, shoot).steps[0].adjustments[0].points) == 3


def test_a_blend_mode_is_one_of_the_standards(visitor, shoot):
    at_the_bench(visitor, shoot, {"id": "a", "adjustments": [strong("fill")]})
    address = f"/scenes/{shoot}/bench/set"
    assert visitor.post(address, json={"values": plain_setting({"steps/a/blend": "soft-light"})}).status_code == 200
    assert visitor.post(address, json={"values": plain_setting({"steps/a/blend": "vivid"})}).status_code == 422
    assert draft(visitor, shoot).steps[0].blend == "soft-light"


def test_tables_and_pictures_come_in_as_files(visitor, shoot):
    at_the_bench(visitor, shoot, {"id": "a", "adjustments": [{"kind": "colour_table"}, {"kind": "overlay"}]})

    def bring(kind, index, name, data):
        form = {"step": "a", "of": f"a{index + 1}", "kind": kind}
        return visitor.post(f"/scenes/{shoot}/bench/file", data=form, files={"file": (name, data)})

    assert bring("table", 0, "warm.cube", write_cube(warm_table(), "Warm").encode()).status_code == 200
    refused = bring("table", 0, "bad.cube", b"LUT_3D_SIZE 4\n0 0 0")
    assert refused.status_code == 422 and "should hold 64 colours" in refused.text
    out = io.BytesIO()
    Image.new("RGBA", (40, 30), (250, 200, 90, 120)).save(out, "PNG")
    assert bring("picture", 1, "leak.png", out.getvalue()).status_code == 200
    assert bring("picture", 1, "leak.png", b"no picture").status_code == 422
    assert bring("picture", 7, "leak.png", out.getvalue()).status_code == 422
    table, overlay = draft(visitor, shoot).steps[0].adjustments
    assert table.size == 5 and table.share == 100 and overlay.name == "leak.png" and overlay.cover == 50


def test_starting_points_are_shown_added_and_put_into_the_book(visitor, shoot):
    name = starters.starters()[0].name
    assert name in visitor.get("/recipes").text and name in visitor.get(f"/scenes/{shoot}/bench").text
    assert visitor.post(f"/scenes/{shoot}/bench/take", json={"key": f"ready {name}"}).status_code == 200
    assert [s.name for s in draft(visitor, shoot).steps] == [s.name for s in starters.starters()[0].steps]
    visitor.post("/recipes/starters", data={"name": name})
    assert [v.name for v in recipes.newest_versions(visitor.library.db)] == [name]
    assert visitor.post("/recipes/starters", data={"name": "nothing"}).status_code == 422


def test_a_recipe_of_colours_leaves_as_a_table_and_another_says_why_not(visitor, shoot):
    steps = [{"id": "a", "name": "Toning", "adjustments": [{"kind": "warmth", "mired": 30}]}]
    toned = recipes.save_recipe(visitor.library.db, Recipe.model_validate({"name": "Toned", "steps": steps}))
    cube = read_cube(visitor.get(f"/recipes/versions/{toned.id}.cube").text, "toned.cube")
    assert cube.title == "Toned" and cube.entries[16, 16, 16, 0] > cube.entries[16, 16, 16, 2]
    masked = recipes.save_recipe(visitor.library.db, starters.starter("Subject lift in three"))
    assert f"/recipes/versions/{toned.id}.cube" in visitor.get("/recipes").text
    assert f"/recipes/versions/{masked.id}.cube" not in visitor.get("/recipes").text
    refused = visitor.get(f"/recipes/versions/{masked.id}.cube")
    assert refused.status_code == 422 and "Lift: brightness" in refused.text


@pytest.mark.parametrize(("space", "red"), [("srgb", 0.64), ("display-p3", 0.68), ("rec2020", 0.708)])
def test_a_hand_over_is_in_the_colours_that_were_asked_for(visitor, shoot, space, red):
    assert visitor.post(f"/shoots/{shoot}/hand-over", data={"space": space}).status_code == 303
    visitor.work()
    job = jobs.jobs(visitor.library.db, shoot)[0]
    data = visitor.get(f"/deliveries/{job.id}.zip").content
    with zipfile.ZipFile(io.BytesIO(data)) as bundle:
        name = next(n for n in bundle.namelist() if n.endswith(".jpg"))
        profile = Image.open(io.BytesIO(bundle.read(name))).info["icc_profile"]
    primary = ImageCms.ImageCmsProfile(io.BytesIO(profile)).profile.red_primary[1]
    assert primary[0] == pytest.approx(red, abs=0.02)


def test_the_look_of_raw_files_is_chosen_on_the_wall_only_where_there_are_any(visitor, shoot):
    assert "raw-base" not in visitor.get(f"/shoots/{shoot}").text
    assert visitor.post(f"/shoots/{shoot}/raw-base", data={"base": "neutral"}).status_code == 303
    assert visitor.post(f"/shoots/{shoot}/raw-base", data={"base": "dramatic"}).status_code == 422

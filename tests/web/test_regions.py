"""Regions over the wire: what the Bench asks and changes, good and bad."""

import io

import numpy as np
import pytest
from PIL import Image

from lenskeep.core.recipes.edit_regions import keep_on_frame
from lenskeep.core.recipes.models import Recipe
from lenskeep.store import assets, frames, jobs, recipes
from lenskeep.studio import applying, looks
from lenskeep.studio.bench import draft as bench
from tests.core.parts import EVERY_PART, PARTS, STROKE

EVERYWHERE = {"name": "Hands", "steps": [{"id": "a", "name": "Lift", "adjustments": [{"kind": "exposure", "ev": 1}]}]}


@pytest.fixture
def at_bench(visitor, shoot):
    """(change, recipe, key frame's id) of a Bench with one step of a brush, a colour match, a pick and an image."""
    bench.load(visitor.library, shoot, Recipe.model_validate(EVERYWHERE))
    key = frames.frames(visitor.library.db, shoot)[0].id

    def change(op, **values):
        return visitor.post(f"/scenes/{shoot}/bench/edit", json={"op": op, "step": "a", **values})

    for kind in ("brush", "colour_match", "picked", "image"):
        assert change("add-part", kind=kind).status_code == 200
    return change, lambda: bench.draft(visitor.library, shoot).recipe, key


def part(recipe, number):
    """The id of a part."""
    return parts(recipe)[number].id


def parts(recipe):
    return recipe().steps[0].region.parts


def test_an_outline_is_what_a_click_then_takes(visitor, shoot, at_bench):
    change, recipe, key = at_bench
    seen = visitor.post(f"/scenes/{shoot}/bench/outline", json={"frame": key, "x": 0.5, "y": 0.6}).json()
    assert seen["kind"] == "animal" and seen["path"].startswith("M")
    assert change("add-pick", part=part(recipe, 2), frame=key, x=0.5, y=0.6).status_code == 200
    [pick] = parts(recipe)[2].picks
    assert pick.piece.label == seen["label"] and len(pick.frame) == 64
    assert change("add-sample", part=part(recipe, 1), frame=key, x=0.5, y=0.6).status_code == 200
    light, a, b = parts(recipe)[1].samples[0]
    assert light > 0.4 and a > 0.02 and b > 0.05
    assert visitor.post(f"/scenes/{shoot}/bench/outline", json={"frame": key, "x": 3, "y": 0}).status_code == 422


def test_strokes_are_kept_listed_and_moved_to_a_frame(visitor, shoot, at_bench):
    change, recipe, key = at_bench
    assert change("stroke", part=part(recipe, 0), stroke=STROKE).status_code == 200
    listed = visitor.post(f"/scenes/{shoot}/bench/strokes", json={"step": "a"}).json()["strokes"]
    assert listed[0]["points"] == STROKE["points"] and listed[0]["anchor"] == "frame"
    refused = change("move-to-frame", part=part(recipe, 0), frame=key)
    assert refused.status_code == 422 and "repair no mask" in refused.text and len(parts(recipe)[0].strokes) == 1
    unfinished = change("move-to-frame", part=part(recipe, 0))
    assert unfinished.status_code == 422 and "frame" in unfinished.text


def test_strokes_kept_to_another_frame_go_there_and_that_one_is_made_anew(visitor, shoot, at_bench):
    change, recipe, key = at_bench
    library, other = visitor.library, frames.frames(visitor.library.db, shoot)[1]
    assert change("add-part", kind="subject").status_code == 200
    assert change("stroke", part=part(recipe, 0), stroke=STROKE).status_code == 200
    only = keep_on_frame(recipe(), "a", part(recipe, 0), other.content)
    bench.go_on_from(library, shoot, only, "as older recipes had it")
    version = recipes.save_recipe(library.db, Recipe.model_validate(EVERYWHERE))
    looks.give_look(library, shoot, version.id, 1.0)
    assert change("move-to-frame", part=part(recipe, 0), frame=key).status_code == 200
    moved = frames.frame(library.db, other.id)
    assert len(moved.override.repairs.done) == 1 and not frames.frame(library.db, key).changed
    now = [j for j in jobs.active_jobs(library.db, shoot, applying.KIND) if j.total == 1]
    assert len(now) == 1, "the frame that was changed is queued before all others"


def test_an_image_comes_in_grey_and_a_wrong_file_changes_nothing(visitor, shoot, at_bench):
    _, recipe, _ = at_bench
    address, form = f"/scenes/{shoot}/bench/file", {"step": "a", "of": parts(recipe)[3].id, "kind": "mask"}
    out = io.BytesIO()
    Image.linear_gradient("L").resize((3000, 200)).convert("RGB").save(out, "PNG")
    answer = visitor.post(address, data=form, files={"file": ("veil.png", out.getvalue())})
    assert answer.status_code == 200 and "veil.png" in answer.text
    image = parts(recipe)[3]
    assert image.name == "veil.png" and len(assets.asset_bytes(visitor.library.db, image.picture)) < 300_000
    for name, data in (("photo.png", b"no picture"), ("photo.jpg", _jpeg())):
        refused = visitor.post(address, data=form, files={"file": (name, data)})
        assert refused.status_code in (400, 422) and "PNG" in refused.text
    assert parts(recipe)[3] == image


def _jpeg():
    out = io.BytesIO()
    Image.new("RGB", (8, 8)).save(out, "JPEG")
    return out.getvalue()


@pytest.mark.parametrize(
    ("op", "values", "words"),
    [
        ("stroke", {"part": 0, "stroke": {}}, "points"),
        ("stroke", {"part": 0, "stroke": [1]}, "stroke: must hold named values"),
        ("stroke", {"part": "p77", "stroke": STROKE}, "no longer"),
        ("stroke", {"part": 1, "stroke": STROKE}, "no longer"),
        ("add-sample", {"part": 1, "frame": "x", "x": 0, "y": 0}, "frame: must be a whole number"),
        ("use-shared", {}, "missing"),
        ("nothing-known", {}, "unknown"),
    ],
)
def test_what_cannot_be_done_is_refused_in_words_and_changes_nothing(at_bench, op, values, words):
    change, recipe, _ = at_bench
    before = recipe()
    if isinstance(values.get("part"), int):
        values = values | {"part": part(recipe, values["part"])}
    answer = change(op, **values)
    assert answer.status_code in (400, 422) and words in answer.text
    assert recipe() == before


def test_the_bench_shows_a_recipe_with_every_part_and_its_pictures(visitor, shoot):
    bench.load(visitor.library, shoot, Recipe.model_validate(EVERY_PART))
    page = visitor.get(f"/scenes/{shoot}/bench").text
    assert "Undefined" not in page and "Far behind (shared)" in page and "band" in page
    key = frames.frames(visitor.library.db, shoot)[0].id
    wanted = {"frame": key, "side": "witness", "step": "s8"}

    def mean(**more):
        answer = visitor.post(f"/scenes/{shoot}/bench/picture", json={**wanted, **more})
        assert answer.status_code == 200, answer.text
        return np.asarray(Image.open(io.BytesIO(answer.content)).convert("RGB"), float).mean((0, 1))

    finished = mean()
    red, blue = mean(view="tint", tint="#ff0000"), mean(view="tint", tint="#0000ff")
    assert red[0] > finished[0] + 5 and blue[2] > finished[2] + 5 and red[2] < blue[2] - 10
    bad = visitor.post(f"/scenes/{shoot}/bench/picture", json={**wanted, "view": "tint", "tint": "red"})
    assert bad.status_code == 422
    contours = visitor.post(f"/scenes/{shoot}/bench/contours", json=wanted).json()
    assert contours["paths"]["50"].startswith("M")


def test_saving_keeps_only_the_shared_regions_that_are_used(visitor, shoot):
    bench.load(visitor.library, shoot, Recipe.model_validate(EVERY_PART))
    saved = bench.save(visitor.library, shoot, "All of it", [f"s{i}" for i in range(1, 9)], 1.0)
    assert set(saved.recipe.regions) == {"far"}
    some = bench.save(visitor.library, shoot, "Some of it", ["s1", "s3"], 1.0)
    assert some.recipe.regions == {} and len(some.recipe.steps) == 2
    assert PARTS["brush"]["strokes"][0]["size"] == some.recipe.steps[0].region.parts[1].strokes[0].size


def test_a_frames_masks_can_be_seen_as_outlines_and_shared_regions_go_by_name(visitor, shoot):
    frame = frames.frames(visitor.library.db, shoot)[2]  # a doubtful one
    answer = visitor.get(f"/frames/{frame.id}/outline/subject").json()
    assert answer["paths"]["50"].startswith("M")
    assert visitor.get(f"/frames/{frame.id}/outline/animals").status_code == 200
    for name in ("water", "..%2Fbase"):
        assert visitor.get(f"/frames/{frame.id}/outline/{name}").status_code == 404

    def words(address):
        return " ".join(visitor.get(address).text.split())

    page = words(f"/frames/{frame.id}")
    assert 'data-show-outline="subject"' in page and "greenery 45 %" in page
    bench.load(visitor.library, shoot, Recipe.model_validate(EVERY_PART))
    saved = bench.save(visitor.library, shoot, "All of it", [f"s{i}" for i in range(1, 9)], 1.0)
    visitor.post(f"/shoots/{shoot}/look", data={"version_id": saved.id, "strength": 100})
    assert "Far behind (shared)" in words(f"/frames/{frame.id}")
    assert "Far behind (shared): background, only within ramp" in words("/recipes")

"""The whole job on the command line, on demo frames with the real detectors."""

import json
import re
import shutil
import zipfile

import cv2
import imagecodecs
import jsonschema
import numpy as np
import pytest
from PIL import Image

from lenskeep.core.recipes.models import Recipe
from lenskeep.files.cube import read_cube
from lenskeep.files.recipes import recipe_to_json
from tools.made_up import DEMO, look_recipe


@pytest.fixture
def recipe_file(tmp_path):
    path = tmp_path / "evening.json"
    path.write_text(recipe_to_json(look_recipe()))
    return path


def test_import_find_apply_export(run, recipe_file, tmp_path):
    card = tmp_path / "card"
    card.mkdir()
    shutil.copy(DEMO / "LKD_0113.jpg", card)
    shutil.copy(DEMO / "LKD_0221.jpg", card)
    (card / "broken.jpg").write_bytes(b"")
    said = run("import", card, "--name", "Two dogs")
    assert "broken.jpg is empty" in said and "2 frames came in" in said
    assert "2 of 2" in run("find", "Two dogs")
    assert "already" in run("find", "Two dogs")
    assert "Evening, version 1, on Two dogs" in run("apply", "Two dogs", "--recipe", recipe_file)
    run("export", "Two dogs", "--out", tmp_path / "done.zip", "--long-side", 600)
    with zipfile.ZipFile(tmp_path / "done.zip") as bundle:
        assert bundle.namelist() == [
            "LKD_0113.jpg", "LKD_0221.jpg", "what-was-applied.csv", "what-was-delivered.json"
        ]  # fmt: skip
    assert "There is no shoot" in run("find", "Three dogs", code=1)
    assert "no recipe" in run("apply", "Two dogs", "--recipe", "Nothing", code=1)


def test_detect_and_render_plain_files(run, recipe_file, tmp_path):
    photo = DEMO / "LKD_0113.jpg"
    size = Image.open(photo).size
    said = run("detect", photo, "--out", tmp_path / "masks", "--explain")
    assert re.search(r"^  animal \d\.\d\d at \d+–\d+, \d+–\d+: animal, \w", said, re.MULTILINE), "who it is, and why"
    for kind in ("subject", "sky"):
        mask = cv2.imread(str(tmp_path / "masks" / f"LKD_0113.{kind}.png"), cv2.IMREAD_UNCHANGED)
        assert mask.dtype == np.uint8 and mask.shape == size[::-1] and 0.03 < (mask > 127).mean() < 0.9
    facts = json.loads((tmp_path / "masks" / "LKD_0113.json").read_text())
    assert facts["subject_box"]["y1"] > 0.8 and facts["skyline"] and 0 <= facts["sky"]["trust"] <= 1
    run("render", photo, "--recipe", recipe_file, "--out", tmp_path / "out")
    rendered = Image.open(tmp_path / "out" / "LKD_0113.jpg")
    assert rendered.size == size and rendered.info["icc_profile"]
    assert np.abs(np.asarray(rendered, float) - np.asarray(Image.open(photo), float)).mean() > 4
    (tmp_path / "bad.jpg").write_text("words")
    said = run("render", tmp_path / "bad.jpg", "--recipe", recipe_file, "--out", tmp_path / "out", code=1)
    assert "not a JPEG" in said


def test_the_schema_accepts_our_files_and_refuses_others(run, recipe_file):
    schema = json.loads(run("schema"))
    data = json.loads(recipe_file.read_text())
    jsonschema.validate(data, schema)
    data["steps"][0]["adjustments"][0]["ev"] = 99
    with pytest.raises(jsonschema.ValidationError):
        jsonschema.validate(data, schema)


def test_a_recipe_file_that_is_none_says_where(run, tmp_path):
    (tmp_path / "a.json").write_text(
        '{"format": "lenskeep-recipe/1", "name": "A", "steps": [{"id": "a", "strength": 9}]}'
    )
    said = run("render", DEMO / "LKD_0113.jpg", "--recipe", tmp_path / "a.json", "--out", tmp_path, code=1)
    assert "a.json" in said and "strength" in said


def test_a_recipe_becomes_a_table_or_says_why_not(run, recipe_file, tmp_path):
    toned = tmp_path / "toned.json"
    steps = [{"id": "a", "adjustments": [{"kind": "saturation", "saturation": -100}]}]
    toned.write_text(recipe_to_json(Recipe.model_validate({"name": "Grey", "steps": steps})))
    run("table", "--recipe", toned, "--out", tmp_path / "grey.cube", "--size", 9)
    entries = read_cube((tmp_path / "grey.cube").read_text(), "grey.cube").entries
    assert entries.shape == (9, 9, 9, 3) and np.ptp(entries, axis=-1).max() < 0.01
    assert "A colour table holds only" in run("table", "--recipe", recipe_file, "--out", tmp_path / "no.cube", code=1)
    assert not (tmp_path / "no.cube").exists()


def test_a_cut_is_what_would_leave_there(run, recipe_file, tmp_path):
    photo, out = DEMO / "LKD_0113.jpg", tmp_path / "out"
    look = ("render", photo, "--recipe", recipe_file, "--out", out, "--form", "png16")
    run(*look)
    run(*look, "--cut", "301,217,200,150")
    whole, part = (imagecodecs.png_decode((out / name).read_bytes()) for name in ("LKD_0113.png", "LKD_0113-2.png"))
    assert whole.dtype == np.uint16 and np.array_equal(part, whole[217:367, 301:501])
    assert "reaches over its edge" in run(*look, "--cut", "5000,0,900,9", code=1)
    for wrong in ("1,2,3", "a,b,c,d", "1,2,0,4", "-1,2,3,4"):
        assert "A cut is" in run(*look, f"--cut={wrong}", code=1)
    assert "no form" in run(*look[:-1], "bmp", code=1)


def test_a_form_with_layers_gets_one_for_every_step_of_a_plain_file_too(run, recipe_file, tmp_path):
    photo, out = DEMO / "LKD_0113.jpg", tmp_path / "layered"
    look = ("render", photo, "--recipe", recipe_file, "--out", out, "--form", "openraster")
    run(*look)
    with zipfile.ZipFile(out / "LKD_0113.ora") as held:
        names = re.findall('<layer[^>]* name="([^"]*)"', held.read("stack.xml").decode())
    assert names[::-1] == ["As it came", *(step.name for step in look_recipe().steps)]
    assert "A cut has no layers" in run(*look, "--cut", "0,0,100,100", code=1)

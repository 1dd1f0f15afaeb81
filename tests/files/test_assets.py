"""Recipe files carry the pictures and tables they refer to, in format 2 and out of format 1."""

import base64
import json

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.models import FORMAT, Recipe
from lenskeep.files.assets import (
    asset_key,
    grey_of,
    in_memory,
    numbers_of,
    packed_grey,
    packed_numbers,
    packed_picture,
    picture_of,
)
from lenskeep.files.recipes import recipe_from_json, recipe_to_json
from tests.core.adjustments import strong
from tests.core.parts import PARTS
from tools.made_up import ASSETS


def full_recipe():
    steps = [
        {"id": "a", "adjustments": [strong("overlay"), strong("colour_table")]},
        {"id": "b", "region": {"parts": [PARTS["image"]]}, "adjustments": [strong("exposure")]},
    ]
    return Recipe.model_validate({"name": "Laid over", "steps": steps})


def as_format_1(recipe):
    """The same as the version before wrote it: pictures inside, no ids."""
    data = json.loads(recipe.model_dump_json())
    data["format"] = "lenskeep-recipe/1"
    del data["groups"]
    for step in data["steps"]:
        del step["group"]
        for part in step["region"]["parts"]:
            part.pop("id")
            part["png"] = base64.b64encode(ASSETS[part.pop("picture")]).decode()
        for adjustment in step["adjustments"]:
            adjustment.pop("id")
            for field in ("picture", "data"):
                if field in adjustment:
                    adjustment[field] = base64.b64encode(ASSETS[adjustment[field]]).decode()
    return data


def test_a_file_goes_out_and_comes_in_with_all_it_refers_to():
    recipe = full_recipe()
    assert len(recipe.assets()) == 3
    text = recipe_to_json(recipe, ASSETS)
    again = recipe_from_json(text)
    assert again.recipe == recipe and dict(again.assets) == {key: ASSETS[key] for key in recipe.assets()}
    assert json.loads(text)["format"] == FORMAT and len(json.loads(text)["assets"]) == 3


def test_a_file_of_format_1_is_the_same_recipe():
    recipe = full_recipe()
    read = recipe_from_json(json.dumps(as_format_1(recipe)))
    assert read.recipe == recipe and set(read.assets) == recipe.assets()


def test_a_picture_that_several_use_is_carried_once():
    steps = [{"id": f"s{i}", "adjustments": [strong("overlay")]} for i in range(5)]
    recipe = Recipe.model_validate({"name": "A", "steps": steps})
    assert len(json.loads(recipe_to_json(recipe, ASSETS))["assets"]) == 1


def spoilt(change):
    data = json.loads(recipe_to_json(full_recipe(), ASSETS))
    change(data)
    return json.dumps(data)


def put(data, content):
    """Something else in the place of what the overlay refers to, under its own key."""
    key = asset_key(content)
    data["steps"][0]["adjustments"][0]["picture"] = key
    data["assets"][key] = base64.b64encode(content).decode()


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (lambda d: d.pop("assets"), "mask that is not a PNG"),
        (lambda d: d["assets"].update(dict.fromkeys(d["assets"], "AAAA")), "altered"),
        (lambda d: d["assets"].update(dict.fromkeys(d["assets"], "no base64!")), "altered"),
        (lambda d: d.update(assets=[1]), "assets"),
        (lambda d: put(d, b"not a picture"), "no PNG or JPEG"),
        (lambda d: d["steps"][0]["adjustments"][1].update(size=9), "colour table that is not whole"),
        (lambda d: d["steps"][1]["region"]["parts"][0].update(picture="b" * 64), "mask"),
    ],
)
def test_a_file_whose_pictures_are_not_what_they_should_be_is_refused_in_words(change, words):
    with pytest.raises(UserProblem, match=words):
        recipe_from_json(spoilt(change), "look.json")


def test_what_is_gone_from_the_library_is_told_and_not_left_out():
    with pytest.raises(UserProblem, match="3 of the pictures or tables"):
        recipe_to_json(full_recipe(), {})


@given(st.binary(max_size=60))
def test_any_bytes_are_an_asset_or_none(data):
    assert picture_of(data) is None and grey_of(data) is None and numbers_of(data, 12) is None


def test_assets_come_back_as_they_went_in():
    random = np.random.default_rng(3)
    picture = random.integers(0, 256, (30, 40, 4), np.uint8)
    grey, numbers = picture[..., 0], random.integers(0, 65536, 27, np.uint16)
    assert np.array_equal(picture_of(packed_picture(picture)), picture)
    assert np.array_equal(grey_of(packed_grey(np.ascontiguousarray(grey))), grey)
    assert np.array_equal(numbers_of(packed_numbers(numbers), 27), numbers)
    assert numbers_of(packed_numbers(numbers), 26) is None and numbers_of(packed_numbers(numbers), 28) is None


def test_a_large_picture_is_made_to_fit():
    noise = np.random.default_rng(1).integers(0, 256, (2600, 3000, 4), np.uint8)
    data = packed_picture(noise)
    found = picture_of(data)
    assert len(data) <= 3_000_000 and max(found.shape[:2]) <= 2048
    assert found.shape[1] / found.shape[0] == pytest.approx(3000 / 2600, rel=0.01)


def test_what_was_decoded_is_kept_for_all_who_read_it():
    asked = []
    data = packed_grey(np.full((9, 9), 77, np.uint8))
    first = in_memory({asset_key(data): data})
    assert first.grey(asset_key(data))[0, 0] == 77

    class Counting(dict):
        def get(self, key, otherwise=None):
            asked.append(key)
            return super().get(key, otherwise)

    again = in_memory(Counting())
    assert again.grey(asset_key(data))[0, 0] == 77 and asked == []
    assert again.picture("c" * 64) is None and again.grey("") is None

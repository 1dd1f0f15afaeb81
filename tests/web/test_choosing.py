"""Choosing at the Bench by pictures, and the line-up, over the wire."""

import io
import re

import numpy as np
import pytest
from PIL import Image

from lenskeep.store import frames, looks, recipes
from lenskeep.studio.bench import draft as bench
from lenskeep.studio.book import effects, starters
from tools.made_up import look_recipe


@pytest.fixture
def scene(visitor, shoot):
    bench.load(visitor.library, shoot, look_recipe())
    return shoot


def key_of(visitor, scene):
    return frames.summaries(visitor.library.db, scene)[0].id


def draft(visitor, scene):
    return bench.draft(visitor.library, scene).recipe


def picture(answer):
    assert answer.status_code == 200, answer.text
    return np.asarray(Image.open(io.BytesIO(answer.content)).convert("RGB"), float)


@pytest.mark.parametrize("of", ["effects", "recipes", "blends"])
def test_every_choice_has_a_picture_of_this_frame(visitor, scene, of):
    step = draft(visitor, scene).steps[0].id
    frame = key_of(visitor, scene)
    page = visitor.get(f"/scenes/{scene}/bench/choices?of={of}&frame={frame}&step={step}").text
    sources = [s.replace("&amp;", "&") for s in re.findall(r'src="([^"]+choice\.jpg[^"]+)"', page)]
    assert len(sources) >= {"effects": 60, "recipes": 14, "blends": 16}[of]
    before = bench.state_now(visitor.library, scene)
    some = [picture(visitor.get(s)) for s in sources[:: max(1, len(sources) // 6)]]
    assert max(np.abs(one - some[0]).mean() for one in some[1:]) > 0.3, "they differ"
    assert bench.state_now(visitor.library, scene) == before, "nothing of it enters the history"
    assert picture(visitor.get(sources[0] + "&large=true")).shape[0] >= some[0].shape[0]


def test_an_effect_goes_into_the_step_or_several_stand_below_it(visitor, scene):
    step = draft(visitor, scene).steps[0]
    keys = [e.key for e in effects.ready() if e.shelf == "Tones"][:3]
    visitor.post(f"/scenes/{scene}/bench/choices", json={"keys": keys[:1], "step": step.id})
    assert len(draft(visitor, scene).step(step.id).adjustments) == len(step.adjustments) + 1
    visitor.post(f"/scenes/{scene}/bench/choices", json={"keys": keys, "step": step.id, "own_steps": True})
    below = draft(visitor, scene).steps[1:4]
    assert [s.name for s in below] == ["Straw and slate", "Tea", "Harbour"]
    assert [s.enabled for s in below] == [True, False, False] and all(s.region == step.region for s in below)
    bench.undo(visitor.library, scene)
    assert "Tea" not in [s.name for s in draft(visitor, scene).steps], "taken in one change"
    painted = visitor.post(f"/scenes/{scene}/bench/choices", json={"keys": keys[:1], "paint": True})
    assert painted.status_code == 200 and draft(visitor, scene).steps[-1].region.parts[0].kind == "brush"


def test_what_a_step_does_is_kept_as_an_effect_and_stands_among_them(visitor, scene):
    step = draft(visitor, scene).steps[0].id
    said = visitor.post(f"/scenes/{scene}/bench/effect", json={"step": step, "name": "My lift"}).json()["said"]
    assert "version 1" in said
    again = visitor.post(f"/scenes/{scene}/bench/effect", json={"step": step, "name": "Evening"})
    assert again.status_code == 200
    recipes.save_recipe(visitor.library.db, look_recipe("Dusk"))
    refused = visitor.post(f"/scenes/{scene}/bench/effect", json={"step": step, "name": "Dusk"})
    assert refused.status_code == 422 and "A recipe in the book is called" in refused.text
    assert effects.listed(visitor.library)[0].effect.name in ("Evening", "My lift")
    assert "My lift" in visitor.get(f"/scenes/{scene}/bench/choices?of=effects&frame={key_of(visitor, scene)}").text
    assert [v.name for v in recipes.newest_versions(visitor.library.db)] == ["Dusk"], "effects are no recipes"


def test_a_recipe_comes_in_every_way(visitor, scene):
    step = draft(visitor, scene).steps[0]
    ready = f"ready {starters.starters()[0].name}"
    take = f"/scenes/{scene}/bench/take"
    visitor.post(take, json={"key": ready, "way": "within", "within": step.id})
    [group] = draft(visitor, scene).groups.values()
    assert draft(visitor, scene).limit_of_group(group) == step.region and group.name == starters.starters()[0].name
    refused = visitor.post(take, json={"key": ready, "way": "within"})
    assert refused.status_code == 422 and "Open the step" in refused.text
    saved = recipes.save_recipe(visitor.library.db, look_recipe("Dusk"))
    visitor.post(take, json={"key": str(saved.id), "way": "replace"})
    assert draft(visitor, scene).name == "Dusk" and bench.draft(visitor.library, scene).recipe_id == saved.recipe_id
    late = visitor.post(take, json={"key": ready, "way": "replace", "on": 1})
    assert late.status_code == 409, "somebody changed it meanwhile"
    assert visitor.post(take, json={"key": "ready Moon"}).status_code == 422
    for gone in ("99999", "9" * 30, "²"):
        assert visitor.post(take, json={"key": gone}).status_code == 422


def test_the_line_up_of_a_scene_is_made_measured_and_given(visitor, scene):
    page = visitor.get(f"/scenes/{scene}/line-up").text
    assert page.count("<tr data-frame=") == 4 and "Clean colour" in page
    frame = key_of(visitor, scene)
    chosen = visitor.get(f"/scenes/{scene}/line-up?frame={frame}").text
    assert chosen.count("<tr data-frame=") == 1
    parts = [{"key": "ready Clean colour", "strength": 80}]
    assert picture(visitor.post(f"/frames/{frame}/lined", json={"parts": parts})).mean() > 1
    told = visitor.post("/line-up/measures", json={"frames": [frame], "parts": parts}).json()
    assert set(told) == {"pull", "apart", "warned"}
    given = visitor.post(f"/scenes/{scene}/line-up/give", json={"parts": parts}).json()
    assert given["address"].endswith(f"#scene-{scene}") and looks.look(visitor.library.db, scene).strength == 0.8
    for bad in ({"parts": []}, {"parts": [{"key": "ready Moon"}]}, {"parts": [{"key": "x", "strength": 900}]}):
        assert visitor.post(f"/scenes/{scene}/line-up/give", json=bad).status_code == 422

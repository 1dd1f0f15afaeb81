"""What is another in one recipe than in another, in words; how fast work goes, in words."""

import pytest

from lenskeep.core.pace import pace_words
from lenskeep.core.recipes.differences import differences
from lenskeep.core.recipes.models import Recipe
from tools.made_up import look_recipe


def changed(**steps):
    """The look with some fields of steps changed, by the step's id; None takes it out."""
    plain = look_recipe().model_dump(mode="json")
    plain["steps"] = [s | (steps.get(s["id"]) or {}) for s in plain["steps"] if steps.get(s["id"], {}) is not None]
    return Recipe.model_validate(plain)


@pytest.mark.parametrize(
    ("new", "words"),
    [
        (changed(), []),
        (changed(sky=None), ["“Sky” is gone."]),
        (changed(sky={"strength": 0.5}), ["“Sky”: strength 50 % instead of 100 %."]),
        (changed(sky={"enabled": False, "name": "Clouds"}), ["“Clouds”: was called “Sky”, off."]),
        (changed(subject={"region": {"parts": [{"kind": "sky"}]}}), ["“Subject”: works in sky."]),
        (changed(subject={"blend": "screen"}), ["“Subject”: blended by screen."]),
    ],
)
def test_every_kind_of_change_is_said(new, words):
    assert differences(look_recipe(), new) == words


def test_an_adjustment_that_changed_came_or_went_is_said():
    old, new = look_recipe(), look_recipe(ev=0.8)
    said = differences(old, new)
    assert any("exposure +0.8 EV" in words for words in said)
    bare = changed(sky={"adjustments": []})
    assert differences(look_recipe(), bare) == ["“Sky”: without highlights."]
    assert differences(bare, look_recipe()) == ["“Sky”: highlights −40 %."]


def test_an_added_step_says_what_it_does_and_a_moved_one_that_it_moved():
    old, new = changed(sky=None), look_recipe()
    assert differences(old, new) == ["“Sky” is new: highlights −40 %."]
    turned = Recipe.model_validate(new.model_dump(mode="json") | {"steps": new.model_dump(mode="json")["steps"][::-1]})
    assert {w.split(": ")[1] for w in differences(new, turned)} == {"stands elsewhere in the order."}


@pytest.mark.parametrize(
    ("done", "left", "seconds", "words"),
    [
        (0, 100, 60, ""),
        (10, 100, 2, ""),
        (30, 0, 60, "30 a minute"),
        (30, 90, 60, "30 a minute, about 3 min left"),
        (4, 5, 60, "4.0 a minute, about 1 min left"),
        (60, 20, 60, "60 a minute, about 20 s left"),
        (10, 1500, 60, "10 a minute, about 2 h 30 min left"),
        (10, 1200, 60, "10 a minute, about 2 h left"),
    ],
)
def test_how_fast_it_goes(done, left, seconds, words):
    assert pace_words(done, left, seconds) == words

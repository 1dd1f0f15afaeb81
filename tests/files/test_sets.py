"""Set files: whole sets out and in, equal; what was altered is found, what is not understood is kept."""

import json

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lenskeep.core.names import shown_name, shown_text
from lenskeep.core.recipes.models import Recipe
from lenskeep.files.recipes import RecipeProblem
from lenskeep.files.sets import Entry, SetFile, Unread, hash_of, is_set, set_from_json, set_to_json
from tests.effort import examples
from tools.made_up import look_recipe


def made(**more):
    entries = (Entry("recipe", look_recipe("Dusk"), "dogs evening"), Entry("recipe", look_recipe("Noon", ev=0.1)))
    return SetFile("Pier", entries, "Somebody", "For evenings.", previews={"Dusk": b"jpeg"}, **more)


def data(one):
    return json.loads(set_to_json(one))


def test_a_set_goes_out_and_comes_in_equal():
    text = set_to_json(made())
    assert is_set(text) and set_from_json(text) == made()


@settings(max_examples=examples(25))
@given(
    name=st.text(min_size=1, max_size=20).filter(lambda t: shown_name(t) == t),
    note=st.text(max_size=100).map(shown_text),
    strengths=st.lists(st.floats(0, 2), min_size=1, max_size=4),
)
def test_whatever_is_in_it_reads_back(name, note, strengths):
    recipes = [look_recipe(f"R{n}").model_copy(update={"strength": s}) for n, s in enumerate(strengths)]
    one = SetFile(name, tuple(Entry("recipe", r) for r in recipes), note=note)
    assert set_from_json(set_to_json(one)) == one


def test_an_entry_that_was_altered_is_found_by_name():
    plain = data(made())
    plain["entries"][1]["recipe"]["strength"] = 0.3
    with pytest.raises(RecipeProblem, match="“Noon” was altered"):
        set_from_json(json.dumps(plain))


def test_what_is_not_understood_is_handed_back_and_goes_out_again():
    plain = data(made())
    newer = {"name": "From tomorrow", "steps": [{"id": "a", "adjustments": [{"kind": "moonlight"}]}]}
    plain["entries"].append({"kind": "recipe", "sha256": hash_of(newer), "recipe": newer})
    plain["entries"].append({"kind": "blossom", "sha256": hash_of(newer), "recipe": newer})
    read = set_from_json(json.dumps(plain))
    assert read.entries == made().entries and [u.name for u in read.unread] == ["From tomorrow"] * 2
    assert json.loads(read.unread[0].body) == newer and "kind" in read.unread[1].why
    again = set_from_json(set_to_json(read))
    assert [json.loads(u.body) for u in again.unread] == [newer, newer]


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"format": "lenskeep-set/9"}, "must be"),
        ({"entries": []}, "holds no recipes"),
        ({"entries": "many"}, "holds no recipes"),
        ({"entries": [{"kind": "recipe"}]}, "entry 1 holds no recipe"),
        ({"assets": {"a": 3}}, "named values"),
        ({"assets": {"a": "not base64!"}}, "was altered"),
        ({"previews": []}, "named values"),
    ],
)
def test_a_file_that_is_no_set_says_why(change, words):
    with pytest.raises(RecipeProblem, match=words):
        set_from_json(json.dumps(data(made()) | change))


@pytest.mark.parametrize(
    "text", ["", "[]", "{", "null", '{"format": "lenskeep-set/1", "entries": [NaN]}', "[" * 100_000]
)
def test_whatever_comes_is_a_problem_in_words(text):
    with pytest.raises(RecipeProblem):
        set_from_json(text)


def test_a_picture_that_is_gone_keeps_a_set_from_leaving():
    adjustment = {"kind": "overlay", "picture": "ab" * 32, "name": "x"}
    overlay = {"name": "O", "steps": [{"id": "a", "adjustments": [adjustment]}]}
    with pytest.raises(RecipeProblem, match="gone from the library"):
        set_to_json(SetFile("Lost", (Entry("recipe", Recipe.model_validate(overlay)),)))


def test_an_effect_of_several_steps_is_none():
    plain = data(made())
    plain["entries"][0]["kind"] = "effect"
    read = set_from_json(json.dumps(plain))
    several = len(look_recipe().steps) != 1
    assert bool(read.unread) == several and isinstance(read.unread[0] if several else Unread("", "", ""), Unread)

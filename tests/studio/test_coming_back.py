"""The list that lay beside a hand-over gives frames back what they changed, here or in another library."""

import json

import pytest

from lenskeep.core.clean.models import Healed
from lenskeep.core.problems import UserProblem
from lenskeep.core.repairs.models import Emptied
from lenskeep.store import frames, recipes
from lenskeep.studio import cleaning, deeds, looks, many, repairing
from lenskeep.studio.hand_over import coming_back, proof
from tests.studio.doing import asked, handed, run
from tools.made_up import look_recipe, ready_shoot


def rows(library, shoot):
    return frames.frames(library.db, shoot)


def taken(library, shoot, data):
    path = library.home / "list.json"
    path.write_bytes(data)
    return coming_back.take(library, shoot, path, "list.json")


@pytest.fixture
def delivered(library, tmp_path):
    """(shoot, its list): four frames, of which three change something of themselves."""
    shoot = ready_shoot(library, tmp_path / "card", 4)
    looks.give_look(library, shoot, recipes.save_recipe(library.db, look_recipe()).id, 1.0)
    a, b, c, _ = (f.id for f in rows(library, shoot))
    many.do(library, shoot, [a], asked(what="base", values={"ev": 0.5, "mired": 12}))
    many.do(library, shoot, [a, b], asked(what="strength", strength=0.6))
    cleaning.mark(library, b, [Healed(points=((0.3, 0.3),), size=0.05)])
    repairing.repair(library, c, Emptied(mask="sky"))
    out = handed(library, shoot, tmp_path / "out")
    return shoot, (out / proof.LIST).read_bytes()


def test_frames_are_what_the_list_has_and_undo_takes_it_back(library, delivered):
    shoot, data = delivered
    own = rows(library, shoot)
    many.do(library, shoot, [f.id for f in own], asked(what="look"))
    many.do(library, shoot, [own[0].id], asked(what="base", values={"ev": -0.2}))
    cleaning.undo(library, own[1].id)
    repairing.undo(library, own[2].id)
    run(library)
    changed = [f.override for f in rows(library, shoot)]
    assert changed != [f.override for f in own]
    told = taken(library, shoot, data)
    run(library)
    assert "4 frames changed" in told
    now = rows(library, shoot)
    assert [f.override for f in now] == [f.override for f in own]
    assert [f.result_key for f in now] == [f.wanted_key for f in own], "and the same pictures"
    assert now[2].facts.sky.area == 0, "the repair was done"
    assert "list.json" in deeds.undo(library, shoot)
    assert [f.override for f in rows(library, shoot)] == changed


def test_in_another_library_the_frames_are_known_by_their_originals(library, delivered, tmp_path):
    _, data = delivered
    other = ready_shoot(library, tmp_path / "copy", 2)  # the same photographs in another shoot
    told = taken(library, other, data)
    assert "2 frames changed" in told and "2 of the list are not in this shoot" in told
    assert rows(library, other)[0].override.base.ev == 0.5


def test_what_stands_another_way_up_is_passed_over(library, delivered):
    shoot, data = delivered
    own = rows(library, shoot)
    many.do(library, shoot, [own[0].id], asked(what="turn", by=1))
    before = rows(library, shoot)[0].override
    told = taken(library, shoot, data)
    assert "1 stand another way up" in told and rows(library, shoot)[0].override == before
    many.do(library, shoot, [f.id for f in own[1:]], asked(what="turn", by=1))
    with pytest.raises(UserProblem, match="another way up"):
        taken(library, shoot, data)


def test_a_list_of_something_else_says_so_and_changes_nothing(library, delivered, tmp_path):
    shoot, data = delivered
    held = json.loads(data)
    for one in held["files"]:
        one["original"]["sha256"] = "0" * 64
    before = [f.override for f in rows(library, shoot)]
    for wrong, words in (
        (json.dumps(held).encode(), "another shoot"),
        (b"{}", "neither a gallery"),
        (data[:-20], "no JSON"),
        (json.dumps(json.loads(data) | {"files": [{"own": {"strength": 90}}]}).encode(), "can't be used"),
    ):
        with pytest.raises(UserProblem, match=words):
            taken(library, shoot, wrong)
    assert [f.override for f in rows(library, shoot)] == before


def spoilt(data, change):
    listed = json.loads(data)
    change(listed["files"])
    return json.dumps(listed).encode()


def test_what_is_wrong_with_one_frame_costs_that_frame_alone(library, delivered):
    """Marks beyond number, a picture and a frame that are not there, nonsense: each is said, the others change."""
    shoot, data = delivered
    mark = Healed(points=((0.3, 0.3),), size=0.05).model_dump(mode="json")
    cloned = {"kind": "clone", "points": [[0.3, 0.3]], "size": 0.05, "across": 0.1, "frame": "f" * 64}
    step = {"id": "a", "adjustments": [{"kind": "overlay", "cover": 50, "picture": "e" * 64}]}

    def change(files):
        files[0]["own"]["clean"] = {"done": [mark] * 5000, "undone": []}
        files[1]["own"]["clean"] = {"done": [cloned], "undone": []}
        files[2]["own"]["own"] = [{"recipe": {"name": "Laid over", "steps": [step]}}]

    before = [f.override for f in rows(library, shoot)]
    told = taken(library, shoot, spoilt(data, change))
    assert "1 frame changed" in told and "3 could not be used" in told
    for words in ("clean → done", "not in this library", "not in this shoot"):
        assert words in told
    assert [f.override for f in rows(library, shoot)] == before

    nonsense = spoilt(data, lambda files: files.__setitem__(0, {"file": "x.jpg", "own": 7}))
    assert "1 could not be used: x.jpg" in taken(library, shoot, nonsense)

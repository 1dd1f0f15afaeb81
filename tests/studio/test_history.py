"""The history of a Bench: in words, gone through without loss, with names that outlive everything, and from nothing."""

import threading

import pytest

from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.changes import AddStep, PaintStep, RemoveStep, SetValues
from lenskeep.core.recipes.settings import setting_at
from lenskeep.store import assets, drafts
from lenskeep.studio import bring_in
from lenskeep.studio.bench import draft as bench
from lenskeep.studio.bench import history
from lenskeep.studio.problems import ChangedMeanwhile, Gone
from tests.core.adjustments import STRONG
from tools.made_up import ASSETS, look_recipe


@pytest.fixture
def shoot(library):
    shoot = bring_in.create_shoot(library, "Evening")
    bench.load(library, shoot, look_recipe())
    return shoot


def names(library, shoot):
    return [s.name for s in bench.recipe_now(library, shoot).steps]


def add(library, shoot, where="whole"):
    return bench.change(library, shoot, AddStep(where=where, what="exposure"))


def words(library, shoot):
    return [one.did for one in history.history_of(library, shoot).done]


def test_it_says_in_words_what_was_done_and_goes_to_any_of_it_and_back(library, shoot):
    add(library, shoot)
    bench.change(library, shoot, PaintStep(way="lighter"))
    assert words(library, shoot) == ["a brush of its own", "adding a step", "loading Evening", "start"]
    done = history.history_of(library, shoot).done
    assert [one.present for one in done] == [True, False, False, False]
    whole = names(library, shoot)
    history.go(library, shoot, done[2].state)
    assert len(names(library, shoot)) == len(whole) - 2
    after = history.history_of(library, shoot).done
    assert [one.ahead for one in after] == [True, True, False, False] and words(library, shoot)[
        0
    ] == "a brush of its own"
    history.go(library, shoot, after[0].state)
    assert names(library, shoot) == whole
    assert bench.undo(library, shoot) and len(names(library, shoot)) == len(whole) - 1


def test_a_named_state_comes_back_after_all_else_was_changed_and_forgotten(library, shoot):
    history.name(library, shoot, "  As \n she liked it ")
    kept = bench.recipe_now(library, shoot)
    history.begin_anew(library, shoot)
    assert names(library, shoot) == [] and bench.recipe_now(library, shoot).name == kept.name
    for number in range(drafts.MOST_STATES + 5):
        bench.change(
            library, shoot, SetValues(values=[setting_at("strength", 0.5 + (number % 7) / 10)], said="strength")
        )
    assert "loading Evening" not in words(library, shoot)
    [one] = history.history_of(library, shoot).named
    assert one.name == "As she liked it"
    history.come_back(library, shoot, one.id)
    assert bench.recipe_now(library, shoot) == kept and words(library, shoot)[0] == "coming back to As she liked it"
    assert bench.undo(library, shoot) and names(library, shoot) == []


def test_the_same_name_is_given_to_the_newer_state(library, shoot):
    history.name(library, shoot, "Warm")
    add(library, shoot)
    history.name(library, shoot, "Warm")
    [one] = history.history_of(library, shoot).named
    assert len(one.recipe.steps) == 4
    history.forget(library, shoot, one.id)
    assert history.history_of(library, shoot).named == []
    with pytest.raises(Gone):
        history.come_back(library, shoot, one.id)


def test_what_cannot_be_is_said_in_words(library, shoot):
    with pytest.raises(UserProblem, match="name first"):
        history.name(library, shoot, " \n ")
    with pytest.raises(Gone, match="too far back"):
        history.go(library, shoot, 99999)
    for wrong in ("state 99999", "named 7", "nothing", "state x"):
        with pytest.raises(Gone):
            history.recipe_of(library, shoot, wrong)
    for number in range(history.MOST_NAMED):
        history.name(library, shoot, f"Name {number}")
    with pytest.raises(UserProblem, match="at most"):
        history.name(library, shoot, "one more")
    history.name(library, shoot, "Name 3")


def test_a_state_of_another_shoot_is_never_taken(library, shoot):
    other = bring_in.create_shoot(library, "Other")
    bench.load(library, other, look_recipe("Other look"))
    history.name(library, other, "Theirs")
    theirs = history.history_of(library, other)
    with pytest.raises(Gone):
        history.go(library, shoot, theirs.done[0].state)
    with pytest.raises(Gone):
        history.come_back(library, shoot, theirs.named[0].id)
    history.forget(library, shoot, theirs.named[0].id)
    assert len(history.history_of(library, other).named) == 1


def test_another_window_is_noticed(library, shoot):
    seen = bench.state_now(library, shoot)
    add(library, shoot)
    first = history.history_of(library, shoot).done[-1].state
    for attempt in (
        lambda: history.go(library, shoot, first, seen),
        lambda: history.begin_anew(library, shoot, seen),
    ):
        with pytest.raises(ChangedMeanwhile):
            attempt()
    assert len(names(library, shoot)) == 4


def test_a_named_state_keeps_the_pictures_it_uses(library, shoot):
    assets.keep_assets(library.db, ASSETS)
    added = add(library, shoot).added
    recipe = bench.recipe_now(library, shoot)
    step = recipe.steps[-1].model_dump(mode="json")
    step["adjustments"] = [{"id": "o", "kind": "overlay", **STRONG["overlay"]}]
    bench.go_on_from(
        library, shoot, type(recipe).model_validate({**recipe.model_dump(), "steps": [step]}), "an overlay"
    )
    history.name(library, shoot, "With a frame")
    key = STRONG["overlay"]["picture"]
    bench.change(library, shoot, RemoveStep(step=added))
    for number in range(drafts.MOST_STATES + 5):
        bench.change(
            library, shoot, SetValues(values=[setting_at("strength", 0.5 + (number % 7) / 10)], said="strength")
        )
    assert key not in assets.unused(library.db, "9999")
    history.forget(library, shoot, history.history_of(library, shoot).named[0].id)
    assert key in assets.unused(library.db, "9999")


def test_many_at_once_leave_one_history(library, shoot):
    def work(number):
        add(library, shoot)
        history.name(library, shoot, f"By {number}")

    threads = [threading.Thread(target=work, args=(n,)) for n in range(6)]
    [t.start() for t in threads]
    [t.join() for t in threads]
    found = history.history_of(library, shoot)
    assert len(found.named) == 6 and len(names(library, shoot)) == 9
    assert sum(one.present for one in found.done) == 1

"""Steps of one frame alone, after its look: its own picture, nobody else's; kept, undone, pasted, handed over."""

import csv
import io

import pytest

from lenskeep.core.problems import UserProblem
from lenskeep.core.recipes.layers import Layer, stacked
from lenskeep.core.recipes.overrides import FrameOverride, OwnSteps, StepOverride
from lenskeep.files.reading.photo import read_photo
from lenskeep.store import assets, frames, jobs, looks, recipes
from lenskeep.studio import applying, deeds, many, own_steps
from lenskeep.studio import looks as giving
from lenskeep.studio.hand_over import deliver
from tests.studio.doing import asked, run
from tools.made_up import look_recipe, ready_shoot


@pytest.fixture
def shoot(library, tmp_path):
    return ready_shoot(library, tmp_path / "card", 3)


@pytest.fixture
def version(library):
    return recipes.save_recipe(library.db, look_recipe(ev=0.8))


def rows(library, shoot):
    return frames.frames(library.db, shoot)


def brightness(library, frame):
    return float(read_photo(library.result(frame.result_key)).pixels.mean())


def test_they_come_after_the_look_at_strengths_of_their_own():
    look, mine = look_recipe(), look_recipe(ev=1.0)
    own = FrameOverride(strength=0.5, own=(OwnSteps(recipe=mine, strength=1.5), OwnSteps(recipe=mine, enabled=False)))
    steps = stacked([Layer(look)], own)
    count = len(look.steps)
    assert [s.id for s in steps[count:]] == [f"own{i}.{s.id}" for i in (0, 1) for s in mine.steps]
    assert {s.strength for s in steps[:count]} == {0.5} and {s.strength for s in steps[count : 2 * count]} == {1.5}
    assert not any(s.enabled for s in steps[2 * count :])


def test_what_is_changed_of_the_looks_steps_is_no_matter_of_theirs():
    recipe = look_recipe()
    first = recipe.steps[0].id
    off = {first: StepOverride(enabled=False), f"own0.{first}": StepOverride(strength=0.25)}
    in_look, in_own = (
        next(s for s in stacked([Layer(recipe)], FrameOverride(steps=off, own=(OwnSteps(recipe=recipe),))) if s.id == i)
        for i in (first, f"own0.{first}")
    )
    assert not in_look.enabled and in_own.enabled and in_own.strength == pytest.approx(0.25)


def test_a_frame_without_a_look_has_a_picture_by_them_and_others_none(library, shoot, version):
    first, second, _ = rows(library, shoot)
    own_steps.add(library, first.id, version.id)
    giving_frame = frames.summary(library.db, first.id)
    assert giving_frame.wanted_key and giving_frame.changed
    applying.queue_stale(library, shoot, [first.id])
    run(library)
    assert frames.summary(library.db, first.id).finished and not frames.summary(library.db, second.id).wanted_key
    deeds.undo(library, shoot)
    assert not frames.summary(library.db, first.id).wanted_key


def test_they_are_weakened_switched_and_taken_away(library, shoot, version):
    giving.give_look(library, shoot, version.id, 1.0)
    first = rows(library, shoot)[0]
    run(library)
    plain, before = frames.summary(library.db, first.id).wanted_key, brightness(library, rows(library, shoot)[0])
    own_steps.add(library, first.id, version.id)
    added = frames.summary(library.db, first.id)
    assert added.wanted_key != plain
    applying.queue_stale(library, shoot, [first.id])
    run(library)
    assert abs(brightness(library, rows(library, shoot)[0]) - before) > 3
    own_steps.change(library, first.id, 0, True, 0.5)
    assert frames.summary(library.db, first.id).wanted_key not in (plain, added.wanted_key)
    own_steps.change(library, first.id, 0, False, 0.5)
    assert frames.summary(library.db, first.id).wanted_key == plain, "off is as without"
    own_steps.remove(library, first.id, 0)
    assert not frames.summary(library.db, first.id).changed
    with pytest.raises(UserProblem, match="Reload"):
        own_steps.change(library, first.id, 0, True, 1.0)
    with pytest.raises(UserProblem, match="no longer in the book"):
        own_steps.add(library, first.id, 9999)


def test_taking_one_away_leaves_what_was_changed_of_the_others(library, shoot, version):
    first = rows(library, shoot)[0]
    for _ in range(3):
        own_steps.add(library, first.id, version.id)
    step = version.recipe.steps[0].id
    for place in range(3):
        own = frames.frame(library.db, first.id).override
        changed = own.model_copy(
            update={"steps": {**own.steps, f"own{place}.{step}": StepOverride(strength=0.1 * place)}}
        )
        frames.set_override(library.db, first.id, changed, "x")
    own_steps.remove(library, first.id, 1)
    left = frames.frame(library.db, first.id).override
    assert len(left.own) == 2
    assert {k: v.strength for k, v in left.steps.items()} == {f"own0.{step}": 0.0, f"own1.{step}": pytest.approx(0.2)}


def test_only_so_many_work_on_one_frame(library, shoot, version):
    first = rows(library, shoot)[0]
    for _ in range(8):
        own_steps.add(library, first.id, version.id)
    with pytest.raises(UserProblem, match="At most 8"):
        own_steps.add(library, first.id, version.id)


def test_they_stay_as_given_are_pasted_and_told_in_what_leaves(library, shoot, version):
    first, second, _ = rows(library, shoot)
    giving.give_look(library, shoot, version.id, 1.0)
    own_steps.add(library, first.id, version.id, 0.5)
    recipes.save_recipe(library.db, look_recipe(ev=-2.0))  # a newer version changes nothing here
    assert frames.frame(library.db, first.id).override.own[0].recipe == version.recipe
    many.do(library, shoot, [second.id], asked(what="paste", source=first.id, look=True))
    assert frames.frame(library.db, second.id).override.own == frames.frame(library.db, first.id).override.own
    run(library)
    job = deliver.queue_delivery(library, shoot, deliver.DeliveryOptions())
    run(library)
    folder = deliver.folder_of(library, jobs.job(library.db, job))
    told = list(csv.DictReader(io.StringIO((folder / deliver.SHEET).read_text("utf-8-sig"))))
    assert [row["own steps"] for row in told] == [f"{version.name} 0.5", f"{version.name} 0.5", ""]
    assert looks.look(library.db, first.scene_id).version.id == version.id


def test_a_picture_that_only_they_use_is_kept_in_the_library(library, shoot):
    key = "ab" * 32
    with library.db.writing() as write:
        write.execute("INSERT INTO assets (sha256, bytes, brought_in_at) VALUES (?, 1, '2020')", (key,))
    assert key in assets.unused(library.db, "2030")
    frame = rows(library, shoot)[0]
    overlay = look_recipe().model_dump()
    overlay["steps"][0]["adjustments"] = [{"kind": "overlay", "picture": key, "name": "paper.png"}]
    mine = FrameOverride.model_validate({"own": [{"recipe": overlay}]})
    frames.set_override(library.db, frame.id, mine, "")
    assert key not in assets.unused(library.db, "2030")

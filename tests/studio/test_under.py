"""What a point of a frame means, what was found on it all in all, and regions made of places that were pointed at."""

import numpy as np
import pytest

from lenskeep.core.recipes.edit import EditProblem
from lenskeep.store import frames
from lenskeep.studio.bench import draft as bench
from lenskeep.studio.bench import pointing, under
from lenskeep.studio.bench.stage import Stage, step_alpha
from tools.made_up import ready_shoot

ANIMAL, SKY = (0.5, 0.6), (0.5, 0.1)


@pytest.fixture
def at_work(library, tmp_path):
    shoot = ready_shoot(library, tmp_path / "card", 3)
    stage = Stage(library)
    return library, stage, shoot, frames.frames(library.db, shoot)[0].id


def gather(stage, frame, places, **more):
    asked = [{"x": x, "y": y, "one": one, "away": away} for (x, y), one, away in places]
    return pointing.change_of(stage, {"op": "gather", "frame": frame, "places": asked, **more})


def region_of(at_work, places):
    library, stage, shoot, frame = at_work
    done = bench.change(library, shoot, gather(stage, frame, places, what="exposure"))
    recipe = bench.draft(library, shoot).recipe
    with stage.at_work(frame, 400) as staged:
        return (
            recipe.sentence(recipe.step(done.added)),
            step_alpha(staged.frame, recipe, done.added),
            staged.frame.found,
        )


def test_a_point_means_this_one_or_its_kind(at_work):
    _, stage, _, frame = at_work
    animal, all_animals = under.under(stage, frame, *ANIMAL), under.under(stage, frame, *ANIMAL, one=False)
    assert (animal["name"], all_animals["name"]) == ("this animal", "all animals")
    assert animal["one"] and not all_animals["one"] and animal["other"] and all_animals["other"]
    sky, patch = under.under(stage, frame, *SKY), under.under(stage, frame, *SKY, one=True)
    assert (sky["name"], sky["mask"], patch["name"]) == ("sky", "sky", "this patch of sky")
    assert 0 < sky["share"] < 1 and sky["path"].startswith("M") and sky["id"] != patch["id"]


def test_everything_found_can_be_pointed_at_where_it_says(at_work):
    _, stage, _, frame = at_work
    things = under.everything(stage, frame)
    assert {"this animal", "all animals", "sky"} <= {each["name"] for each in things}
    for each in things:
        again = under.under(stage, frame, each["x"], each["y"], each["one"])
        assert (again["id"], again["name"]) == (each["id"], each["name"])


def test_kinds_are_counted_over_the_scene_without_reading_facts(at_work):
    library, _, shoot, _ = at_work
    told = under.frames_with(library, shoot)
    assert told["of"] == 3 and told["with"]["sky"] == 3 and told["with"]["animals"] == 3
    with library.db.writing() as write:
        write.execute("UPDATE frames SET areas = '', sky_area = 0 WHERE shoot_id = ? AND id % 2 = 0", (shoot,))
    even = sum(f.id % 2 == 0 for f in frames.frames(library.db, shoot))
    assert under.frames_with(library, shoot)["with"]["sky"] == 3 - even


@pytest.mark.parametrize(
    ("places", "words"),
    [
        ([(ANIMAL, True, False)], "picked object"),
        ([(ANIMAL, False, False)], "animals"),
        ([(SKY, False, False), (ANIMAL, False, True)], "sky, without animals"),
        ([(SKY, False, True)], "not sky"),
        ([(SKY, False, True), (ANIMAL, False, True)], "not sky, without animals"),
        ([(ANIMAL, True, True)], "not picked object"),
        ([(SKY, False, False), (ANIMAL, True, False)], "sky and picked object"),
        ([(SKY, False, False), (ANIMAL, True, True)], "sky, without picked object"),
        ([(ANIMAL, True, False), (SKY, True, False)], "picked objects"),
    ],
)
def test_places_become_the_region_that_was_meant(at_work, places, words):
    sentence, alpha, found = region_of(at_work, places)
    assert sentence == words
    wanted = np.zeros(found.shape, bool)
    for number, (where, one, away) in enumerate(places):
        own = found.sky if where == SKY else found.mask("animals")
        if one and where == SKY:
            own = (found.pieces == under.piece_at(found, *SKY).label).astype(np.float32)
        inside = own >= 0.5
        if away and number == 0:
            wanted = ~inside
        elif away:
            wanted &= ~inside
        else:
            wanted |= inside
    assert np.mean((alpha >= 0.5) == wanted) > 0.985


def test_taking_away_within_one_pick_stays_one_part(at_work):
    library, stage, shoot, frame = at_work
    done = bench.change(library, shoot, gather(stage, frame, [(ANIMAL, True, False), (SKY, True, True)]))
    [part] = bench.draft(library, shoot).recipe.step(done.added).region.parts
    assert [p.away for p in part.picks] == [False, True] and not part.else_subject


def test_into_a_step_that_is_there_and_what_cannot_be(at_work):
    library, stage, shoot, frame = at_work
    first = bench.change(library, shoot, gather(stage, frame, [(SKY, False, False)]))
    bench.change(library, shoot, gather(stage, frame, [(ANIMAL, False, True), (SKY, False, False)], step=first.added))
    step = bench.draft(library, shoot).recipe.step(first.added)
    assert [p.kind for p in step.region.parts] == ["sky", "subject", "sky"]
    assert len({p.id for p in step.region.parts}) == 3
    assert bench.undo(library, shoot)
    assert len(bench.draft(library, shoot).recipe.step(first.added).region.parts) == 1
    with pytest.raises(EditProblem, match="no longer"):
        bench.change(library, shoot, gather(stage, frame, [(SKY, False, False)], step="gone"))
    with pytest.raises(EditProblem, match="what the step does"):
        bench.change(library, shoot, gather(stage, frame, [(SKY, False, False)], what="unheard-of"))
    for places in ([], [((2.0, 0.5), True, False)]):
        with pytest.raises(EditProblem):
            gather(stage, frame, places)

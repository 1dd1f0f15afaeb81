"""The line-up: every cell real, columns measured, several mixed as a stack, given to the scene."""

import io

import numpy as np
import pytest
from PIL import Image

from lenskeep.core.problems import UserProblem
from lenskeep.store import frames, looks, recipes
from lenskeep.studio import many
from lenskeep.studio.bench.stage import Stage
from lenskeep.studio.book import choices, line_up, starters
from lenskeep.studio.book.line_up import Column
from tests.studio.doing import asked, run
from tools.made_up import look_recipe, ready_shoot


@pytest.fixture
def shoot(library, tmp_path):
    return ready_shoot(library, tmp_path / "card", 4)


@pytest.fixture
def bright(library):
    return str(recipes.save_recipe(library.db, look_recipe("Bright", ev=0.9)).id)


def rows(library, shoot):
    return frames.frames(library.db, shoot)


def pixels(library, stage, frame, *parts, large=False):
    data = line_up.picture(library, stage, frame, Column(parts), large)
    return np.asarray(Image.open(io.BytesIO(data)).convert("RGB"), float)


def test_a_cell_is_the_frame_with_the_recipe_at_its_strength(library, shoot, bright):
    stage, first = Stage(library), rows(library, shoot)[0]
    plain, half, full = (pixels(library, stage, first, *p) for p in ((), ((bright, 0.5),), ((bright, 1.0),)))
    moved = [np.abs(each - plain).mean() for each in (half, full)]
    assert 0.5 < moved[0] < moved[1]
    assert np.abs(pixels(library, stage, first, (bright, 1.0), (bright, 1.0)) - full).mean() > 0.5, "one upon another"
    assert max(pixels(library, stage, first, large=True).shape) >= max(plain.shape)


def test_a_frames_own_base_counts_and_its_own_look_does_not(library, shoot, bright):
    stage, first = Stage(library), rows(library, shoot)[0]
    before = pixels(library, stage, first, (bright, 1.0))
    many.do(library, shoot, [first.id], asked(what="strength", strength=0.1))
    assert np.array_equal(pixels(library, stage, rows(library, shoot)[0], (bright, 1.0)), before)
    many.do(library, shoot, [first.id], asked(what="base", values={"ev": 1.0}))
    assert pixels(library, stage, rows(library, shoot)[0], (bright, 1.0)).mean() > before.mean() + 5


def test_columns_are_measured_over_all_their_frames(library, shoot, bright):
    stage, own = Stage(library), rows(library, shoot)
    plain = line_up.measured(library, stage, own, Column())
    lit = line_up.measured(library, stage, own, Column(((bright, 2.0),)))
    assert plain.warned == {} and plain.pull is not None and lit.pull is not None
    assert lit.pull.brightness > plain.pull.brightness and plain.apart >= 0
    assert all(0 < count <= len(own) for count in lit.warned.values())


def test_other_versions_can_stand_across(library, shoot, bright):
    newer = recipes.save_recipe(library.db, look_recipe("Bright", ev=0.2))
    [older] = choices.earlier(library, str(newer.id))
    assert (older.key, older.name) == (bright, "Bright, version 1")
    assert [c.name for c in choices.earlier(library, bright)] == ["Bright, version 2"]
    assert choices.earlier(library, "ready Clean colour") == choices.earlier(library, "99999") == []
    stage, first = Stage(library), rows(library, shoot)[0]
    was, now = (pixels(library, stage, first, (key, 1.0)) for key in (older.key, str(newer.id)))
    assert np.abs(was - now).mean() > 3


def test_what_is_mixed_is_given_as_layers_and_ready_ones_go_into_the_book(library, shoot, bright):
    scene = rows(library, shoot)[0].scene_id
    line_up.give(library, scene, Column(((bright, 0.6), ("ready Clean colour", 1.5))))
    run(library)
    look = looks.look(library.db, scene)
    assert [(e.version.name, e.strength) for e in look.layers] == [("Bright", 0.6), ("Clean colour", 1.5)]
    assert look.layers[1].version.recipe == starters.starter("Clean colour")
    assert all(f.finished for f in rows(library, shoot))


def test_what_can_not_be_says_so(library, shoot, bright):
    scene, own = rows(library, shoot)[0].scene_id, rows(library, shoot)
    for parts, words in (
        ((), "Tick the recipes"),
        ((("99999", 1.0),), "no longer there"),
        ((("ready Moon", 1.0),), "no such"),
    ):
        with pytest.raises(UserProblem, match=words):
            line_up.give(library, scene, Column(parts))
    with pytest.raises(UserProblem, match="no longer in the library"):
        line_up.give(library, 999, Column(((bright, 1.0),)))
    with pytest.raises(UserProblem, match="at most 12"):
        line_up.frames_of(library, scene, list(range(1, 14)))
    assert [f.id for f in line_up.frames_of(library, scene, [own[1].id, 777])] == [own[1].id]
    assert len(line_up.frames_of(library, scene, [])) == 4 and looks.look(library.db, scene) is None

"""The book, stacked recipes, effects and line-ups on the command line."""

import json

import numpy as np
import pytest
from PIL import Image

from lenskeep.cli.stacks import stacked
from lenskeep.core.problems import UserProblem
from lenskeep.files.recipes import recipe_to_json
from lenskeep.store import recipes
from lenskeep.studio import looks
from lenskeep.studio.book import effects, shelves
from lenskeep.studio.library import Library
from tools.made_up import DEMO, look_recipe, ready_shoot


@pytest.fixture
def book(tmp_path):
    library = Library(tmp_path / "home")
    recipes.save_recipe(library.db, look_recipe("Dusk"))
    recipes.save_recipe(library.db, look_recipe("Dusk", ev=0.9))
    shelves.file_under(library, recipes.newest_versions(library.db)[0].recipe_id, "Evenings", "dogs")
    return library


def test_stacks_are_read_in_order_with_their_strengths(tmp_path):
    path = tmp_path / "own@2.json"
    path.write_text(recipe_to_json(look_recipe("Own")))
    found = stacked([f"{path}@150%", "Clean colour@60", str(path)], "darker@50", "not people", 0.5)
    assert [round(layer.strength, 3) for layer in found.layers] == [0.75, 0.3, 0.5, 0.25]
    assert [layer.recipe.name for layer in found.layers] == ["Own", "Clean colour", "Own", "Darker"]
    assert found.layers[-1].recipe.steps[0].region.invert
    assert found.title == "Own 150 % + Clean colour 60 % + Own + Darker"


@pytest.mark.parametrize(
    ("names", "effect", "where", "words"),
    [
        ([], None, "whole", "Say what to render with"),
        (["Moonlight"], None, "whole", "neither a file nor a ready recipe"),
        (["Clean colour@900"], None, "whole", "goes to 200 %"),
        ([], "Moonlight", "whole", "neither a file nor a ready effect"),
        ([], "Darker", "moon", "limited to"),
        (["gone.json"], None, "whole", "can't be read"),
    ],
)
def test_what_can_not_be_stacked_says_why(names, effect, where, words):
    with pytest.raises(UserProblem, match=words):
        stacked(names, effect, where)


def test_the_book_is_listed_shown_and_compared(run, book):
    told = json.loads(run("book", "list", "--json"))
    assert told[0]["name"] == "Dusk" and told[0]["version"] == 2 and told[0]["tags"] == ["dogs"]
    assert "Dusk (recipe, version 2, in Evenings)" in run("book", "list")
    shown = run("book", "show", "Dusk")
    assert "version 2" in shown and look_recipe().steps[0].name in shown
    assert "EV" in run("book", "diff", "Dusk@1", "Dusk")
    assert "Nothing that shows" in run("book", "diff", "Dusk", "Dusk")
    assert "Known: Dusk" in run("book", "show", "Moon", code=1)


def test_a_set_goes_out_is_deleted_and_comes_in(run, book, tmp_path):
    out = tmp_path / "set.json"
    run("book", "export", "--set", "Evenings", "--author", "Somebody", "--out", out)
    run("book", "delete", "Dusk")
    assert recipes.newest_versions(book.db) == []
    assert "1 of the set Evenings" in run("book", "import", out)
    assert recipes.newest_versions(book.db)[0].recipe.steps == look_recipe(ev=0.9).steps
    one = tmp_path / "one.json"
    run("book", "export", "Dusk", "--out", one)
    assert "Dusk, version 1" in run("book", "import", one)
    assert "with --set" in run("book", "export", "--out", one, code=1)
    assert "can't be found" in run("book", "import", tmp_path / "gone.json", code=1)


def test_what_is_used_is_not_deleted(run, book, tmp_path):
    shoot = ready_shoot(book, tmp_path / "card", 1)
    looks.give_look(book, shoot, recipes.newest_versions(book.db)[0].id, 1.0)
    assert "in the look of Ready" in run("book", "delete", "Dusk", code=1)


def test_a_stack_with_an_effect_is_rendered_and_lined_up(run, tmp_path):
    photo = tmp_path / "dogs.jpg"
    whole = Image.open(DEMO / "LKD_0201.jpg")
    whole.thumbnail((700, 700))
    whole.save(photo, quality=92)
    run("render", photo, "--recipe", "Clean colour", "--effect", "Darker", "--out", tmp_path / "a")
    run("render", photo, "--recipe", "Clean colour", "--out", tmp_path / "b")
    dark, plain = (np.asarray(Image.open(tmp_path / d / "dogs.jpg"), float).mean() for d in "ab")
    assert dark < plain - 8
    sheet = tmp_path / "sheet.png"
    run("line-up", photo, "--recipe", "Clean colour", "--recipe", "Hard black and white", "--out", sheet)
    pixels = np.asarray(Image.open(sheet), int)
    assert pixels.shape[1] > 3 * 330
    left, right = pixels[60:200, 250:450], pixels[60:200, -300:-100]
    colour = [np.abs(part[..., 0] - part[..., 2]).mean() for part in (left, right)]
    assert colour[0] > 3 > colour[1], "as it came on the left, black and white on the right"
    refused = run("line-up", photo, "--recipe", "Clean colour", "--out", tmp_path / "x.jpg", code=1)
    assert "end in .png" in refused


def test_every_ready_effect_can_be_named():
    names = [e.effect.name for e in effects.ready()]
    assert len(names) == len(set(names)) >= 24 + 20
    for name in names:
        assert stacked([], name).layers[0].recipe.steps[0].adjustments

import numpy as np
import pytest

from lenskeep.core.adjust.colour.colour_table import ColourTable
from lenskeep.core.plan import make_plan
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.render import compile_plan, render_rows
from lenskeep.core.tabled import NoTable, colour_table
from lenskeep.files.assets import in_memory
from lenskeep.files.cube import CubeProblem, read_cube, write_cube
from lenskeep.files.lettering import letters
from lenskeep.files.reading.photo import to_srgb8
from tests.core.adjustments import kept, strong
from tests.core.pictures import adjusted, linear_scene
from tools.made_up import ASSETS, frame_of

TINY = """# made by hand
TITLE "Two by two"
LUT_3D_SIZE 2

DOMAIN_MIN 0 0 0
DOMAIN_MAX 1 1 2
0 0 0   # black
1 0 0
0 1 0
1 1 0
0 0 1
1 0 1
0 1 1
1 1 1
"""


def test_red_changes_fastest_and_domain_title_and_comments_are_read():
    cube = read_cube(TINY, "tiny.cube")
    assert cube.title == "Two by two" and cube.high.tolist() == [1, 1, 2]
    assert cube.entries[1, 0, 0].tolist() == [1, 0, 0] and cube.entries[0, 0, 1].tolist() == [0, 0, 1]
    table = ColourTable.model_validate({"kind": "colour_table", **fields_of(cube)})
    np.testing.assert_allclose(table.table(in_memory(ASSETS)), cube.entries, atol=1e-5)


def test_a_table_of_one_dimension_bends_each_channel_alone():
    steps = np.linspace(0, 1, 256)
    text = "LUT_1D_SIZE 256\n" + "\n".join(f"{v**2:.7f} {v:.7f} {v:.7f}" for v in steps)
    values = {"kind": "colour_table", "share": 100, **fields_of(read_cube(text, "bend.cube"))}
    grey = np.full((20, 30, 3), 0.2140, np.float32)  # encoded 0.5
    out = adjusted(grey, values)
    recoded = colour_table(
        Recipe.model_validate({"steps": [{"id": "a", "adjustments": [values]}]}), 5, in_memory(ASSETS)
    )
    assert recoded[2, 2, 2] == pytest.approx((0.25, 0.5, 0.5), abs=4e-3)
    assert out[10, 10, 2] == pytest.approx(0.2, abs=0.02)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "does not say its size"),
        ("LUT_3D_SIZE 1\n0 0 0", "from 2 to"),
        ("LUT_3D_SIZE two", "whole number"),
        ("LUT_3D_SIZE 2\n0 0 0\n", "should hold 8 colours and holds 1"),
        ("LUT_1D_SIZE 2\n0 0 zero\n1 1 1", "not a number"),
        ("LUT_1D_SIZE 2\n0 0\n1 1 1", "three numbers"),
        ("LUT_1D_SIZE 2\nDOMAIN_MIN 1 1 1\nDOMAIN_MAX 1 1 1\n0 0 0\n1 1 1", "DOMAIN_MAX must be larger"),
        ("LUT_1D_SIZE 2\nDOMAIN_MIN 0 0\n0 0 0\n1 1 1", "line 2"),
    ],
)
def test_a_bad_file_is_told_what_is_wrong(text, words):
    with pytest.raises(CubeProblem, match=words):
        read_cube(text, "bad.cube")


def fields_of(cube):
    """Of a colour table whose entries made-up frames know."""
    fields, data = cube.fields("made-up.cube")
    kept(data)
    return fields


def test_a_recipe_written_as_a_table_and_read_again_does_the_same():
    kinds = ("exposure", "contrast", "warmth", "saturation", "curve", "split_toning")
    steps = [{"id": f"s{i}", "adjustments": [strong(kind)], "strength": 0.5} for i, kind in enumerate(kinds)]
    recipe = Recipe.model_validate({"name": "Toned", "steps": steps})
    cube = read_cube(write_cube(colour_table(recipe, 33), "Toned"), "toned.cube")
    picture = linear_scene()
    whole = {"kind": "colour_table", "share": 100, **fields_of(cube)}

    direct = render_rows(compile_plan(make_plan(recipe), frame_of(picture)), picture.copy())
    off = np.abs(to_srgb8(direct).astype(int) - to_srgb8(adjusted(picture, whole)))
    assert off.mean() < 1.0 and np.percentile(off, 99) <= 6


@pytest.mark.parametrize("kind", ["vignette", "haze", "sharpen", "text_mark"])
def test_what_a_table_cannot_hold_is_refused_by_name(kind):
    recipe = Recipe.model_validate({"steps": [{"id": "a", "name": "The far one", "adjustments": [strong(kind)]}]})
    with pytest.raises(NoTable, match="The far one"):
        colour_table(recipe)


def test_a_damaged_table_in_a_recipe_is_refused():
    for bad in ({"size": 0}, {"size": 200}, {"low": (1, 0, 0)}):
        with pytest.raises(ValueError, match="bring the"):
            ColourTable.model_validate({"kind": "colour_table", "size": 5, "data": "d" * 64} | bad)


def test_lettering_is_as_tall_as_asked_and_longer_for_more_text():
    short, long = letters("Mo", "plain", 60), letters("Mo & Ada at the pier", "bold", 60)
    assert short.shape[0] == long.shape[0] == 60 and long.shape[1] > 3 * short.shape[1]
    assert short.max() == 1.0 and short.min() == 0.0

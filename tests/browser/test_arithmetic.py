"""What the pages reckon themselves is what the server reckons: the same values go through both."""

import itertools

import numpy as np
import pytest

from lenskeep.core.facts import Box, Face, Skyline
from lenskeep.core.recipes.settings import setting_at
from lenskeep.core.regions.anchor import grid, to_pixels
from lenskeep.core.regions.base import Found
from tools.made_up import facts_for

CALL = """
const [given, done] = arguments;
import("/static/js/bench/NAME.js")
  .then((module) => { THEN })
  .then((answer) => done({ answer }), (error) => done({ error: String(error) }));
"""

FACES = [
    Face(box=Box(x0=0.1, y0=0.1, x1=0.15, y1=0.2), score=0.9),
    Face(box=Box(x0=0.4, y0=0.2, x1=0.6, y1=0.5), score=0.7),
]
FRAMES = {
    "all found": {
        "subject_box": Box(x0=0.2, y0=0.3, x1=0.7, y1=0.9),
        "skyline": Skyline(left=0.35, right=0.52),
        "faces": FACES,
    },
    "no subject": {"subject_box": None, "skyline": Skyline(left=0.6, right=0.4)},
    "no skyline": {"subject_box": Box(x0=0.05, y0=0.1, x1=0.4, y1=0.3), "skyline": None},
    "nothing": {"subject_box": None, "skyline": None},
}
ANCHORS = ("frame", "subject", "skyline", "face")


def found_with(facts):
    return Found(picture=np.zeros((80, 120, 3), np.float32), masks={}, facts=facts_for(80, 120, **facts))


def as_page_has_it(facts):
    box, line = facts["subject_box"], facts["skyline"]
    face = found_with(facts).facts.largest_face
    return {
        "face": face and [face.x0, face.y0, face.x1, face.y1],
        "box": box and [box.x0, box.y0, box.x1, box.y1],
        "line": line and [line.left, line.right],
    }


@pytest.fixture(scope="module")
def reckoned(desk):
    """Has a script of the Bench reckon something; the page need not be the Bench."""
    desk.driver.get(desk.address)

    def call(name, then, given):
        got = desk.driver.execute_async_script(CALL.replace("NAME", name).replace("THEN", then), given)
        assert "error" not in got, got.get("error")
        return got["answer"]

    return call


@pytest.mark.parametrize("name", FRAMES)
@pytest.mark.parametrize("anchor", ANCHORS)
def test_a_handle_stands_where_the_part_is_drawn(reckoned, name, anchor):
    found = found_with(FRAMES[name])
    points = np.random.default_rng(7).uniform(-0.5, 1.5, (20, 2)).astype(np.float32)
    given = {"anchor": anchor, "facts": as_page_has_it(FRAMES[name]), "points": points.tolist()}
    then = "const a = module.anchored(given.anchor, given.facts); return given.points.map(([u, v]) => a.from(u, v));"
    on_page = np.array(reckoned("anchors", then, given))
    in_python = to_pixels(anchor, found, points) / np.array([120, 80])
    np.testing.assert_allclose(on_page, in_python, atol=2e-6)


@pytest.mark.parametrize("name", FRAMES)
@pytest.mark.parametrize("anchor", ANCHORS)
def test_a_place_on_the_frame_gets_the_coordinates_a_part_sees_there(reckoned, name, anchor):
    found = found_with(FRAMES[name])
    u, v = np.broadcast_arrays(*grid(anchor, found), np.empty(found.shape))[:2]
    rows, columns = np.arange(0, 80, 13), np.arange(0, 120, 17)
    places = [((x + 0.5) / 120, (y + 0.5) / 80) for y, x in itertools.product(rows, columns)]
    given = {"anchor": anchor, "facts": as_page_has_it(FRAMES[name]), "points": places}
    then = "const a = module.anchored(given.anchor, given.facts); return given.points.map(([x, y]) => a.to(x, y));"
    on_page = np.array(reckoned("anchors", then, given))
    in_python = [(u[y, x], v[y, x]) for y, x in itertools.product(rows, columns)]
    np.testing.assert_allclose(on_page, in_python, atol=2e-5)


@pytest.mark.parametrize(("before", "after"), list(itertools.permutations(ANCHORS, 2)))
def test_another_anchor_moves_nothing_on_the_key_frame(reckoned, before, after):
    found = found_with(FRAMES["all found"])
    pool = {"x": 0.3, "y": 0.55, "rx": 0.2, "ry": 0.1}
    ramp = {"x1": 0.1, "y1": 0.2, "x2": 0.8, "y2": 0.6}
    given = {"before": before, "after": after, "facts": as_page_has_it(FRAMES["all found"]), "pool": pool, "ramp": ramp}
    then = "return ['pool', 'ramp'].map((k) => module.reanchored(k, given[k], given.before, given.after, given.facts));"
    new_pool, new_ramp = reckoned("anchors", then, given)
    assert new_pool["anchor"] == new_ramp["anchor"] == after

    def corners(anchor, p):
        return to_pixels(anchor, found, np.array([[p["x1"], p["y1"]], [p["x2"], p["y2"]]], np.float32))

    np.testing.assert_allclose(corners(after, new_ramp), corners(before, ramp), atol=1e-3)

    def middle_and_size(anchor, p):
        middle = np.array([[p["x"], p["y"]], [p["x"] + p["rx"], p["y"]], [p["x"], p["y"] + p["ry"]]], np.float32)
        there = to_pixels(anchor, found, middle)
        return there[0], there[1, 0] - there[0, 0], there[2, 1] - there[0, 1]

    for new, old in zip(middle_and_size(after, new_pool), middle_and_size(before, pool), strict=True):
        np.testing.assert_allclose(new, old, atol=1e-3)


PLACES = (
    "strength",
    "steps/s-1/strength",
    "steps/s-1/name",
    "steps/s-1/adjustments/a-1/ev",
    "steps/s-1/adjustments/a-1/points",
    "steps/s-1/shared/invert",
    "steps/s-1/region/feather",
    "steps/s-1/region/parts/p1/x",
    "regions/r-1/name",
    "regions/r-1/region/snap",
    "regions/r-1/region/parts/p2/anchor",
    "groups/g-1/strength",
    "groups/g-1/limit/feather",
    "groups/g-1/limit/parts/p3/combine",
)


def test_a_field_of_the_page_means_the_same_place_to_the_server(reckoned):
    values = [0.5, "words", True, [[0, 0], [1, 1]]]
    asked = [[place, value] for place in PLACES for value in values]
    then = "return given.map(([place, value]) => module.settingAt(place, value));"
    for (place, value), on_page in zip(asked, reckoned("settings", then, asked), strict=True):
        assert on_page == setting_at(place, value).model_dump(mode="json"), place


def test_what_is_of_a_region_is_drawn_anew_and_nothing_else(reckoned):
    then = "return given.map((place) => module.isOfRegion(place));"
    for place, on_page in zip(PLACES, reckoned("settings", then, PLACES), strict=True):
        refs = setting_at(place, "x").of
        assert on_page == (refs in ("region", "part", "use")), place

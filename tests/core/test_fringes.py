"""Fringes: purple and green beside edges against the light go; colours that belong there, and light, stay."""

import numpy as np
import pytest

from lenskeep.core.colour.oklab import from_oklab, to_oklab
from lenskeep.core.plan import make_plan
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.render import compile_plan, render_rows
from tools.made_up import frame_of

H, W = 120, 640
HUES = {"purple": np.radians(318.0), "green": np.radians(148.0)}


def branches(hue=None):
    """Dark branches before a bright sky, with seams of a hue beside them; and where the seams are."""
    lab = np.zeros((H, W, 3), np.float32)
    lab[..., 0] = 0.95
    x = np.arange(W) % 40
    lab[:, x < 8, 0] = 0.2
    seam = np.zeros((H, W), bool)
    seam[:, (x == 8) | (x == 39)] = True
    if hue is not None:
        lab[seam, 0], lab[seam, 1], lab[seam, 2] = 0.6, 0.12 * np.cos(hue), 0.12 * np.sin(hue)
    else:
        lab[seam, 0] = 0.6
    return np.asarray(from_oklab(lab), np.float32), seam


def defringed(picture, **amounts):
    recipe = Recipe.model_validate(
        {"steps": [{"id": "f", "adjustments": [{"kind": "fringes", "width": 20, **amounts}]}]}
    )
    frame = frame_of(picture)
    frame.width, frame.height = W, H
    return render_rows(compile_plan(make_plan(recipe), frame), picture.copy())


def chroma(picture):
    lab = to_oklab(np.ascontiguousarray(picture))
    return np.hypot(lab[..., 1], lab[..., 2])


@pytest.mark.parametrize("name", HUES)
def test_a_seam_goes_and_its_light_stays(name):
    picture, seam = branches(HUES[name])
    out = defringed(picture, **{name: 100})
    assert chroma(out)[seam].mean() < 0.25 * chroma(picture)[seam].mean()
    light = [to_oklab(np.ascontiguousarray(p))[..., 0][seam] for p in (picture, out)]
    assert np.abs(light[0] - light[1]).max() < 0.01
    assert np.allclose(out[~seam], picture[~seam], atol=0.01)


def test_the_other_hue_an_orange_seam_and_a_colour_away_from_edges_stay():
    picture, seam = branches(HUES["purple"])
    assert np.array_equal(defringed(picture, green=100)[seam], picture[seam])
    orange, seam = branches(np.radians(60.0))
    assert np.allclose(defringed(orange, purple=100, green=100), orange, atol=1e-3)
    lab = np.full((H, W, 3), 0.6, np.float32)
    lab[..., 1], lab[..., 2] = 0.12 * np.cos(HUES["purple"]), 0.12 * np.sin(HUES["purple"])
    flowers = np.asarray(from_oklab(lab), np.float32)
    assert np.array_equal(defringed(flowers, purple=100), flowers)


def test_half_the_amount_takes_half():
    picture, seam = branches(HUES["purple"])
    half, whole = (chroma(defringed(picture, purple=p))[seam].mean() for p in (50, 100))
    assert (half - whole) / (chroma(picture)[seam].mean() - whole) == pytest.approx(0.5, abs=0.06)

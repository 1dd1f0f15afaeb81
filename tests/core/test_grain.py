"""Film grain: as strong as it says, most in the middle tones, without a cast, made of a tile that joins itself."""

import numpy as np
import pytest

from lenskeep.core.adjust.finish.grain import DEVIATION, levels, stops
from lenskeep.core.colour.oklab import to_oklab
from lenskeep.core.engine.ops import tone_positions
from lenskeep.core.plan import make_plan
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.render import compile_plan, render_rows
from tools.made_up import frame_of


def grained(lightness, **values):
    picture = np.full((512, 768, 3), lightness**3, np.float32)
    recipe = Recipe.model_validate({"name": "G", "steps": [{"id": "g", "adjustments": [{"kind": "grain", **values}]}]})
    frame = frame_of(picture)
    return to_oklab(render_rows(compile_plan(make_plan(recipe), frame), picture.copy()))


def test_the_middle_has_what_it_says_and_the_ends_have_less():
    spread = {light: float(grained(light, grain=100, size=200, colour=0)[..., 0].std()) for light in (0.2, 0.5, 0.93)}
    assert spread[0.5] == pytest.approx(DEVIATION, rel=0.25)
    assert spread[0.2] < spread[0.5] and spread[0.93] < 0.75 * spread[0.5]


def test_half_the_amount_is_half_the_grain_and_none_is_none():
    half, full = (float(grained(0.5, grain=g, size=200, colour=0)[..., 0].std()) for g in (50, 100))
    assert half == pytest.approx(full / 2, rel=0.08)
    assert float(grained(0.5, grain=0)[..., 0].std()) < 1e-4


def test_it_casts_no_colour_and_brightens_nothing():
    for colour in (0, 100):
        lab = grained(0.5, grain=100, size=200, colour=colour)
        assert np.abs(lab[..., 1:].reshape(-1, 2).mean(0)).max() < 0.004
        assert float(lab[..., 0].mean()) == pytest.approx(0.5, abs=0.006)
    assert grained(0.5, grain=100, size=200, colour=0)[..., 1].std() < 1e-3
    assert grained(0.5, grain=100, size=200, colour=100)[..., 1].std() > 5e-3


def test_its_tile_joins_itself_and_gets_weaker_where_grains_are_averaged():
    first, *smaller = levels()
    for channel in range(3):
        plane = first[..., channel]
        assert abs(float(plane.mean())) < 1e-3 and float(plane.std()) == pytest.approx(1.0, abs=1e-3)
        across = np.abs(plane[:, 0] - plane[:, -1]).mean()
        assert across == pytest.approx(np.abs(plane[:, 1] - plane[:, 0]).mean(), rel=0.1)
    assert all(a[..., 0].std() > b[..., 0].std() for a, b in zip([first, *smaller], smaller, strict=False))
    assert np.all(first[..., 3] == 0)


def test_its_strength_over_tones_is_smooth_and_finite():
    found = stops()
    assert found.shape == tone_positions().shape and np.isfinite(found).all() and (found >= 0).all()
    assert found.max() < 1.2 and np.abs(np.diff(found)).max() < 0.05

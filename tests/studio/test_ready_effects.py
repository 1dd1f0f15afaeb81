"""The ready effects: each says when it serves, does something that can be seen, and stays within what files hold."""

import re

import numpy as np
import pytest

from lenskeep.core.colour.oklab import delta_e
from lenskeep.core.measure.guards import faults
from lenskeep.core.plan import make_plan
from lenskeep.core.render import compile_plan, render_rows
from lenskeep.studio.book import effects
from tools.made_up import found_on_demo

NAMES = [each.effect.name for each in effects.ready()]
FAINT = {"Reds held", "Linen", "Paper, light", "Canvas, light", "Grain, light"}


@pytest.fixture(scope="module")
def frame():
    return found_on_demo("DUN_0310.jpg")


@pytest.mark.parametrize("name", NAMES)
def test_each_does_what_can_be_seen_and_nothing_wild(name, frame):
    effect = next(e.effect for e in effects.ready() if e.effect.name == name)
    assert len(effect.note) >= 18 and effect.note.endswith(".") and not re.search(r"[A-Z]{4}", effect.note)
    out = render_rows(compile_plan(make_plan(effect.as_recipe()), frame), frame.proxy.copy())
    moved = delta_e(out, frame.proxy)
    assert np.isfinite(out).all() and float(moved.mean()) < 0.2
    assert float(np.percentile(moved, 99)) > (0.002 if name in FAINT else 0.006)
    skin = np.zeros(out.shape[:2], np.float32)
    wrong = faults(frame.proxy, out, skin, [], ("neon", "gamut")).figures
    assert wrong["neon"] < 1.0 and wrong["gamut"] < 2.0


def test_there_are_enough_in_sets_and_no_name_twice():
    shelves = {each.shelf for each in effects.ready()}
    tones = [e for e in effects.ready() if e.shelf == "Tones"]
    assert len(NAMES) == len(set(NAMES)) and len(NAMES) - len(tones) >= 24 and len(tones) >= 20 and len(shelves) >= 6

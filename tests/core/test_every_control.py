"""Every number, choice and tick on every sheet of the Bench changes the picture: none is there for show."""

from functools import lru_cache

import cv2
import numpy as np
import pytest

from lenskeep.core.adjust import KINDS
from lenskeep.core.plan import make_plan
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.render import compile_plan, render
from tests.core.adjustments import STRONG
from tools.made_up import frame_of, scene

LARGE = ("fringes", "sharpen", "denoise", "painterly", "grain", "surface")
"""What works on less than a pixel of a small picture is looked at on a larger one."""
BESIDE = {
    ("channel_mix", "red_from_red"): {"keep_greys": False},
    ("channel_mix", "green_from_green"): {"keep_greys": False},
    ("channel_mix", "blue_from_blue"): {"keep_greys": False},
    ("painterly", "direction"): {"drawn_out": 70},
    ("text_mark", "spacing"): {"text": "Lens|Keep"},
    ("balance", "most_ev"): {"to": "its own middle"},
    ("balance", "most_mired"): {"to": "its own middle"},
    ("balance", "source"): {"to": "its own middle", "most_ev": 2},
    ("overlay", "fit"): {"turned": "a quarter right"},
    ("overlay", "across"): {"size": 50},
    ("overlay", "down"): {"size": 50},
}
"""What has to be set beside a control for it to mean something, as its help says."""
ELSEWHERE = {"table", "picture", "held", "curve", "colour", "text"}
"""Editors with tests of their own."""


@lru_cache(maxsize=4)
def linear(height, light):
    """Sky, ground, a subject; patches of every hue; a purple rim beside light; grain."""
    picture = scene(height, 3 * height // 2, 3).astype(np.float32)
    n = height // 15
    hues = cv2.cvtColor(np.array([[[h, 200, 200] for h in range(0, 180, 15)]], np.uint8), cv2.COLOR_HSV2RGB)[0]
    for i, hue in enumerate(hues):
        picture[-2 * n :, i * n : (i + 1) * n] = hue
    rim = max(1, height // 90)
    picture[n : 2 * n, : 4 * n], picture[2 * n : 2 * n + rim, : 4 * n] = 250, (150, 40, 190)
    picture[2 * n + rim : 3 * n, : 4 * n] = 8
    picture += np.random.default_rng(4).normal(0, 6, picture.shape)
    return (light * (np.clip(picture, 0, 255) / 255.0) ** 2.2).astype(np.float32)


def drawn(kind, **values):
    step = (
        {"id": "a", "region": {"parts": [{"kind": "subject"}], "invert": True}} if "source" in values else {"id": "a"}
    )
    recipe = Recipe.model_validate({"steps": [step | {"adjustments": [{"kind": kind, **values}]}]})
    rgb = linear(600 if kind in LARGE else 120, 0.25 if kind == "balance" else 0.7)
    program = compile_plan(make_plan(recipe), frame_of(rgb))
    return render(program, lambda a, b: rgb[a:b].copy(), *rgb.shape[:2]).astype(int)


def differ(pictures):
    return max(np.abs(pictures[0] - other).max() for other in pictures[1:])


NUMBERS = [(k, c) for k, cls in KINDS.items() for c in cls.controls() if not c.name.startswith("held_")]


@pytest.mark.parametrize(("kind", "control"), NUMBERS, ids=[f"{k}-{c.name}" for k, c in NUMBERS])
def test_every_number_changes_the_picture(kind, control):
    held = STRONG.get(kind, {}) | BESIDE.get((kind, control.name), {})
    span = control.high - control.low
    values = [control.low + share * span for share in (0.1, 0.5, 0.85)]
    assert differ([drawn(kind, **held | {control.name: v}) for v in values]) > 1


EXTRAS = [(k, x) for k, cls in KINDS.items() for x in cls.extras() if x.editor not in ELSEWHERE]


@pytest.mark.parametrize(("kind", "extra"), EXTRAS, ids=[f"{k}-{x.name}" for k, x in EXTRAS])
def test_every_choice_and_tick_changes_the_picture(kind, extra):
    held = STRONG.get(kind, {}) | BESIDE.get((kind, extra.name), {})
    if kind == "text_mark" and extra.name == "face":
        pytest.skip("made-up letters have one face; the real ones are looked at in tests of lettering")
    options = extra.options if extra.editor == "choice" else (True, False)
    assert differ([drawn(kind, **held | {extra.name: option}) for option in options]) > 0

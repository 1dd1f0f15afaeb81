"""A cut of a frame is, bit for bit, the same part of the whole frame rendered: what is seen closely is what leaves."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lenskeep.core.engine.encode import ENCODERS
from lenskeep.core.engine.planes import smaller
from lenskeep.core.engine.run import guides_of
from lenskeep.core.plan import make_plan
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.render import Cut, Fitted, compile_plan, compile_steps, render, render_cut, render_rows
from tests.core.adjustments import STRONG, strong
from tests.core.parts import PARTS, found
from tests.effort import examples
from tools.made_up import frame_of, scene

H, W, PROXY = 700, 1037, 300
SUBJECT, SKY = {"kind": "subject"}, {"kind": "sky"}
ERASED = {"points": [[0.4, 0.5], [0.6, 0.6]], "size": 0.05, "erase": True}
STROKE = {"points": [[0.2, 0.3], [0.5, 0.6], [0.8, 0.55]], "size": 0.12, "hardness": 0.7}


def of(kind):
    return {"id": "x", **strong(kind)}


def looks():
    """A recipe for every adjustment on the subject; those that look at neighbours after a first step, and with all."""
    for kind in STRONG:
        yield (
            kind,
            [{"id": "a", "name": kind, "region": {"parts": [SUBJECT]}, "adjustments": [of(kind)]}],
        )
    many = [
        {"id": f"s{n}", "name": kind, "region": {"parts": [part]}, "adjustments": [of(kind)], "strength": 0.6}
        for n, (kind, part) in enumerate(
            [
                ("glow", SKY),
                ("haze", {"kind": "background"}),
                ("sharpen", SUBJECT),
                ("text_mark", {"kind": "ramp"}),
                ("overlay", {"kind": "pool"}),
                ("sharpen", {"kind": "brush", "strokes": [STROKE]}),
                ("exposure", {"kind": "brush", "strokes": [STROKE | {"edge_aware": True}, ERASED]}),
                ("surface", {"kind": "tone_range", "low": 30}),
                ("vignette", SKY),
            ]
        )
    ]  # fmt: skip
    yield "everything", many
    yield "sharpened twice", [s for s in many if s["name"] == "sharpen"]


LOOKS = dict(looks())


@pytest.fixture(scope="module")
def picture():
    return np.ascontiguousarray((scene(H, W, seed=3) / np.float32(255.0)) ** 2.2, np.float32)


@pytest.fixture(scope="module")
def wholes(picture):
    """What each look makes of the frame, rendered when it is first asked for."""
    made = {}

    def of(name):
        if name not in made:
            recipe = Recipe.model_validate({"name": name, "steps": LOOKS[name]})
            frame = frame_of(smaller(picture, PROXY))
            stages = compile_plan(make_plan(recipe), frame)
            made[name] = stages, render(stages, lambda a, b: picture[a:b].copy(), H, W, threads=2)
        return made[name]

    return of


def seen(stages, picture, cut, **how):
    return render_cut(stages, lambda a, b, c, d: picture[a:b, c:d].copy(), cut, H, W, **how)


@pytest.mark.parametrize("name", LOOKS)
def test_a_cut_is_the_same_part_of_the_whole(name, wholes, picture):
    stages, whole = wholes(name)
    for cut in (Cut(0, 0, W, H), Cut(331, 127, 290, 260), Cut(W - 77, H - 131, 77, 131), Cut(500, 255, 1, 3)):
        part = seen(stages, picture, cut)
        assert np.array_equal(part, whole[cut.y : cut.y + cut.height, cut.x : cut.x + cut.width]), cut


@settings(max_examples=examples(25))
@given(st.integers(0, W - 1), st.integers(0, H - 1), st.integers(1, 420), st.integers(1, 420), st.sampled_from([1, 2]))
def test_wherever_it_lies_and_however_large_it_is(wholes, picture, x, y, wide, tall, threads):
    stages, whole = wholes("everything")
    cut = Cut(x, y, min(wide, W - x), min(tall, H - y))
    part = seen(stages, picture, cut, threads=threads)
    assert np.array_equal(part, whole[y : y + cut.height, x : x + cut.width])


WIDE, LOW = 4300, 40


@pytest.mark.parametrize("name", ["exposure", "everything"])
def test_planes_brought_to_a_small_size_draw_what_the_large_ones_do(name, picture):
    """What guards look at: a small picture, its planes no larger than itself."""
    frame = frame_of(smaller(picture, PROXY))
    small = smaller(picture, 120)
    steps = [s for s in LOOKS[name] if s["region"]["parts"][0]["kind"] != "brush"]
    compiled = compile_steps(make_plan(Recipe.model_validate({"name": name, "steps": steps})), frame)
    guides = guides_of(small)
    whole = render_rows(compiled.stages(), small.copy(), guides)
    assert compiled.steps[0][-1].planes[0].shape[1] > small.shape[1]
    fitted = compiled.at_size(Fitted(*small.shape[:2]))
    np.testing.assert_allclose(render_rows(fitted.stages(), small.copy(), guides), whole, atol=2e-4)


@pytest.fixture(scope="module")
def wide():
    """A frame so wide that its rows are worked on in several blocks of columns, with colours outside sRGB."""
    rows = np.ascontiguousarray((scene(LOW, WIDE, seed=5) / np.float32(255.0)) ** 2.2, np.float32)
    rows[..., 0] *= np.linspace(0.6, 1.8, WIDE, dtype=np.float32)
    stages = compile_plan(
        make_plan(Recipe.model_validate({"name": "wide", "steps": LOOKS["everything"]})),
        frame_of(smaller(rows, PROXY)),
    )
    made = {e: render(stages, lambda a, b: rows[a:b].copy(), LOW, WIDE, encoder=ENCODERS[e]) for e in ENCODERS}
    return rows, stages, made


@settings(max_examples=examples(30))
@given(st.integers(0, WIDE - 1), st.integers(1, 2600), st.sampled_from(list(ENCODERS)))
def test_wherever_it_lies_among_blocks_of_columns(wide, x, across, encoder):
    rows, stages, made = wide
    cut = Cut(x, 7, min(across, WIDE - x), 21)
    part = render_cut(stages, lambda a, b, c, d: rows[a:b, c:d].copy(), cut, LOW, WIDE, encoder=ENCODERS[encoder])
    assert np.array_equal(part, made[encoder][7:28, x : x + cut.width])


@pytest.mark.parametrize("encoder", ENCODERS)
def test_in_every_depth_and_space(encoder, wholes, picture):
    stages, _ = wholes("everything")
    how = {"encoder": ENCODERS[encoder], "space": "display-p3"}
    whole = render(stages, lambda a, b: picture[a:b].copy(), H, W, **how)
    cut = Cut(390, 201, 300, 201)
    assert np.array_equal(seen(stages, picture, cut, **how), whole[201:402, 390:690])


def test_strips_and_cuts_of_parts_drawn_at_this_size_agree(picture):
    """Every part of a region, on a frame that has them all."""
    steps = [
        {"id": f"s{n}", "name": name, "region": {"parts": [part]}, "adjustments": [of("exposure")]}
        for n, (name, part) in enumerate(PARTS.items())
    ]  # fmt: skip
    frame = frame_of(smaller(picture, PROXY))
    frame.found = found(*frame.proxy.shape[:2])
    stages = compile_plan(make_plan(Recipe.model_validate({"name": "parts", "steps": steps})), frame)
    whole = render(stages, lambda a, b: picture[a:b].copy(), H, W)
    cut = Cut(203, 311, 512, 200)
    assert np.array_equal(seen(stages, picture, cut), whole[311:511, 203:715])

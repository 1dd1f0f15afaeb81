"""What is measured on each frame instead of carried as numbers: tones by share, colours where the subject is, faces."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lenskeep.core.colour.oklab import to_oklab
from lenskeep.core.facts import Box, Face
from lenskeep.core.plan import make_plan
from lenskeep.core.recipes.layers import Layer, masks_used
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.regions import PART_KINDS, Region
from lenskeep.core.regions.base import Found
from lenskeep.core.regions.kinds.tone_range import darker_share
from lenskeep.core.render import compile_plan, render_rows
from lenskeep.core.tabled import fits_a_table
from tests.effort import examples
from tools.made_up import facts_for, frame_of, scene


def found_on(linear, **facts):
    return frame_of(linear.astype(np.float32), **facts).found


def picture(ev=0.0):
    return np.clip((scene(120, 180) / 255.0) ** 2.2 * 2.0**ev, 0, 4)


def part(kind, **values):
    return PART_KINDS[kind].model_validate(values)


@pytest.mark.parametrize("share", [10, 25, 60])
def test_the_brightest_share_is_that_share_of_every_frame(share):
    brightest = part("tone_range", by="share of the frame", low=100 - share, high=100, soft_low=0)
    areas = [float(brightest.alpha(found_on(picture(ev))).mean()) for ev in (-2.0, 0.0, 0.7)]
    assert all(abs(area - share / 100) < 0.03 for area in areas)
    fixed = part("tone_range", low=60, high=100, soft_low=0)
    a, b = (float(fixed.alpha(found_on(picture(ev))).mean()) for ev in (-2.0, 0.7))
    assert abs(a - b) > 0.2, "a range of lightness is not"


@settings(max_examples=examples(40))
@given(st.lists(st.floats(0, 100, width=32), min_size=4, max_size=60))
def test_shares_rise_with_lightness_and_lie_between_0_and_100(values):
    lightness = np.array(values, np.float32).reshape(1, -1)
    share = darker_share(lightness)[0]
    order = np.argsort(lightness[0], kind="stable")
    assert (np.diff(share[order]) >= -1e-3).all() and share.min() >= 0 and share.max() <= 100


def test_in_proportion_to_lightness():
    found = found_on(picture())
    plain = part("tone_range", low=0, high=100).alpha(found)
    own = part("tone_range", low=0, high=100, proportional=True).alpha(found)
    light = np.clip(found.lab[..., 0], 0, 1)
    assert np.corrcoef(own.ravel(), light.ravel())[0, 1] > 0.99 and (own <= plain + 1e-6).all()


def test_words_say_what_is_measured():
    assert part("tone_range", by="share of the frame", low=80, high=100).words() == "the brightest 20 %"
    assert part("tone_range", by="share of the frame", low=0, high=30).words() == "the darkest 30 %"
    assert (
        part("tone_range", low=60, high=100, proportional=True).words() == "tones over 60, in proportion to lightness"
    )
    match = part("colour_match", samples=[(0.6, 0.06, 0.1)], within="the subject")
    assert match.words() == "matched colour within the subject"


def test_a_colour_within_the_subject_follows_the_light_and_stays_there():
    sample = [tuple(float(v) for v in found_on(picture()).lab[72, 90])]
    dark = found_on(picture(-1.5))
    plain = part("colour_match", samples=sample).alpha(dark)
    within = part("colour_match", samples=sample, within="the subject").alpha(dark)
    inner = np.s_[62:82, 80:100]
    assert within[inner].mean() > 0.9 > 0.5 > plain[inner].mean()
    assert within[:40].max() < 0.02 and within[100:, :40].max() < 0.02
    around = part("colour_match", samples=sample, within="the background").alpha(dark)
    assert around[inner].max() < 0.02


def test_what_came_later_leaves_keys_as_they_were_while_it_is_neutral():
    def key(**values):
        step = {"id": "a", "name": "A", "region": {"parts": [values]}, "adjustments": [{"kind": "exposure", "ev": 1}]}
        return make_plan(Recipe.model_validate({"name": "A", "steps": [step]})).key()

    assert key(kind="tone_range") == key(kind="tone_range", by="lightness", proportional=False)
    assert key(kind="tone_range") != key(kind="tone_range", by="share of the frame")
    assert key(kind="colour_match") != key(kind="colour_match", within="the subject")
    for kind, cls in PART_KINDS.items():
        assert set(cls.later) <= set(cls.model_fields), kind


def test_a_pool_on_a_face_lies_on_the_largest_one():
    faces = [
        Face(box=Box(x0=0.1, y0=0.1, x1=0.16, y1=0.2), score=0.9),
        Face(box=Box(x0=0.6, y0=0.3, x1=0.8, y1=0.6), score=0.8),
    ]
    facts = facts_for(100, 200, faces=faces)
    found = Found(picture=np.zeros((100, 200, 3), np.float32), masks={}, facts=facts)
    pool = part("pool", anchor="face", x=0.5, y=0.5, rx=0.5, ry=0.5)
    alpha = pool.alpha(found)
    y, x = np.unravel_index(alpha.argmax(), alpha.shape)
    assert 115 < x < 165 and 25 < y < 65 and alpha[:, :60].max() == 0
    without = Found(picture=found.picture, masks={}, facts=facts_for(100, 200))
    assert pool.lost(without) == "face" and pool.lost(found) is None


def test_a_look_uses_the_masks_that_its_steps_look_at():
    def look(*regions, **more):
        steps = [{"id": f"s{k}", "name": "S", "region": r} | more for k, r in enumerate(regions)]
        return masks_used([Layer(Recipe.model_validate({"name": "A", "steps": steps}))])

    assert look({}) == frozenset()
    assert look({"parts": [{"kind": "background"}]}) == {"subject"}
    assert look({"parts": [{"kind": "subject", "which": "people"}]}, {"parts": [{"kind": "sky"}]}) == {"people", "sky"}
    assert look({"parts": [{"kind": "covers", "greenery": False, "water": True}]}) == {"water"}
    assert look({"parts": [{"kind": "ramp", "anchor": "skyline"}, {"kind": "pool", "anchor": "subject"}]}) == {
        "sky", "subject",
    }  # fmt: skip
    assert look({"parts": [{"kind": "sky"}]}, enabled=False) == frozenset()
    assert Region().uses() == frozenset()


def test_a_pick_without_its_like_is_lost_unless_it_may_take_the_subject():
    here = found_on(picture())
    pick = {"frame": "elsewhere", "x": 0.5, "y": 0.6, "piece": here.facts.pieces[0].model_dump()}
    strange = pick | {"piece": pick["piece"] | {"colour": (0.2, 0.3, -0.3), "area": 0.001}}
    anew = PART_KINDS["picked"].fresh(id="p", picks=[strange])
    assert anew.lost(here) == "picked object" and not anew.alpha(here).any()
    willing = part("picked", picks=[strange], else_subject=True)
    assert willing.lost(here) is None and np.abs(willing.alpha(here) - here.subject).max() < 1e-6
    assert PART_KINDS["picked"].fresh(picks=[pick]).lost(here) is None
    assert willing.unshown() == {"id", "else_subject"}, "old recipes keep their pictures' keys"


def washed(source, linear=None, **more):
    look = {"kind": "colour_wash", "wash": 100, "colour": "#00ff00", "source": source, **more}
    recipe = Recipe.model_validate(
        {"name": "Wash", "steps": [{"id": "s1", "name": "Wash", "adjustments": [{"id": "a1", **look}]}]}
    )
    linear = picture() if linear is None else linear
    frame = frame_of(np.ascontiguousarray(linear, np.float32), subject_box=Box(x0=0.3, y0=0.2, x1=0.6, y1=0.9))
    return render_rows(compile_plan(make_plan(recipe), frame), frame.proxy.copy()), frame


def hue_of(rgb):
    lab = to_oklab(np.asarray(rgb, np.float32).reshape(-1, 3)).mean(0)
    return np.arctan2(lab[2], lab[1]), float(np.hypot(lab[1], lab[2]))


@pytest.mark.parametrize("where", ["subject", "sky"])
def test_a_wash_takes_its_colour_from_what_this_frame_has_there(where):
    _, frame = washed("the colour set")
    mask = frame.found.mask(where)[..., None]
    assert mask.mean() > 0.02
    for source, weight in ((f"the {where}", mask), (f"all but the {where}", 1.0 - mask)):
        out, frame = washed(source)
        wanted = (frame.proxy * weight).sum((0, 1)) / weight.sum()
        a, b = hue_of(wanted), hue_of(out)
        assert abs(np.angle(np.exp(1j * (a[0] - b[0])))) < 0.12, (source, a, b)
        assert not frame.found.missing


def test_a_colour_taken_follows_the_light_of_each_frame_and_a_set_one_does_not():
    warm = picture() * np.array([1.25, 1.0, 0.7])
    plain, lit = washed("all but the subject")[0], washed("all but the subject", warm)[0]
    assert hue_of(lit)[1] > hue_of(plain)[1] or abs(hue_of(lit)[0] - hue_of(plain)[0]) > 0.2
    same, other = washed("the colour set")[0], washed("the colour set", warm)[0]
    assert abs(hue_of(same)[0] - hue_of(other)[0]) < 0.05


def test_where_nothing_was_found_the_colour_set_is_used_and_it_is_said():
    linear = np.ascontiguousarray(picture(), np.float32)
    look = {"kind": "colour_wash", "wash": 100, "colour": "#00ff00", "source": "the sky"}
    recipe = Recipe.model_validate(
        {"name": "Wash", "steps": [{"id": "s1", "name": "Wash", "adjustments": [{"id": "a1", **look}]}]}
    )
    frame = frame_of(linear)
    frame.found.masks = {"subject": frame.found.subject}
    out = render_rows(compile_plan(make_plan(recipe), frame), linear.copy())
    assert np.array_equal(out, washed("the colour set", linear)[0])
    assert any("sky" in said and "colour set" in said for said in frame.found.missing)


def test_a_taken_colour_is_part_of_the_key_and_counts_as_use_and_old_keys_stay():
    def keyed(**more):
        look = {"kind": "colour_wash", "wash": 40, **more}
        recipe = Recipe.model_validate(
            {"name": "Wash", "steps": [{"id": "s1", "name": "Wash", "adjustments": [{"id": "a1", **look}]}]}
        )
        return make_plan(recipe).key(), masks_used([Layer(recipe)]), recipe

    plain, taken = keyed(), keyed(source="all but the sky")
    assert plain[0] == keyed(source="the colour set")[0] != taken[0]
    assert plain[1] == frozenset() and taken[1] == {"sky"}
    assert fits_a_table(plain[2]) and not fits_a_table(taken[2])

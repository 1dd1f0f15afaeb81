"""What is measured on each frame instead of carried as numbers: tones by share, colours where the subject is, faces."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lenskeep.core.facts import Box, Face
from lenskeep.core.plan import make_plan
from lenskeep.core.recipes.layers import Layer, masks_used
from lenskeep.core.recipes.models import Recipe
from lenskeep.core.regions import PART_KINDS, Region
from lenskeep.core.regions.base import Found
from lenskeep.core.regions.kinds.tone_range import darker_share
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


@settings(max_examples=40, deadline=None)
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

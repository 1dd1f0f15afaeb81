import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from lenskeep.core.facts import Box, Skyline
from lenskeep.core.regions import Region, combine
from tests.core.parts import found, region
from tests.effort import examples

alphas = arrays(np.float32, (4, 5), elements=st.floats(0, 1, width=32))


@given(alphas, alphas)
def test_combining_stays_within_bounds_and_obeys_de_morgan(a, b):
    for how in ("add", "take away", "only within"):
        out = combine(a, b, how)
        assert out.min() >= 0 and out.max() <= 1 + 1e-6
    np.testing.assert_allclose(1 - combine(a, b, "add"), combine(1 - a, 1 - b, "only within"), atol=1e-6)
    np.testing.assert_allclose(combine(a, b, "take away"), combine(a, 1 - b, "only within"), atol=1e-6)


@given(alphas)
def test_nothing_and_everything_are_the_neutral_masks(a):
    nothing, everything = np.zeros_like(a), np.ones_like(a)
    np.testing.assert_allclose(combine(a, nothing, "add"), a, atol=1e-6)
    np.testing.assert_allclose(combine(a, everything, "only within"), a, atol=1e-6)
    np.testing.assert_allclose(combine(a, nothing, "take away"), a, atol=1e-6)


def test_background_is_the_inverted_subject():
    f = found()
    background = region({"kind": "background"}).alpha(f)
    np.testing.assert_allclose(background, region({"kind": "subject"}, invert=True).alpha(f), atol=1e-6)
    np.testing.assert_allclose(background, region({"kind": "subject", "invert": True}).alpha(f), atol=1e-6)


def test_a_ramp_is_full_at_its_start_and_nothing_at_its_end_across_its_way():
    alpha = region({"kind": "ramp", "x1": 0.5, "y1": 0.2, "x2": 0.5, "y2": 0.8}).alpha(found())
    assert alpha[:14].min() == 1.0 and alpha[-14:].max() == 0.0
    assert (np.diff(alpha, axis=0) <= 1e-6).all()
    assert np.ptp(alpha, axis=1).max() < 1e-6


def test_only_within_a_ramp_limits_the_background():
    f = found()
    alpha = region({"kind": "background"}, {"kind": "ramp", "combine": "only within"}).alpha(f)
    assert alpha.max() <= 1 and alpha[-10:].max() == 0 and alpha[:5].min() > 0.95


@settings(max_examples=examples(25))
@given(st.floats(0.0, 0.4), st.floats(0.0, 0.4))
def test_a_pool_on_the_subject_moves_with_its_box(dx, dy):
    pool = region({"kind": "pool", "anchor": "subject", "rx": 0.4, "ry": 0.4})
    box = Box(x0=0.1 + dx, y0=0.1 + dy, x1=0.4 + dx, y1=0.5 + dy)
    alpha = pool.alpha(found(subject_box=box))
    y, x = np.unravel_index(alpha.argmax(), alpha.shape)
    weight = alpha.sum()
    middle = (alpha * np.arange(120)).sum() / weight / 120, (alpha.T * np.arange(80)).sum() / weight / 80
    assert middle == pytest.approx(((box.x0 + box.x1) / 2, (box.y0 + box.y1) / 2), abs=0.02)
    assert alpha[y, x] > 0.99


def test_a_ramp_on_the_skyline_follows_its_height_and_tilt():
    ramp = region({"kind": "ramp", "anchor": "skyline", "y1": -0.1, "y2": 0.1})
    alpha = ramp.alpha(found(skyline=Skyline(left=0.3, right=0.6)))
    half = [(alpha[:, x] > 0.5).sum() / 80 for x in (2, 117)]
    assert half == pytest.approx([0.3, 0.6], abs=0.04)


def test_feather_softens_and_ceiling_limits():
    f = found()
    hard, soft = region({"kind": "subject"}).alpha(f), region({"kind": "subject"}, feather=0.05, ceiling=0.5).alpha(f)
    assert soft.max() <= 0.5
    assert np.abs(np.diff(soft, axis=1)).max() < 0.3 * np.abs(np.diff(hard, axis=1)).max()


def test_a_region_agrees_with_itself_at_two_sizes():
    r = region({"kind": "pool", "angle": 30, "x": 0.4}, {"kind": "ramp", "combine": "take away"}, feather=0.02)
    small, large = r.alpha(found()), r.alpha(found(160, 240))
    reduced = large.reshape(80, 2, 120, 2).mean((1, 3))
    assert np.abs(reduced - small).mean() < 0.01


def test_the_sentence_reads_as_it_works():
    within, without = {"kind": "ramp", "combine": "only within"}, {"kind": "sky", "combine": "take away"}
    r = region({"kind": "background"}, within, without)
    assert r.sentence() == "background, only within ramp, without sky"
    assert Region().sentence() == "whole frame"
    assert region({"kind": "subject"}, invert=True).sentence() == "all but subject"


def test_drawn_parts_are_numbered_where_there_are_several():
    ramp, brush = {"kind": "ramp", "combine": "only within"}, {"kind": "brush", "combine": "take away"}
    stroke = {"points": [[0.5, 0.5]]}
    r = region({"kind": "background"}, ramp, {**brush, "strokes": [stroke]})
    assert r.sentence() == "background, only within ramp 1, without brush 2"
    assert region({"kind": "sky"}, {"kind": "subject"}).sentence() == "sky and subject"
    on_subject = region({"kind": "pool", "anchor": "subject"}, {"kind": "pool", "invert": True})
    assert on_subject.sentence() == "pool 1 on the subject and not pool 2"


def without_a_subject():
    lacking = found(subject_box=None, subject={"trust": 1.0, "area": 0.0})
    lacking.masks["subject"] = np.zeros_like(lacking.masks["subject"])
    return lacking


def test_what_a_frame_lacks_is_passed_over_and_the_rest_means_what_it_did():
    lacking = without_a_subject()
    ramp = {"kind": "ramp"}
    alone = region(ramp).alpha(lacking)
    assert region({"kind": "subject"}).lost(lacking)
    for how, left in (("add", alone), ("only within", alone), ("take away", 1 - alone)):
        np.testing.assert_allclose(
            region({"kind": "subject"}, {**ramp, "combine": how}).alpha(lacking), left, atol=1e-6
        )


def test_a_region_holds_while_what_makes_it_up_and_every_limit_is_there():
    lacking = without_a_subject()
    subject, sky = {"kind": "subject"}, {"kind": "sky"}
    assert region(sky).holds(lacking) and not region(subject).holds(lacking)
    assert region(sky, {**subject, "combine": "add"}).holds(lacking)
    assert region(sky, {**subject, "combine": "take away"}).holds(lacking)
    assert not region(sky, {**subject, "combine": "only within"}).holds(lacking)


@given(st.floats(0.05, 1.0))
def test_a_ceiling_lowers_a_region_evenly(ceiling):
    f, soft = found(), {"kind": "ramp"}
    np.testing.assert_allclose(region(soft, ceiling=ceiling).alpha(f), ceiling * region(soft).alpha(f), atol=1e-6)
    turned = region(soft, ceiling=ceiling, invert=True).alpha(f)
    np.testing.assert_allclose(turned, ceiling * (1 - region(soft).alpha(f)), atol=1e-6)

"""Evening a scene: offsets between frames measured in like parts, by several witnesses, with how sure they are."""

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lenskeep.core.colour.adapt import balance_matrix
from lenskeep.core.even.cones import TO_CONES, exact, params_of
from lenskeep.core.even.described import BINS, described
from lenskeep.core.even.judged import (
    NEIGHBOURS,
    Pair,
    Witnessed,
    combined,
    judged,
    left_over,
    pairs_of,
    solved,
    witnessed,
)
from lenskeep.core.even.witnesses import Offset, by_histograms, by_place, by_quantiles
from lenskeep.files.reading.photo import read_photo
from tools.known import known_frames

SHOT = "pier"


@pytest.fixture(scope="module")
def scene():
    """Five frames of one scene of the demo at 640 px, with the masks that are known of them."""
    found = [k for k in known_frames() if k.facts["scene"] == SHOT][:5]
    out = []
    for known in found:
        picture = np.ascontiguousarray(read_photo(known.path).reduced(640))
        size = picture.shape[1::-1]
        masks = {n: cv2.resize(m, size).astype(np.float32) / 255 for n, m in known.masks().items() if n != "subject"}
        out.append((picture, masks))
    return out


@pytest.fixture(scope="module")
def plain(scene):
    return [described(picture, masks) for picture, masks in scene]


def off_by(picture, ev=0.0, mired=0.0, duv=0.0):
    """As a camera set otherwise would have given it, clipped at white."""
    return np.clip(picture @ balance_matrix(ev, mired, duv).T.astype(np.float32), 0.0, 1.0).astype(np.float32)


@given(ev=st.floats(-3, 3), mired=st.floats(-80, 80), duv=st.floats(-20, 20), seed=st.integers(0, 99))
def test_exposure_warmth_and_tint_add_up_in_the_logarithm_of_cone_responses(ev, mired, duv, seed):
    picture = np.random.default_rng(seed).uniform(0.05, 0.6, (4, 5, 3)).astype(np.float32)
    apart = params_of((picture @ balance_matrix(ev, mired, duv).T).astype(np.float32)) - params_of(picture)
    assert np.ptp(apart, axis=(0, 1)).max() < 2e-2 * max(1.0, abs(mired)), "the same for every colour"
    assert exact(apart.mean(axis=(0, 1)).astype(np.float64)) == pytest.approx([ev, mired, duv], abs=0.6)


def test_white_is_one_in_every_cone():
    assert np.ones(3) @ TO_CONES.T == pytest.approx(np.ones(3))
    assert params_of(np.ones((1, 1, 3), np.float32))[0, 0] == pytest.approx(np.zeros(3), abs=1e-4)


@pytest.mark.parametrize("offset", [(0.7, 0, 0), (-1.1, 25, 0), (0.3, -30, 6), (0, 0, -8)])
def test_each_witness_measures_what_a_frame_was_altered_by(scene, plain, offset):
    picture, masks = scene[0]
    altered = described(off_by(picture, *offset), masks)
    told = [by_histograms(altered, plain[0]), by_place(altered, plain[0]), *by_quantiles(altered, plain[0])]
    assert len(told) >= 4 and all(told)
    for each in told:
        assert each.value[0] == pytest.approx(offset[0], abs=0.12)
        assert exact(each.value)[1:] == pytest.approx(offset[1:], abs=10), "a single part may mislead"
        assert (each.sigma > 0).all()
    opposite = by_histograms(plain[0], altered)
    assert opposite.value == pytest.approx(-told[0].value, abs=0.2)


def test_frames_that_were_moved_come_back_and_the_others_stay(scene, plain):
    before = judged(plain, key=0)
    offsets = {2: (0.9, 20, -5), 4: (-1.0, -25, 6)}
    altered = [described(off_by(scene[i][0], *offsets[i]), scene[i][1]) if i in offsets else plain[i] for i in range(5)]
    after = judged(altered, key=0)
    for i, (now, was) in enumerate(zip(after, before, strict=True)):
        ev, mired, duv = offsets.get(i, (0, 0, 0))
        assert now.ev - was.ev == pytest.approx(-ev, abs=0.16)
        assert now.mired - was.mired == pytest.approx(-mired, abs=9)
        assert now.duv - was.duv == pytest.approx(-duv, abs=4)
        assert not now.sure or abs(now.ev - was.ev + ev) < 0.15
    assert (after[0].ev, after[0].mired, after[0].duv) == (0, 0, 0), "the key frame is the zero"


def test_a_subject_that_is_darker_by_itself_does_not_pull_its_frame(scene, plain):
    """A groom in a dark suit is not a stop under beside a bride in white."""
    picture, masks = scene[1]
    [subject] = [masks[k] for k in ("animals", "people") if k in masks]
    darker = picture * (1.0 - 0.75 * subject[..., None])
    was, now = judged(plain, 0)[1], judged([plain[0], described(darker, masks), *plain[2:]], 0)[1]
    assert abs(now.ev - was.ev) < 0.12 and abs(now.mired - was.mired) < 6


def test_frames_with_nothing_in_common_and_burnt_ones_are_not_sure():
    rng = np.random.default_rng(3)
    texture = rng.uniform(0.8, 1.2, (100, 150, 1)).astype(np.float32)
    red, blue = (np.array(c, np.float32) * texture for c in ((0.5, 0.05, 0.05), (0.02, 0.05, 0.4)))
    one, two = described(red, {"sky": np.ones((100, 150), np.float32)}), described(blue, {})
    assert list(by_quantiles(one, two)) == [] and by_place(one, two) is None
    assert [j.sure for j in judged([one, two])] == [False, False]
    white = described(np.ones((100, 150, 3), np.float32), {})
    assert white.burnt_share == 1.0 and not white.quantiles and not white.spectra
    assert not any(j.sure or j.moves for j in judged([white, white, white]))


def test_a_frame_alone_and_a_key_that_is_none_of_them(plain):
    [alone] = judged(plain[:1])
    assert not alone.moves
    with pytest.raises(IndexError):
        judged(plain, key=9)


def test_another_light_is_never_taken_for_a_wrong_balance():
    """Dusk after noon, every pair at one: the difference is told, and nothing of it is sure."""
    stands = np.array([[0.0, 0.0, 0.0], [0.1, 3.0, 0.0], [-0.6, 104.0, 6.0], [-0.5, 101.0, 5.0]])
    pairs = [Pair(i, j, offset(stands[i] - stands[j])) for i, j in pairs_of(4, 0)]
    told = combined(Witnessed(pairs, pairs, pairs), np.zeros(4), 0)
    assert [j.sure for j in told] == [True, True, False, False]
    assert (
        told[2].mired < -80
        and [j.sure for j in combined(Witnessed(pairs, pairs, []), np.zeros(4), 2)][2:] == [True] * 2
    )


def offset(value, sigma=(0.05, 2.0, 1.0)):
    return Offset(np.array(value, float), np.array(sigma, float))


@given(st.data())
def test_where_frames_stand_is_found_though_a_witness_lies(data):
    count = data.draw(st.integers(4, 8))
    stands = np.array(
        [data.draw(st.tuples(st.floats(-1, 1), st.floats(-30, 30), st.floats(-8, 8))) for _ in range(count)]
    )
    pairs = [Pair(i, j, offset(stands[i] - stands[j])) for i, j in pairs_of(count, 0)]
    liar = data.draw(st.integers(0, len(pairs) - 1))
    lied = Pair(pairs[liar].i, pairs[liar].j, offset(pairs[liar].offset.value + np.array([1.5, 40, 10])))
    found = solved(count, [*pairs, lied])
    assert found - found[0] == pytest.approx(stands - stands[0], abs=0.35)
    assert left_over(found, [*pairs, lied])[:, 0].max() < 0.05


def test_small_moves_are_left_away_and_said_to_be_none():
    near = [Pair(0, 1, offset((0.1, 5, 2))), Pair(0, 2, offset((0.6, 2, 1))), Pair(1, 2, offset((0.5, -3, -1)))]
    told = combined(Witnessed(near, near, []), np.zeros(3), 0)
    assert not told[1].moves and told[2].ev == pytest.approx(0.6, abs=0.05)
    assert all(j.sure for j in told)
    burnt = combined(Witnessed(near, near, []), np.array([0.0, 0.0, 0.8]), 0)
    assert [j.sure for j in burnt] == [True, True, False]
    apart = [Pair(p.i, p.j, offset(p.offset.value + np.array([0.8 * (p.j == 2), 0, 0]))) for p in near]
    assert not combined(Witnessed(near, apart, []), np.zeros(3), 0)[2].sure, "two ways of measuring do not agree"


@given(count=st.integers(1, 300), key=st.integers(0, 299))
def test_a_long_scene_needs_no_more_pairs_a_frame_and_hangs_together(count, key):
    key %= count
    pairs = pairs_of(count, key)
    assert len(set(pairs)) == len(pairs) and all(0 <= i < j < count for i, j in pairs)
    assert len(pairs) <= max(count * (count - 1) // 2 if count <= 2 * NEIGHBOURS else 0, count * NEIGHBOURS)
    reached, todo = {key}, [key]
    beside = {}
    for i, j in pairs:
        beside.setdefault(i, []).append(j)
        beside.setdefault(j, []).append(i)
    while todo:
        for other in beside.get(todo.pop(), ()):
            if other not in reached:
                reached.add(other)
                todo.append(other)
    assert len(reached) == count


def test_what_is_done_is_told(plain):
    heard = []
    witnessed(plain[:3], 0, heard.append)
    assert heard == pytest.approx([1 / 3, 2 / 3, 1.0])
    assert all(s.shape == (*BINS[:2], BINS[2] // 2 + 1) for _, s in plain[0].spectra.values())

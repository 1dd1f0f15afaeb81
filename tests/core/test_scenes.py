"""Scenes and bursts: the demo's are found as they are known, mixed and timed anew too; what a cut needs."""

from datetime import datetime, timedelta
from itertools import pairwise

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lenskeep.core.scenes.cutting import Seen, bursts_of, scene_name, scenes_of
from lenskeep.core.scenes.signature import BINS, apart, signature
from lenskeep.files.reading.photo import read_photo
from tools.known import known_frames

PLACES = 6


def rand_index(found, known):
    """The adjusted Rand index (Hubert & Arabie 1985)."""
    table = np.zeros((max(found) + 1, max(known) + 1))
    np.add.at(table, (np.array(found), np.array(known)), 1)

    def pairs(counts):
        return float((counts * (counts - 1) / 2).sum())

    both, rows, columns = pairs(table), pairs(table.sum(1)), pairs(table.sum(0))
    expected, most = rows * columns / pairs(np.array([len(found)])), (rows + columns) / 2
    return (both - expected) / (most - expected) if most != expected else 1.0


@pytest.fixture(scope="module")
def demo():
    """Of each shoot (seconds, signature, scene) by frame, in order of time."""
    out = {}
    for known in known_frames():
        photo = read_photo(known.path)
        picture = photo.reduced(200)
        subject = cv2.resize(known.masks()["subject"], picture.shape[1::-1]).astype(np.float32) / 255
        one = (photo.taken.timestamp(), signature(picture, subject), known.facts["scene"])
        out.setdefault(known.shoot, []).append(one)
    return {shoot: sorted(frames, key=lambda f: f[0]) for shoot, frames in out.items()}


def judged(frames):
    names = list(dict.fromkeys(f[2] for f in frames))
    return rand_index(scenes_of([Seen(f[0], f[1]) for f in frames]), [names.index(f[2]) for f in frames])


def test_the_demos_scenes_are_found_as_they_are_known(demo):
    assert [judged(frames) for frames in demo.values()] == [1.0] * 3


def test_shoots_that_were_mixed_and_timed_anew_are_cut_by_place(demo):
    by_scene = {}
    for shoot, frames in demo.items():
        for frame in frames:
            by_scene.setdefault(f"{shoot} {frame[2]}", []).append((*frame[:2], f"{shoot} {frame[2]}"))
    assert len(by_scene) == PLACES
    rng = np.random.default_rng(7)
    found = []
    for seed, gap in ((1, 40.0), (2, 90.0), (3, 15.0), (4, 40.0), (5, 90.0), (6, 15.0)):
        order = np.random.default_rng(seed).permutation(sorted(by_scene))
        mixed = [frame for name in order for frame in by_scene[name]]
        times = np.cumsum(rng.uniform(0.3, 1.7, len(mixed)) * gap)
        found.append(judged([(float(t), s, name) for t, (_, s, name) in zip(times, mixed, strict=True)]))
    assert min(found) >= 0.95, found


def test_the_burst_is_one_and_is_never_cut(demo):
    frames = next(v for v in demo.values() if any(f[2] == "overcast" for f in v))
    seen = [Seen(f[0], f[1]) for f in frames]
    bursts = bursts_of(seen)
    assert len(set(bursts[:6])) == 1 and len(set(bursts)) == len(bursts) - 5
    scenes = scenes_of(seen)
    assert all(a[1] == b[1] for a, b in pairwise(zip(bursts, scenes, strict=True)) if a[0] == b[0])


def flat(colour, seed=0):
    noise = np.random.default_rng(seed).uniform(0.9, 1.1, (40, 60, 1)).astype(np.float32)
    return signature(np.array(colour, np.float32) * noise, np.zeros((40, 60), np.float32))


GREEN, BLUE, SAND = (0.1, 0.3, 0.05), (0.1, 0.2, 0.6), (0.5, 0.4, 0.25)


def test_a_close_up_among_others_makes_no_scene_and_another_place_does():
    one_odd = [Seen(60.0 * i, flat(SAND if i == 4 else GREEN, i)) for i in range(9)]
    assert scenes_of(one_odd) == [0] * 9
    another = [Seen(60.0 * i, flat(GREEN if i < 5 else BLUE, i)) for i in range(10)]
    assert scenes_of(another) == [0] * 5 + [1] * 5


def test_a_burst_in_which_the_light_changes_stays_one():
    one, other, turn = flat(GREEN), flat(SAND), 0.36  # as far from each other as frames of a burst may be
    lit = np.cos(turn) * one + np.sin(turn) * other
    lit = np.float32(lit / np.linalg.norm(lit))
    assert 0.2 < apart(one, lit) < 0.3
    shown = [one] * 9 + [lit] * 9
    times = [60.0 * i for i in range(6)] + [360.0 + 0.5 * i for i in range(6)] + [420.0 + 60.0 * i for i in range(6)]
    burst = [Seen(t, s) for t, s in zip(times, shown, strict=True)]
    assert len(set(bursts_of(burst)[6:12])) == 1
    assert len(set(scenes_of(burst)[6:12])) == 1
    one_by_one = [Seen(60.0 * i, s) for i, s in enumerate(shown)]
    assert scenes_of(one_by_one) == [0] * 9 + [1] * 9


def test_a_pause_alone_cuts_only_when_it_is_long_for_this_shoot():
    def shoot(pause, step=60.0):
        times = [step * i + (pause if i >= 6 else 0.0) for i in range(12)]
        return scenes_of([Seen(t, flat(GREEN, i)) for i, t in enumerate(times)])

    assert shoot(240.0) == [0] * 12
    assert shoot(6 * 3600.0) == [0] * 6 + [1] * 6
    assert shoot(1800.0, step=600.0) == [0] * 12, "half an hour is little where every frame took ten minutes"


@given(days=st.lists(st.integers(1, 4), min_size=2, max_size=6), seed=st.integers(0, 99))
def test_a_handful_of_frames_of_several_days_is_cut_by_day_whatever_they_show(days, seed):
    rng = np.random.default_rng(seed)
    frames, known = [], []
    for day, count in enumerate(days):
        for t in np.sort(rng.uniform(0, 200, count)):
            frames.append(Seen(86400.0 * day + float(t), flat(GREEN, day)))
            known.append(day)
    assert scenes_of(frames) == known


def test_frames_without_a_time_are_put_by_place_alone():
    assert scenes_of([Seen(None, flat(GREEN if i < 4 else SAND, i)) for i in range(8)]) == [0] * 4 + [1] * 4
    assert bursts_of([Seen(None, flat(GREEN))] * 3) == [0, 1, 2]
    assert scenes_of([]) == [] and scenes_of([Seen(None, flat(GREEN))]) == [0]


def test_the_subject_does_not_count_unless_it_is_all_there_is():
    green = np.full((60, 90, 3), GREEN, np.float32)
    with_red, mask = green.copy(), np.zeros((60, 90), np.float32)
    with_red[10:50, 20:70], mask[10:50, 20:70] = (0.6, 0.02, 0.02), 1.0
    nothing = np.zeros_like(mask)
    assert apart(signature(green, nothing), signature(with_red, mask)) < 0.1
    assert apart(signature(green, nothing), signature(with_red, nothing)) > 0.4
    whole = signature(green, np.ones_like(mask))
    assert apart(whole, signature(green, nothing)) < 0.01


@given(st.lists(st.tuples(st.floats(0, 400), st.integers(0, 2)), max_size=25))
def test_scenes_follow_each_other_and_the_clocks_zero_does_not_matter(steps):
    times = np.cumsum([s for s, _ in steps]) if steps else []
    frames = [Seen(float(t), flat((GREEN, BLUE, SAND)[k])) for t, (_, k) in zip(times, steps, strict=True)]
    found = scenes_of(frames)
    assert all(b - a in (0, 1) for a, b in pairwise(found)) and found[:1] in ([], [0])
    assert found == scenes_of([Seen(f.taken + 86400.0, f.signature) for f in frames])


def test_signatures_have_length_one_and_names_say_when():
    one = flat(GREEN)
    assert one.shape == (np.prod(BINS),) and float(one @ one) == pytest.approx(1.0, abs=1e-5)
    assert apart(one, one) < 1e-3 and apart(one, flat(BLUE)) > 0.9
    begun = datetime(2026, 9, 12, 14, 20) + timedelta(seconds=5)
    assert scene_name(3, begun.isoformat()) == "scene 3, 14:20" and scene_name(2, None) == "scene 2"

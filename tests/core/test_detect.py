"""Finding on the demo frames, whose true masks are known, and on pictures where there is nothing to find."""

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from benchmarks.masks import intersection_over_union
from lenskeep.core.detect.edges import colour_guided, without_specks
from lenskeep.core.detect.find import DETECTOR, find
from lenskeep.core.detect.trust import DOUBTFUL_BELOW
from lenskeep.studio.tasks import detectors
from tests.conftest import DEMO, TRUTH, scene

FRAMES = ["LKD_0101", "LKD_0118", "LKD_0126", "LKD_0134", "LKD_0205", "LKD_0214", "LKD_0225", "LKD_0232"]


@pytest.fixture(scope="module")
def networks():
    return detectors(2)


def picture(name):
    return cv2.cvtColor(cv2.imread(str(DEMO / f"{name}.jpg")), cv2.COLOR_BGR2RGB)


@pytest.fixture(scope="module")
def on_demo_frames(networks):
    """Findings and IoU of subject and sky, by frame."""
    out = {}
    for name in FRAMES:
        found = find(picture(name), networks)
        scores = {}
        for kind in ("subject", "sky"):
            truth = cv2.imread(str(TRUTH / f"{name}.{kind}.png"), cv2.IMREAD_GRAYSCALE)
            scores[kind] = intersection_over_union(getattr(found, kind), truth)
        out[name] = found, scores
    return out


@pytest.mark.parametrize("name", FRAMES)
def test_masks_on_demo_frames_fit_the_known_ones(on_demo_frames, name):
    found, scores = on_demo_frames[name]
    assert scores["subject"] >= 0.9 and scores["sky"] >= 0.76, scores
    assert found.facts.detector == DETECTOR and (found.facts.height, found.facts.width) == picture(name).shape[:2]
    assert max(found.subject.shape) == 1024 and found.facts.skyline is not None


def test_the_sky_fits_on_the_whole_and_where_it_does_not_it_is_doubted(on_demo_frames):
    skies = {name: (scores["sky"], found.facts.sky.trust) for name, (found, scores) in on_demo_frames.items()}
    assert np.mean([score for score, _ in skies.values()]) > 0.88
    worst = min(skies.values())
    assert worst[1] < DOUBTFUL_BELOW, skies
    assert all(trust > 0.9 for score, trust in skies.values() if score > 0.94)


def test_finding_is_repeatable_and_hardly_depends_on_size(networks):
    image = picture("LKD_0221")
    first, again = find(image, networks), find(image, networks)
    assert np.array_equal(first.sky, again.sky) and np.array_equal(first.subject, again.subject)
    smaller = find(cv2.resize(image, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA), networks)
    size = smaller.sky.shape[::-1]
    for kind in ("subject", "sky"):
        reduced = cv2.resize(getattr(first, kind), size, interpolation=cv2.INTER_AREA)
        assert intersection_over_union(getattr(smaller, kind), reduced) > 0.93


def test_a_frame_without_sky_has_none(networks):
    image = picture("LKD_0201")
    found = find(np.ascontiguousarray(image[int(0.62 * image.shape[0]) :]), networks)
    assert (found.sky > 127).mean() < 0.02


@pytest.mark.parametrize("shape", [(1, 1), (3, 900), (16, 16), (60, 2000)])
def test_odd_sizes_give_masks_of_their_size(networks, shape):
    found = find(np.full((*shape, 3), 128, np.uint8), networks)
    assert found.sky.shape == found.subject.shape and 0 <= found.facts.trust <= 1
    assert found.facts.trust < 0.8  # nothing there to be sure of


@given(seed=st.integers(0, 100), radius=st.integers(1, 6))
def test_the_colour_guided_filter_is_the_published_one(seed, radius):
    """Against the equations of He, Sun & Tang 2013, solved by NumPy in double precision."""
    image = cv2.GaussianBlur(scene(40, 60, seed), (0, 0), 1.0)
    mask = (np.random.default_rng(seed).random((40, 60)) > 0.5).astype(np.float32)
    guide = image / 255.0

    def box(x):
        return cv2.blur(x, (2 * radius + 1,) * 2, borderType=cv2.BORDER_REFLECT)

    mean, eps = box(guide), 1e-3
    outer = box((guide[..., :, None] * guide[..., None, :]).reshape(40, 60, 9)).reshape(40, 60, 3, 3)
    sigma = outer - mean[..., :, None] * mean[..., None, :] + eps * np.eye(3)
    shared = box(guide * mask[..., None]) - mean * box(mask)[..., None]
    a = np.linalg.solve(sigma, shared[..., None])[..., 0]
    b = box(mask) - (a * mean).sum(-1)
    expected = np.clip((box(a) * guide).sum(-1) + box(b), 0, 1)
    assert np.abs(colour_guided(image, mask, radius, eps) - expected).max() < 2e-3


def test_specks_and_uncertain_pieces_go_large_certain_ones_stay():
    mask, certainty = np.zeros((100, 100), np.float32), np.ones((100, 100), np.float32)
    mask[10:50, 10:50] = 1
    mask[80:82, 80:82] = 1
    mask[60:90, 10:40] = 1
    certainty[60:90, 10:40] = 0.3
    kept = without_specks(mask, certainty, least_area=0.01, least_weight=0.6)
    assert kept[30, 30] == 1 and kept[81, 81] == 0 and kept[75, 25] == 0

"""Holes and islands of a mask: filled or taken away whole by one click, whatever the picture shows there."""

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lenskeep.core.repairs.applied import repaired
from lenskeep.core.repairs.gaps import SOFT, hole_at, island_at, without_seam
from lenskeep.core.repairs.models import Gap, Painted, Repairs
from tests.effort import examples
from tools.made_up import frame_of, scene

H, W = 300, 400
REACH = 2 * round(SOFT * W) + 3


def disc(x, y, radius, soft=1.5):
    yy, xx = np.mgrid[:H, :W] + 0.5
    return np.clip((radius - np.hypot(xx - x, yy - y)) / soft + 0.5, 0, 1).astype(np.float32)


def test_a_hole_is_filled_to_its_soft_border_and_leaves_no_seam():
    whole, hole = disc(200, 150, 90), disc(210, 160, 30)
    mask = whole * (1 - hole)
    own = hole_at(mask, 210 / W, 160 / H)
    filled = np.maximum(mask, own)
    assert filled[disc(200, 150, 85) == 1].min() > 0.9
    far = disc(200, 150, 95) == 0
    assert np.array_equal(filled[far], mask[far]), "its own outline is as it was"


def test_a_hole_that_a_narrow_gap_opens_is_one_and_a_bay_is_none():
    mask = disc(200, 150, 90) * (1 - disc(200, 150, 40))
    narrow, wide = mask.copy(), mask.copy()
    narrow[150:, 197:203] = 0  # 6 pixels
    wide[150:, 170:230] = 0
    filled = np.maximum(narrow, hole_at(narrow, 0.5, 0.5))
    assert filled[disc(200, 150, 45) == 1].min() > 0.9
    assert hole_at(wide, 0.5, 0.5) is None


def test_what_reaches_the_frames_edge_or_is_as_large_as_the_mask_is_no_hole():
    mask = np.ones((H, W), np.float32)
    mask[:, :60] = 0
    assert hole_at(mask, 0.05, 0.5) is None
    ring = disc(200, 150, 100) * (1 - disc(200, 150, 90))
    assert hole_at(ring, 0.5, 0.5) is None
    assert hole_at(disc(200, 150, 90), 0.5, 0.5) is None, "inside the mask"


def test_an_island_goes_whole_and_the_subject_does_not():
    subject, island = disc(120, 150, 80), disc(330, 220, 25)
    mask = np.maximum(subject, island)
    own = island_at(mask, 330 / W, 220 / H)
    left = mask * (1 - own)
    assert left[:, 260:].max() < 0.02 and np.array_equal(left[:, :250], mask[:, :250])
    assert island_at(mask, 0.3, 0.5) is None and island_at(mask, 0.95, 0.05) is None


@settings(max_examples=examples(40))
@given(st.integers(0, 10_000), st.floats(0, 1), st.floats(0, 1))
def test_nothing_changes_but_around_what_was_meant(seed, x, y):
    rng = np.random.default_rng(seed)
    mask = np.clip(4 * cv2.GaussianBlur(rng.normal(0, 1, (H, W)).astype(np.float32), (0, 0), 9) * 9, -0.5, 0.5) + 0.5
    for own, after in (
        (hole_at(mask, x, y), lambda own: np.maximum(mask, own)),
        (island_at(mask, x, y), lambda own: mask * (1 - own)),
    ):
        if own is None:
            continue
        assert own.shape == mask.shape and own.min() >= 0 and own.max() <= 1
        assert own[min(int(y * H), H - 1), min(int(x * W), W - 1)] == 1
        meant = cv2.dilate((own == 1).astype(np.uint8), np.ones((2 * REACH + 1, 2 * REACH + 1))) > 0
        assert np.array_equal(after(own)[~meant], mask[~meant])


def test_what_is_laid_beside_a_mask_leaves_no_line_and_bridges_nothing_wide():
    left, near, far = (np.zeros((H, W), np.float32) for _ in range(3))
    left[50:250, 50:150], near[50:250, 152:250], far[50:250, 170:250] = 1, 1, 1
    soft = [cv2.GaussianBlur(m, (0, 0), 0.8) for m in (left, near, far)]
    assert without_seam(soft[0], soft[1])[60:240, 60:240].min() > 0.6 > np.maximum(soft[0], soft[1])[150, 151]
    assert np.array_equal(without_seam(soft[0], soft[2]), np.maximum(soft[0], soft[2]))


@pytest.fixture(scope="module")
def found():
    return frame_of(((scene(120, 180) / 255.0) ** 2.2).astype(np.float32)).found


def test_a_gap_is_that_of_the_mask_as_it_stands_and_none_once_it_is_gone(found):
    hole = Painted(mask="subject", away=True, points=[(0.5, 0.62)], size=0.05, hardness=0.9, edge_aware=False)
    gap = Gap(mask="subject", x=0.5, y=0.62)
    at = int(0.62 * 120), 90
    assert repaired(found, Repairs(done=(hole,))).subject[at] < 0.3
    mended = repaired(found, Repairs(done=(hole, gap))).subject
    assert mended[at] > 0.95 and np.abs(mended - found.subject).mean() < 2e-3
    assert np.array_equal(repaired(found, Repairs(done=(gap,))).subject, found.subject)

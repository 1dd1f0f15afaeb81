"""Repairs brought to another frame of a burst: moved as the subject moved, kept to that frame's edges."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lenskeep.core.facts import Box
from lenskeep.core.repairs.applied import repaired
from lenskeep.core.repairs.carried import carried, movement
from lenskeep.core.repairs.models import Clicked, Emptied, Outlined, Painted, Repairs, Traced
from tests.effort import examples
from tools.made_up import frame_of, scene

H, W = 240, 360


@pytest.fixture(scope="module")
def picture():
    return ((scene(H, W, seed=4) / 255.0) ** 2.2).astype(np.float32)


@pytest.fixture(scope="module")
def found(picture):
    return frame_of(picture).found


def moved(picture, dx, dy, **changes):
    """The same scene with the camera moved by whole pixels."""
    return frame_of(np.roll(picture, (dy, dx), (0, 1)), **changes).found


def one(repair, source, target):
    [out] = carried([repair], source, target)
    return out


STROKE = Painted(mask="subject", points=[(0.44, 0.55), (0.56, 0.65)], size=0.06, edge_aware=False)


@given(dx=st.integers(-24, 24), dy=st.integers(-16, 16))
@settings(max_examples=examples(25))
def test_a_stroke_follows_what_it_lies_on(picture, found, dx, dy):
    there = one(STROKE, found, moved(picture, dx, dy))
    expected = np.add(STROKE.points, [dx / W, dy / H])
    assert np.abs(np.array(there.points) - expected).max() < 0.006
    assert there.size == pytest.approx(STROKE.size, rel=0.03) and there.edge_aware and there.mask == "subject"


def test_onto_the_same_frame_nothing_moves(found):
    assert np.abs(np.array(one(STROKE, found, found).points) - STROKE.points).max() < 1e-3


def test_when_it_comes_nearer_the_brush_grows_with_it(picture, found):
    import cv2

    zoom = 1.25
    matrix = np.array([[zoom, 0, (1 - zoom) * 0.5 * W], [0, zoom, (1 - zoom) * 0.6 * H]])
    nearer = frame_of(np.maximum(cv2.warpAffine(picture, matrix, (W, H), borderMode=cv2.BORDER_REFLECT), 0)).found
    there = one(STROKE, found, nearer)
    assert there.size == pytest.approx(STROKE.size * zoom, rel=0.05)


def test_without_points_to_follow_the_subjects_boxes_say_where(found):
    """A flat picture has nothing to follow."""
    flat = np.full((H, W, 3), 0.2, np.float32)
    box = Box(x0=0.45, y0=0.48, x1=0.75, y1=0.92)
    move = movement(frame_of(flat).found, frame_of(flat, subject_box=box).found, np.array(STROKE.points))
    assert not move.followed
    there = one(STROKE, frame_of(flat).found, frame_of(flat, subject_box=box).found)
    assert np.allclose(np.array(there.points) - STROKE.points, [0.1, 0.1], atol=0.002)


def test_without_boxes_either_it_stays_where_it_was():
    flat = frame_of(np.full((H, W, 3), 0.2, np.float32), subject_box=None).found
    assert np.allclose(one(STROKE, flat, flat).points, STROKE.points, atol=1e-4)


def test_one_that_leaves_the_frame_is_left_away(picture, found):
    click = Clicked(mask="subject", x=0.97, y=0.6)
    flat, there = np.full((H, W, 3), 0.2, np.float32), Box(x0=0.65, y0=0.38, x1=0.95, y1=0.82)
    assert list(carried([click], frame_of(flat).found, frame_of(flat, subject_box=there).found)) == []


def test_none_of_this_here_holds_for_the_burst(picture, found):
    assert one(Emptied(mask="sky"), found, moved(picture, 9, 3)) == Emptied(mask="sky")


def test_an_upright_frame_takes_a_repair_from_a_wide_one(found):
    upright = frame_of(((scene(W, H, seed=4) / 255.0) ** 2.2).astype(np.float32)).found
    there = one(STROKE, found, upright)
    assert isinstance(there, Painted)
    assert all(-0.5 <= v <= 1.5 for point in there.points for v in point)


def test_an_outline_is_brought_to_the_edge_that_it_means(found):
    """Drawn 3 px too wide around the disc, it ends up on it."""
    angle = np.linspace(0, 2 * np.pi, 60, endpoint=False)
    radius = 0.22 * H + 3
    points = [(0.5 + radius * np.cos(a) / W, 0.6 + radius * np.sin(a) / H) for a in angle]
    empty = Emptied(mask="subject")
    rough = repaired(found, Repairs(done=(empty, Outlined(mask="subject", points=points)))).subject > 0.5
    traced = repaired(found, Repairs(done=(empty, one(Outlined(mask="subject", points=points), found, found))))
    snapped, truth = traced.subject > 0.5, found.subject > 0.5
    assert isinstance(traced.facts.subject.trust, float)

    def fits(mask):
        return (mask & truth).sum() / (mask | truth).sum()

    assert fits(snapped) > 0.96 > fits(rough)


def test_an_outline_where_colours_do_not_tell_stays_as_it_was_drawn():
    flat = frame_of(np.full((H, W, 3), 0.2, np.float32)).found
    points = [(0.3, 0.3), (0.6, 0.3), (0.6, 0.6), (0.3, 0.6)]
    traced = repaired(flat, Repairs(done=(Emptied(mask="subject"), Traced(mask="subject", points=points)))).subject
    inside = traced > 0.5
    rows, columns = np.flatnonzero(inside.any(1)), np.flatnonzero(inside.any(0))
    assert abs(rows[0] / H - 0.3) < 0.02 and abs(columns[-1] / W - 0.6) < 0.02

"""People and animals as objects: boxes from the network, what is reckoned with them, the subject they make."""

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lenskeep.core.detect.beings import Being, reach_of
from lenskeep.core.detect.boxes import (
    ANIMALS,
    PERSON,
    SIDE,
    TOY,
    Detected,
    around,
    find_boxes,
    fits,
    inside,
    iou,
    kept,
    letterbox,
    limited,
    touching,
)
from lenskeep.core.detect.composed import levelled, with_beings
from lenskeep.core.detect.edges import enlarged_labels, grab_in
from lenskeep.core.detect.objects import split_objects
from lenskeep.core.facts import Box, Face
from tests.effort import examples

LEVELS = (52, 26, 13)


class Boxes:
    """A network that answers with given boxes (x0, y0, x1, y1 in its own 416 px, class, score), as NanoDet would."""

    def __init__(self, *answers, level=1):
        self.answers, self.level = answers, level

    def run(self, fed):
        assert fed["input_1"].shape == (1, 3, SIDE, SIDE) and fed["input_1"].dtype == np.float32
        scores = [np.zeros((1, n * n, 80), np.float32) for n in LEVELS]
        sides = [np.zeros((1, n * n, 44), np.float32) for n in LEVELS]
        n = LEVELS[self.level]
        stride = SIDE / n
        for x0, y0, x1, y1, c, score in self.answers:
            column, row = int((x0 + x1) / 2 / stride), int((y0 + y1) / 2 / stride)
            x, y = (column + 0.5) * stride, (row + 0.5) * stride
            scores[self.level][0, row * n + column, c] = score
            for k, away in enumerate((x - x0, y - y0, x1 - x, y1 - y)):
                at = away / stride
                low = min(int(at), 9)
                p = np.full(11, 1e-9)
                p[low], p[low + 1] = 1 - (at - low), at - low
                sides[self.level][0, row * n + column, 11 * k : 11 * k + 11] = np.log(p + 1e-9)
        return [*scores, *sides]


@pytest.mark.parametrize(("height", "width"), [(400, 800), (900, 300), (416, 416), (100, 150)])
def test_boxes_come_back_in_the_pictures_own_pixels(height, width):
    scale = SIDE / max(height, width)
    left, top = (SIDE - round(width * scale)) // 2, (SIDE - round(height * scale)) // 2
    true = np.array([0.2 * width, 0.3 * height, 0.5 * width, 0.8 * height])
    own = true * scale + [left, top, left, top]
    [found] = find_boxes(np.zeros((height, width, 3), np.uint8), Boxes((*own, PERSON, 0.8)))
    assert found.seen == "person" and found.score == pytest.approx(0.8)
    np.testing.assert_allclose(found.box, true, atol=1.5 / scale)


def test_classes_are_people_animals_and_toys_and_nothing_else():
    network = Boxes(
        (30, 120, 90, 200, PERSON, 0.6), (120, 120, 180, 200, ANIMALS[2], 0.5), (210, 120, 270, 200, TOY, 0.4),
        (300, 120, 360, 200, 56, 0.9), (30, 220, 90, 290, PERSON, 0.1),
    )  # fmt: skip
    found = find_boxes(np.zeros((416, 416, 3), np.uint8), network)
    assert [f.seen for f in found] == ["person", "animal", "toy"], "a chair and a faint person are left away"


def test_the_picture_is_fed_whole_in_its_shape_with_grey_around():
    image = np.full((100, 200, 3), (200, 100, 50), np.uint8)
    fed, scale, left, top = letterbox(image)
    assert (scale, left, top) == (SIDE / 200, 0, (SIDE - 208) // 2)
    rows = fed[0, :, :, 100]
    assert np.allclose(rows[:, 0], rows[:, -1]) and not np.allclose(rows[:, 0], rows[:, SIDE // 2])
    blue, red = (50 - 103.53) / 57.375, (200 - 123.675) / 58.395
    assert rows[0, SIDE // 2] == pytest.approx(blue, abs=0.01) and rows[2, SIDE // 2] == pytest.approx(red, abs=0.01)


def box(x0, y0, x1, y1):
    return np.array([x0, y0, x1, y1], np.float32)


def test_of_boxes_alike_that_overlap_the_surest_stays_held_to_the_frame():
    found = [
        Detected(box(10, 10, 50, 90), 0.4, "person"), Detected(box(12, 12, 52, 92), 0.9, "person"),
        Detected(box(11, 11, 51, 91), 0.5, "animal"), Detected(box(-20, 50, 30, 130), 0.3, "person"),
        Detected(box(60, 60, 63, 63), 0.9, "person"),
    ]  # fmt: skip
    left = kept(found, 100, 100)
    assert [(f.score, f.seen) for f in left] == [(0.9, "person"), (0.5, "animal"), (0.3, "person")]
    assert left[2].box.tolist() == [0, 50, 30, 100]


corner = st.floats(0, 80, width=32)
boxes = st.builds(lambda x, y, w, h: box(x, y, x + w, y + h), corner, corner, st.floats(5, 60), st.floats(5, 60))


@settings(max_examples=examples(80))
@given(boxes, boxes)
def test_reckoning_with_boxes(a, b):
    assert 0 <= iou(a, b) <= 1 + 1e-6 and iou(a, b) == pytest.approx(iou(b, a)) and iou(a, a) == pytest.approx(1)
    assert inside(a, around([a, b])) == pytest.approx(1, abs=1e-4)
    assert iou(a, b) <= min(inside(a, b), inside(b, a)) + 1e-5
    mask = np.zeros((150, 150), np.float32)
    assert fits(mask, a) == 0
    filled = limited(np.ones_like(mask), a, 0)
    assert filled.sum() >= (a[2] - a[0]) * (a[3] - a[1]) * 0.99
    whole = box(*np.floor(a[:2]), *np.ceil(a[2:]))
    assert fits(filled, whole) > 0.5


@settings(max_examples=examples(40))
@given(st.lists(boxes, min_size=1, max_size=8))
def test_groups_of_touching_boxes_share_out_all_of_them(several):
    groups = touching(several)
    assert sorted(k for g in groups for k in g) == list(range(len(several)))
    for one in groups:
        for other in groups:
            if one is not other:
                assert all(iou(several[i], several[j]) == 0 for i in one for j in other)


# --- the subject made of them


H, W = 120, 200


def ellipse(x, y, rx, ry):
    yy, xx = np.mgrid[:H, :W]
    return np.clip((1 - np.hypot((xx - x) / rx, (yy - y) / ry)) * min(rx, ry) / 2 + 0.5, 0, 1).astype(np.float32)


def being(x, y, rx, ry, kind="person", mask=True, score=0.8, sure=True):
    return Being(box(x - rx, y - ry, x + rx, y + ry), score, kind, sure, 0.5, ellipse(x, y, rx, ry) if mask else None)


class Nothing:
    """A network that must not be asked, since everything fits already."""

    def run(self, fed):
        raise AssertionError("nothing should be looked at again")


class Figure:
    """The person network's answer: a disc in the middle of what it is shown."""

    def run(self, fed):
        y, x = np.mgrid[:256, :256]
        return [(np.hypot(x - 128, y - 128) < 90).astype(np.float32)[None, ..., None]]


def picture():
    random = np.random.default_rng(3)
    return random.integers(90, 110, (H, W, 3)).astype(np.uint8)


def overlap(a, b):
    a, b = a > 0.5, b > 0.5
    return (a & b).sum() / max((a | b).sum(), 1)


class Sees:
    """The person network's answer on each box: what of a mask (h, w) lies in the crop that it is shown."""

    def __init__(self, mask):
        self.mask, self.asked = mask, 0

    def run(self, fed):
        self.asked += 1
        return [fed["square"][..., :1] / fed["square"].max()]

    def picture(self):
        """A picture whose own values are what the network sees."""
        return np.rint(np.repeat(self.mask[..., None], 3, 2) * 255).astype(np.uint8)


def test_people_whom_saliency_overlooked_join_the_subject():
    row = [being(30 + 35 * k, 60, 12, 45) for k in range(5)]
    every = np.max([b.mask for b in row], 0)
    network = Sees(every)
    made = with_beings(network.picture(), row, row[2].mask, row[2].mask, [], Nothing(), network)
    subject, masked = made.mask, made.beings
    assert overlap(subject, every) > 0.9 and len(masked) == 5
    assert network.asked == 2 * len(row), "each box is looked at from both sides"


def test_a_part_that_the_pose_network_leaves_out_stays_where_the_others_see_it():
    """As happens to laps, backs and whoever the frame cuts: what it alone does not see is not cut out."""
    true, upper = ellipse(100, 60, 30, 55), ellipse(100, 60, 30, 55)
    upper[60:] = 0
    person = Being(box(70, 5, 130, 115), 0.8, "person", True, 0.5, upper)
    network = Sees(true)
    subject = with_beings(network.picture(), [person], true, true, [], Nothing(), network).mask
    assert overlap(subject, true) > 0.95 and subject[100, 100] > 0.9


def test_one_witness_alone_is_outvoted():
    true, bench = ellipse(60, 60, 25, 50), ellipse(150, 90, 30, 15)
    person = Being(box(30, 5, 185, 115), 0.8, "person", True, 0.5, true)
    network = Sees(true)
    subject = with_beings(
        network.picture(), [person], np.maximum(true, bench), np.maximum(true, bench), [], Nothing(), network
    ).mask
    assert (subject[:, 125:] > 0.5).sum() == 0 and overlap(subject, true) > 0.95


@given(st.floats(0, 1), st.floats(0, 1))
def test_votes_are_spread_about_one_half_and_never_turned_round(a, b):
    low, high = sorted((np.float32(a), np.float32(b)))
    made = levelled(np.array([low, high], np.float32))
    assert 0 <= made[0] <= made[1] <= 1
    assert (made >= 0.5).tolist() == [low >= 0.5, high >= 0.5]


def test_what_lies_away_from_everybody_goes_unless_it_has_a_face():
    one, stray = being(50, 60, 20, 50), ellipse(160, 60, 15, 15)
    base = np.maximum(one.mask, stray)
    network = Sees(base)
    without = with_beings(network.picture(), [one], base, base, [], Nothing(), network).mask
    assert (without[:, 140:] > 0.5).sum() == 0 and overlap(without, one.mask) > 0.9
    face = Face(box=Box(x0=0.78, y0=0.45, x1=0.82, y1=0.55), score=0.9)
    held = with_beings(network.picture(), [one], base, base, [face], Nothing(), network).mask
    assert overlap(held, base) > 0.9


def test_without_anybody_sure_the_subject_is_what_it_was():
    base = ellipse(100, 60, 30, 30)
    unsure = being(100, 60, 30, 30, kind="animal", mask=False, sure=False)
    made = with_beings(picture(), [unsure], base, base, [], Nothing(), Nothing())
    subject, masked = made.mask, made.beings
    assert subject is base and masked[0].mask is not None and overlap(masked[0].mask, base) > 0.95


def test_an_animal_that_saliency_has_whole_keeps_that_mask():
    base = ellipse(100, 60, 60, 45)
    large = being(100, 60, 60, 45, kind="animal", mask=False)
    subject = with_beings(picture(), [large], base, base, [], Nothing(), Figure()).mask
    assert overlap(subject, base) > 0.99


def test_an_animal_half_in_grass_is_completed_by_its_colours():
    image = np.full((H, W, 3), (60, 110, 40), np.uint8)
    animal = ellipse(100, 60, 40, 35) > 0.5
    image[animal] = (190, 160, 120)
    image = np.clip(image + np.random.default_rng(0).normal(0, 6, image.shape), 0, 255).astype(np.uint8)
    head = ellipse(120, 45, 14, 14)
    assert overlap(head, animal) < 0.3
    found = grab_in(image, head, box(60, 25, 140, 95))
    assert overlap(found, animal) > 0.93
    assert grab_in(image, np.zeros_like(head), box(60, 25, 140, 95)).sum() == 0, "nothing sure, nothing found"


# --- objects


def test_every_being_is_an_object_and_the_rest_falls_into_pieces():
    a, b = being(60, 60, 25, 45), being(100, 60, 25, 45)
    stray = ellipse(175, 60, 15, 20)
    mask = np.max([a.mask, b.mask, stray], 0)
    objects, whose = split_objects(mask, [], [reach_of(a), reach_of(b)])
    assert sorted(whose, key=str) == [0, 1, None] and objects.max() == 3
    assert objects[60, 45] == whose.index(0) + 1 and objects[60, 115] == whose.index(1) + 1
    assert objects[60, 175] == whose.index(None) + 1
    assert ((objects > 0) >= (mask > 0.5)).all()


def test_two_faces_in_one_box_are_two_objects():
    """A box can swallow a person that saliency had: the faces tell."""
    one = being(100, 60, 60, 50)
    faces = [Face(box=Box(x0=x - 0.03, y0=0.25, x1=x + 0.03, y1=0.35), score=0.9) for x in (0.38, 0.62)]
    objects, whose = split_objects(one.mask, faces, [reach_of(one)])
    assert whose == [0, 0] and objects[60, 70] != objects[60, 130]


def test_a_being_without_a_mask_can_not_be_reached():
    with pytest.raises(ValueError, match="no mask"):
        reach_of(being(1, 1, 1, 1, mask=False))


# --- pieces with fine borders


def test_borders_of_pieces_lie_on_the_pictures_edges():
    fine = np.zeros((240, 360, 3), np.uint8)
    yy, xx = np.mgrid[:240, :360]
    disc = np.hypot(xx - 171.3, yy - 118.7) < 77.4
    fine[:] = (40, 90, 160)
    fine[disc] = (200, 150, 60)
    small = cv2.resize(fine, (60, 40), interpolation=cv2.INTER_AREA)
    labels = (np.abs(small.astype(int) - (200, 150, 60)).max(-1) < 60).astype(np.int32) + 1
    coarse = cv2.resize(labels.astype(np.uint8), (360, 240), interpolation=cv2.INTER_NEAREST) == 2
    found = enlarged_labels(labels, small, fine) == 2
    assert (found != disc).mean() < 0.25 * (coarse != disc).mean()
    assert set(np.unique(enlarged_labels(np.full((40, 60), 7), small, fine))) == {7}

"""Finding on the demo frames, whose true masks are known, and on pictures where there is nothing to find."""

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lenskeep.core.detect.edges import colour_guided, without_specks
from lenskeep.core.detect.faces import find_faces
from lenskeep.core.detect.find import DETECTOR, find
from lenskeep.core.detect.objects import split_objects
from lenskeep.core.detect.skycolour import completed
from lenskeep.core.facts import COVERS, DOUBTFUL_BELOW, Box, Face
from lenskeep.studio.tasks.find import detectors
from tools.made_up import DEMO, TRUTH, scene
from tools.overlap import boundary_score, intersection_over_union
from tools.spoilt import spoilt

FRAMES = ["LKD_0101", "LKD_0102", "LKD_0107", "LKD_0113", "LKD_0118", "LKD_0127", "LKD_0211", "LKD_0214"]


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
    assert scores["subject"] >= 0.92 and scores["sky"] >= 0.91, scores
    assert found.facts.detector == DETECTOR and (found.facts.height, found.facts.width) == picture(name).shape[:2]
    assert max(found.subject.shape) == 1024 and found.facts.skyline is not None


def test_subject_and_sky_fit_on_the_whole_and_most_frames_are_trusted(on_demo_frames):
    for kind in ("subject", "sky"):
        assert np.mean([scores[kind] for _, scores in on_demo_frames.values()]) > 0.94
    trusted = [found.facts.trust >= DOUBTFUL_BELOW for found, _ in on_demo_frames.values()]
    assert np.mean(trusted) >= 0.6


def test_dogs_are_told_apart_as_animals_and_covers_are_what_they_are(on_demo_frames):
    for name, (found, _) in on_demo_frames.items():
        facts = found.facts
        assert {o.kind for o in facts.objects} == {"animal"}, name
        assert "people" not in facts.areas and facts.area("animals") > 0.04
        assert facts.area("greenery" if name > "LKD_02" else "ground") > 0.1, facts.areas
        total = sum(found.masks[k].astype(int) for k in COVERS if k in found.masks)
        assert total.max() <= 258  # each pixel is shared out among them
    two = on_demo_frames["LKD_0101"][0]
    assert len(two.facts.objects) == 2
    boxes = [o.box for o in two.facts.objects]
    assert min(b.x1 for b in boxes) < max(b.x0 for b in boxes) + 0.05


def test_every_piece_is_on_the_map_and_in_its_box(on_demo_frames):
    found = on_demo_frames["LKD_0101"][0]
    h, w = found.pieces.shape
    assert 8 < len(found.facts.pieces) < 120
    for piece in found.facts.pieces:
        ys, xs = np.nonzero(found.pieces == piece.label)
        assert len(ys) / found.pieces.size == pytest.approx(piece.area, rel=0.3, abs=0.004)
        if piece.is_object:
            continue
        assert piece.box.x0 - 0.02 <= xs.min() / w and xs.max() / w <= piece.box.x1 + 0.02
        assert piece.box.y0 - 0.02 <= ys.min() / h and ys.max() / h <= piece.box.y1 + 0.02
    assert (found.pieces > 0).mean() > 0.9


def test_nothing_that_is_surely_subject_is_sky(on_demo_frames):
    for found, _ in on_demo_frames.values():
        both = np.minimum(found.subject, found.sky).astype(int)
        assert both.max() <= 129


def test_finding_is_repeatable_and_hardly_depends_on_size(networks):
    image = picture("LKD_0113")
    first, again = find(image, networks), find(image, networks)
    assert np.array_equal(first.sky, again.sky) and np.array_equal(first.subject, again.subject)
    smaller = find(cv2.resize(image, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA), networks)
    size = smaller.sky.shape[::-1]
    for kind in ("subject", "sky"):
        reduced = cv2.resize(getattr(first, kind), size, interpolation=cv2.INTER_AREA)
        assert intersection_over_union(getattr(smaller, kind), reduced) > 0.93


def test_one_core_finds_what_two_do(networks):
    image = picture("LKD_0101")
    two, one = find(image, networks), find(image, networks, in_turn=True)
    assert one.facts == two.facts and one.masks.keys() == two.masks.keys()
    assert all(np.array_equal(one.masks[name], mask) for name, mask in two.masks.items())


def test_a_frame_without_sky_has_none(networks):
    image = picture("LKD_0201")
    found = find(np.ascontiguousarray(image[int(0.62 * image.shape[0]) :]), networks)
    assert (found.sky > 127).mean() < 0.02


@pytest.mark.parametrize("name", ["LKD_0102", "LKD_0113"])
def test_dark_and_flat_pictures_full_of_grain_are_found_as_bright_ones_are(networks, name):
    image = cv2.resize(picture(name), (900, 600), interpolation=cv2.INTER_AREA)
    known = {k: cv2.imread(str(TRUTH / f"{name}.{k}.png"), cv2.IMREAD_GRAYSCALE) for k in ("subject", "sky")}
    for how, hard, _ in spoilt(image, {}, 5):
        if how in ("dark and grainy", "flat"):
            found = find(hard, networks)
            scores = {k: intersection_over_union(found.masks[k], m) for k, m in known.items()}
            assert scores["sky"] > 0.85 and scores["subject"] > 0.7, (how, scores)


@pytest.mark.parametrize("shape", [(1, 1), (3, 900), (16, 16), (60, 2000)])
def test_odd_sizes_give_masks_of_their_size(networks, shape):
    found = find(np.full((*shape, 3), 128, np.uint8), networks)
    assert found.sky.shape == found.subject.shape and 0 <= found.facts.trust <= 1
    assert found.facts.trust < 0.8  # nothing there to be sure of


def test_sky_seen_through_gaps_is_found_by_its_colour_and_a_white_wall_is_not():
    """A hedge with holes; the decoder was unsure in them. A white wall that it ruled out stays ruled out."""
    h, w = 240, 360
    y, x = np.mgrid[:h, :w]
    sky = np.array([0.75, 0.85, 1.0], np.float32) * (0.95 - 0.1 * y / h)[..., None].astype(np.float32)
    image = sky.copy()
    probability = np.ones((h, w), np.float32)
    hedge = (y > 110) & ~((x // 18 % 3 == 1) & (y // 16 % 3 == 1))
    image[hedge], probability[hedge] = np.array([0.1, 0.16, 0.05], np.float32), 0.01
    holes = (y > 110) & ~hedge
    probability[holes] = 0.2
    wall = (x > 280) & (y > 150)
    image[wall], probability[wall] = sky[wall], 0.0
    out = completed(image, probability)
    assert out[holes & ~wall].min() > 0.6 and out[hedge & ~wall].max() < 0.1 and out[wall].max() < 0.1
    nothing = np.full((h, w), 0.3, np.float32)
    assert np.array_equal(completed(image, nothing), nothing)


def test_a_face_finders_answer_becomes_a_box_where_it_saw_it():
    """One anchor of the network's grid fires; the box lies where that anchor is, on the frame and on its tile."""

    class OneFace:
        def run(self, fed):
            numbers, raw = np.zeros((1, 48 * 48, 16), np.float32), np.full((1, 48 * 48, 1), -20, np.float32)
            shown = fed["square"][0, ..., 0]
            bright = np.unravel_index(shown.argmax(), (192, 192))
            if shown.max() > 0.9:
                k = (bright[0] // 4) * 48 + bright[1] // 4
                raw[0, k], numbers[0, k, 2:4] = 5, 24
            return [numbers, raw]

    image = np.zeros((300, 450, 3), np.uint8)
    image[80:88, 300:308] = 255
    [face] = find_faces(image, OneFace())
    assert face.box.middle == pytest.approx((304 / 450, 84 / 300), abs=0.03)
    assert find_faces(np.zeros((300, 450, 3), np.uint8), OneFace()) == []


def test_a_group_is_shared_out_among_its_faces_and_specks_join_the_nearest():
    mask = np.zeros((100, 200), np.float32)
    mask[20:90, 40:160] = 1
    mask[5:8, 170:173] = 1
    faces = [Face(box=Box(x0=x - 0.04, y0=0.25, x1=x + 0.04, y1=0.4), score=0.9) for x in (0.3, 0.7)]
    objects = split_objects(mask, faces)[0]
    assert set(np.unique(objects)) == {0, 1, 2}
    assert objects[60, 60] != objects[60, 140] and objects[6, 171] == objects[60, 140]
    assert (objects[:, 45:95] == objects[60, 60])[mask[:, 45:95] > 0].all()


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


def test_the_benchmarks_scores_know_a_fitting_border_from_one_that_is_off():
    truth = np.zeros((512, 768), np.uint8)
    cv2.circle(truth, (380, 250), 150, 255, -1)
    near, far = (cv2.circle(np.zeros_like(truth), (380, 250), r, 255, -1) for r in (151, 158))
    assert boundary_score(truth, truth) == 1.0 and boundary_score(near, truth) > 0.95
    assert boundary_score(far, truth) < 0.1 and intersection_over_union(far, truth) > 0.9
    open_border = np.where(cv2.dilate(truth, np.ones((9, 9))) > cv2.erode(truth, np.ones((9, 9))), 128, truth)
    assert np.isnan(boundary_score(far, open_border.astype(np.uint8)))
